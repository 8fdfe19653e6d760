// The creased patch: one crease of the surface is carried on through the hole, and either side closed for itself.
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <optional>

#include "holes/patches.h"
#include "holes/rims.h"

namespace zither::holes {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

// Cosine of 35 degrees: triangles that turn more meet in a crease.
constexpr double creaseCosine = 0.82;

Point normalOf(const Mesh& m, TriangleId t) {
    const Point n = mesh::areaVector(m, t);
    return n.norm() > 0 ? Point(n.normalized()) : Point(Point::Zero());
}

// The vertex at the other end of the sharpest crease at v, but for `not`; none where there is no crease.
std::optional<VertexId> creaseFrom(const Surrounding& s, VertexId v, std::optional<VertexId> without) {
    std::optional<VertexId> best;
    double sharpest = creaseCosine;
    const auto around = s.corners.at(v);
    for (const mesh::HalfEdge a : around)
        for (const mesh::HalfEdge b : around) {
            // The edge that the one ends with and the other begins with.
            const VertexId w = mesh::toVertex(s.mesh, a);
            if (mesh::oppositeVertex(s.mesh, b) != w || w == without) continue;
            const double cosine = normalOf(s.mesh, mesh::triangleOf(a)).dot(normalOf(s.mesh, mesh::triangleOf(b)));
            if (cosine >= sharpest) continue;
            sharpest = cosine;
            best = w;
        }
    return best;
}

// Where the crease that ends at v goes on to. Of two edges the turn between them goes on by half.
std::optional<Point> tangentAt(const Surrounding& s, VertexId v) {
    const auto last = creaseFrom(s, v, std::nullopt);
    if (!last) return std::nullopt;
    const auto& at = s.mesh.positions;
    const Point along = (at[v] - at[*last]).normalized();
    const auto before = creaseFrom(s, *last, v);
    if (!before) return along;
    const Point earlier = (at[*last] - at[*before]).normalized();
    // Where it turns much it is no curve.
    constexpr double steady = 0.8;
    if (along.dot(earlier) < steady) return along;
    return Point((along + 0.5 * (along - earlier)).normalized());
}

// From a to b, leaving along `out` and arriving along `in`: a cubic that is next to a circle where the two fit one
// (handles after Riškus 2006), so many points between the ends.
std::vector<Point> curve(const Point& a, const Point& out, const Point& b, const Point& in, std::size_t between) {
    const double chord = (b - a).norm();
    const double turn = std::acos(std::clamp(out.dot(in), -1.0, 1.0));
    const double handle = turn > 1e-6 ? 4.0 / 3 * std::tan(turn / 4) * chord / (2 * std::sin(turn / 2)) : chord / 3;
    const Point p = a + handle * out;
    const Point q = b - handle * in;
    std::vector<Point> points;
    for (std::size_t i = 1; i <= between; ++i) {
        const double t = static_cast<double>(i) / static_cast<double>(between + 1);
        const double u = 1 - t;
        points.push_back(u * u * u * a + 3 * u * u * t * p + 3 * u * t * t * q + t * t * t * b);
    }
    return points;
}

// The places of the rim at which what lies beyond it turns; none where something there has no direction.
std::vector<std::size_t> turnsOf(const Loop& loop) {
    const std::size_t n = loop.vertices.size();
    std::vector<std::size_t> turns;
    for (std::size_t i = 0; i < n; ++i) {
        const Point& before = loop.rimNormals[(i + n - 1) % n];
        if (before.isZero()) return {};
        if (before.dot(loop.rimNormals[i]) < creaseCosine) turns.push_back(i);
    }
    return turns;
}

}  // namespace

bool meetsFaces(const Loop& loop) {
    const std::size_t turns = turnsOf(loop).size();
    return turns == 2 || turns == 3;
}

mesh::Outcome<Patch> creasedPatch(const Surrounding& s, const Loop& loop, mesh::Progress& progress) {
    const std::vector<Point>& positions = s.mesh.positions;
    const std::size_t n = loop.vertices.size();
    const std::vector<std::size_t> turns = turnsOf(loop);
    // Beside each other they would leave a side nothing.
    if (turns.size() != 2 || turns[1] - turns[0] < 2 || turns[0] + n - turns[1] < 2) return Patch();
    const VertexId a = loop.vertices[turns[0]];
    const VertexId b = loop.vertices[turns[1]];
    const auto out = tangentAt(s, a);
    const auto in = tangentAt(s, b);
    const Point chord = positions[b] - positions[a];
    if (!out || !in || out->dot(chord) <= 0 || in->dot(chord) >= 0) return Patch();
    double length = 0;
    for (std::size_t i = 0; i < n; ++i)
        length += (positions[loop.vertices[(i + 1) % n]] - positions[loop.vertices[i]]).norm();
    const auto between =
        static_cast<std::size_t>(std::max(0.0, std::round(chord.norm() * static_cast<double>(n) / length) - 1));
    const std::vector<Point> crease = curve(positions[a], *out, positions[b], -*in, between);

    Patch patch;
    patch.added = crease;
    const std::size_t shift = positions.size();
    for (int side = 0; side < 2; ++side) {
        // The rim of a side, then the crease back to where it begins.
        const std::size_t first = turns[static_cast<std::size_t>(side)];
        const std::size_t count = side == 0 ? turns[1] - turns[0] : turns[0] + n - turns[1];
        std::vector<Point> local;
        std::vector<VertexId> names;
        Loop part;
        const auto add = [&](const Point& p, VertexId name, const Point& normal) {
            part.vertices.push_back(static_cast<VertexId>(local.size()));
            part.rimNormals.push_back(normal);
            local.push_back(p);
            names.push_back(name);
        };
        Point sum = Point::Zero();
        for (std::size_t i = first; i < first + count; ++i) {
            const VertexId v = loop.vertices[i % n];
            add(positions[v], v, loop.rimNormals[i % n]);
            sum += loop.rimNormals[i % n];
        }
        const Point begins = loop.rimNormals[first];
        const Point ends = loop.rimNormals[(first + count - 1) % n];
        const VertexId last = loop.vertices[(first + count) % n];
        for (std::size_t i = 0; i <= between; ++i) {
            const double share = (static_cast<double>(i) + 0.5) / static_cast<double>(between + 1);
            const Point normal = ((1 - share) * ends + share * begins).normalized();
            // The first side comes to b and goes back to a, the second the other way.
            const std::size_t k = side == 0 ? between - i : i - 1;
            if (i == 0)
                add(positions[last], last, normal);
            else
                add(crease[k], static_cast<VertexId>(shift + k), normal);
        }
        const RimShape shape = shapeOf(local, part.rimNormals);
        Patch half;
        if (shape.flat()) half = flatPatch(local, std::span(&part, 1), sum);
        if (half.triangles.empty()) {
            const auto free = [](VertexId, VertexId) { return false; };
            auto taut = tautPatch(local, part, {free}, progress);
            if (!taut) return taut;
            half = std::move(*taut);
        }
        if (half.triangles.empty()) return Patch();
        const std::size_t own = shift + patch.added.size();
        for (mesh::Triangle t : half.triangles) {
            for (VertexId& v : t) v = v < local.size() ? names[v] : static_cast<VertexId>(own + (v - local.size()));
            patch.triangles.push_back(t);
        }
        patch.added.insert(patch.added.end(), half.added.begin(), half.added.end());
    }
    return patch;
}

}  // namespace zither::holes
