// One flood from the picked triangles, with another rule for each kind of region.
#include "mesh/pick_growth.h"

#include <cmath>
#include <numbers>

namespace zither::mesh {
namespace {

Point normalOf(const Mesh& m, TriangleId t) {
    const Point across = areaVector(m, t);
    const double length = across.norm();
    return length > 0 ? Point(across / length) : Point(Point::Zero());
}

double cosOf(double degrees) {
    return std::cos(degrees * std::numbers::pi / 180);
}

// `takes(from, to)`: the region goes on across their edge.
template <class Takes>
Pick flooded(const Mesh& m, const Edges& edges, const Pick& pick, const Takes& takes) {
    std::vector<std::uint8_t> in = pick.mask(m);
    std::vector<TriangleId> front = pick.triangles();
    while (!front.empty()) {
        const TriangleId t = front.back();
        front.pop_back();
        if (t >= m.triangles.size() || isCollapsed(m.triangles[t])) continue;
        for (unsigned k = 0; k < 3; ++k) {
            const HalfEdge other = edges.twin(HalfEdge(3 * t + k));
            if (other == noEdge) continue;
            const TriangleId next = triangleOf(other);
            if (in[next] || !takes(t, next)) continue;
            in[next] = 1;
            front.push_back(next);
        }
    }
    std::vector<TriangleId> all;
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if (in[t]) all.push_back(t);
    return Pick(std::move(all));
}

}  // namespace

Pick flatAround(const Mesh& m, const Edges& edges, const Pick& pick, double degrees) {
    if (pick.everything()) return pick;
    Point sum = Point::Zero();
    for (const TriangleId t : pick.triangles())
        if (t < m.triangles.size()) sum += areaVector(m, t);
    if (!(sum.norm() > 0)) return pick;
    const Point facing = sum.normalized();
    const double least = cosOf(degrees);
    return flooded(m, edges, pick, [&](TriangleId, TriangleId next) { return normalOf(m, next).dot(facing) >= least; });
}

Pick smoothAround(const Mesh& m, const Edges& edges, const Pick& pick, double degrees) {
    if (pick.everything()) return pick;
    const double least = cosOf(degrees);
    return flooded(m, edges, pick, [&](TriangleId from, TriangleId next) {
        const Point a = normalOf(m, from);
        const Point b = normalOf(m, next);
        // What has no normal bends nowhere.
        return a.isZero() || b.isZero() || a.dot(b) >= least;
    });
}

Pick inverted(const Mesh& m, const Pick& pick) {
    std::vector<TriangleId> rest;
    const std::vector<std::uint8_t> in = pick.mask(m);
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if (!in[t]) rest.push_back(t);
    return Pick(std::move(rest));
}

}  // namespace zither::mesh
