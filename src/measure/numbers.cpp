// One pass over triangles, one over edges.
#include "measure/numbers.h"

#include <algorithm>

namespace zither::measure {

using mesh::HalfEdge;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

std::optional<Point> centreOfMass(const Mesh& m) {
    const Point middle = mesh::boxOf(m).centre();
    Point sum = Point::Zero();
    double volume = 0;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        const Point a = m.corner(t, 0) - middle;
        const Point b = m.corner(t, 1) - middle;
        const Point c = m.corner(t, 2) - middle;
        const double v = a.dot(b.cross(c));
        sum += v * (a + b + c) / 4;
        volume += v;
    }
    if (volume == 0) return std::nullopt;
    return middle + sum / volume;
}

std::ptrdiff_t eulerOf(const Mesh& m, const mesh::Edges& edges) {
    std::vector<std::uint8_t> used(m.positions.size(), 0);
    std::ptrdiff_t faces = 0;
    for (const mesh::Triangle& t : m.triangles) {
        if (mesh::isCollapsed(t)) continue;
        ++faces;
        for (VertexId v : t) used[v] = 1;
    }
    return std::count(used.begin(), used.end(), 1) - static_cast<std::ptrdiff_t>(edges.count()) + faces;
}

Numbers numbersOf(const Mesh& m, const mesh::Edges& edges, const mesh::Pick& pick) {
    Numbers n;
    const std::vector<std::uint8_t> chosen = pick.mask(m);
    std::vector<std::uint8_t> used(m.positions.size(), 0);
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        if (!chosen[t]) continue;
        ++n.triangles;
        n.box.add(mesh::boxOf(m, t));
        const double area = 0.5 * mesh::areaVector(m, t).norm();
        n.area += area;
        n.centreOfArea += area * mesh::centroid(m, t);
        for (VertexId v : m.triangles[t])
            if (!used[v]) {
                used[v] = 1;
                ++n.vertices;
            }
    }
    if (n.area > 0) n.centreOfArea /= n.area;
    bool open = false;
    double total = 0;
    std::size_t count = 0;
    for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
        const auto around = edges.around(e);
        std::size_t inside = 0;
        for (const HalfEdge h : around) inside += chosen[mesh::triangleOf(h)];
        if (inside == 0) continue;
        const HalfEdge h = around.front();
        const double length = (m.positions[mesh::toVertex(m, h)] - m.positions[mesh::fromVertex(m, h)]).norm();
        n.edges.min = count == 0 ? length : std::min(n.edges.min, length);
        n.edges.max = std::max(n.edges.max, length);
        total += length;
        ++count;
        open |= around.size() == 1;
        if (around.size() == 1 || inside < around.size()) n.borderLength += length;
    }
    if (count > 0) n.edges.mean = total / static_cast<double>(count);
    if (pick.everything() && !open && n.triangles > 0) {
        n.volume = massOf(m).volume;
        n.centreOfMass = centreOfMass(m);
    }
    n.quality = qualityOf(m, edges, chosen);
    return n;
}

}  // namespace zither::measure
