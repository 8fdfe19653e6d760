// Three exact orientations a triangle, then comparisons: seen along an axis from which all of a closed fan turns the
// same way, its sectors go around the vertex a whole number of times, which is how many of them hold any one ray.
#include "check/simple_fans.h"

#include <array>

#include "exact/predicates.h"
#include "mesh/parallel.h"

namespace zither::check {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::VertexId;

// How a triangle turns, seen along each axis.
using Turns = std::array<std::int8_t, 3>;

bool closed(const Mesh& m, std::span<const HalfEdge> fan) {
    constexpr std::size_t fewest = 3;
    return fan.size() >= fewest && mesh::goAroundOnce(
                                       fan.size(), [&](std::size_t i) { return toVertex(m, fan[i]); },
                                       [&](std::size_t i) { return oppositeVertex(m, fan[i]); });
}

// The sector from p to q, which turns to the left by less than half, holds the ray that goes right from v: as of p, up
// to but without q.
bool holdsRay(const Point& v, const Point& p, const Point& q, int right, int up) {
    return (p[up] < v[up] || (p[up] == v[up] && p[right] > v[right])) && q[up] > v[up];
}

bool goesAroundOnce(const Mesh& m, std::span<const HalfEdge> fan, const std::vector<Turns>& turns) {
    for (int axis = 0; axis < 3; ++axis) {
        const int turn = turns[mesh::triangleOf(fan[0])][static_cast<std::size_t>(axis)];
        if (turn == 0) continue;
        const int right = (axis + 1) % 3;
        const int up = (axis + 2) % 3;
        std::size_t holding = 0;
        bool alike = true;
        for (const HalfEdge h : fan) {
            alike = alike && turns[mesh::triangleOf(h)][static_cast<std::size_t>(axis)] == turn;
            const Point& v = m.positions[fromVertex(m, h)];
            const Point& next = m.positions[toVertex(m, h)];
            const Point& last = m.positions[oppositeVertex(m, h)];
            holding += turn > 0 ? holdsRay(v, next, last, right, up) : holdsRay(v, last, next, right, up);
        }
        if (alike && holding == 1) return true;
    }
    return false;
}

}  // namespace

std::vector<std::uint8_t> simpleFans(const Mesh& m, const mesh::Corners& corners) {
    std::vector<Turns> turns(m.triangles.size());
    mesh::parallelFor(turns.size(), 4096, [&](std::size_t i) {
        const auto t = static_cast<mesh::TriangleId>(i);
        for (int axis = 0; axis < 3; ++axis)
            turns[i][static_cast<std::size_t>(axis)] =
                static_cast<std::int8_t>(exact::orient2dDropping(axis, m.corner(t, 0), m.corner(t, 1), m.corner(t, 2)));
    });
    std::vector<std::uint8_t> simple(m.positions.size(), 0);
    mesh::parallelFor(simple.size(), 4096, [&](std::size_t i) {
        const auto fan = corners.at(static_cast<VertexId>(i));
        simple[i] = !fan.empty() && goesAroundOnce(m, fan, turns) && closed(m, fan);
    });
    return simple;
}

}  // namespace zither::check
