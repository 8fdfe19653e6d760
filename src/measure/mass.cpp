// Sums over fixed blocks, so that they do not depend on the number of threads.
#include "measure/mass.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "measure/by_corners.h"
#include "mesh/parallel.h"

namespace zither::measure {

using mesh::Point;
using mesh::TriangleId;

Mass massOf(const Mesh& m) {
    Mass mass;
    mass.size = mesh::boxOf(m);
    const Point centre = mass.size.centre();
    struct Sums {
        double area = 0;
        double volume = 0;
    };
    const Sums sums = mesh::parallelBlocks(
        m.triangles.size(), Sums{},
        [&](std::size_t begin, std::size_t end) {
            Sums s;
            for (auto t = static_cast<TriangleId>(begin); t < end; ++t) {
                const Point a = m.corner(t, 0) - centre;
                const Point n = mesh::areaVector(m, t);
                s.area += n.norm();
                s.volume += a.dot(n);
            }
            return s;
        },
        [](Sums a, Sums b) {
            return Sums{a.area + b.area, a.volume + b.volume};
        });
    mass.area = sums.area / 2;
    mass.volume = sums.volume / 6;
    return mass;
}

EdgeLength edgeLengthOf(const Mesh& m, const mesh::Edges& edges) {
    struct Sums {
        double min = std::numeric_limits<double>::infinity();
        double sum = 0;
        double max = 0;
    };
    if (edges.count() == 0) return {};
    const Sums sums = mesh::parallelBlocks(
        edges.count(), Sums{},
        [&](std::size_t begin, std::size_t end) {
            Sums s;
            for (auto e = static_cast<mesh::EdgeId>(begin); e < end; ++e) {
                const mesh::HalfEdge h = edges.around(e)[0];
                const double length = (m.positions[fromVertex(m, h)] - m.positions[toVertex(m, h)]).norm();
                s.min = std::min(s.min, length);
                s.max = std::max(s.max, length);
                s.sum += length;
            }
            return s;
        },
        [](Sums a, Sums b) {
            return Sums{std::min(a.min, b.min), a.sum + b.sum, std::max(a.max, b.max)};
        });
    return {sums.min, sums.sum / static_cast<double>(edges.count()), sums.max};
}

double leastHeight(const Mesh& m, TriangleId t) {
    return leastHeight(m.corner(t, 0), m.corner(t, 1), m.corner(t, 2));
}

double leastHeight(const Point& a, const Point& b, const Point& c) {
    const Point ab = b - a;
    const Point bc = c - b;
    const Point ca = a - c;
    // Of two edges the shorter ones hold the angle best: their product is nearest to the area.
    const Point twiceArea = ab.squaredNorm() >= std::max(bc.squaredNorm(), ca.squaredNorm()) ? bc.cross(ca)
                            : bc.squaredNorm() >= ca.squaredNorm()                           ? ca.cross(ab)
                                                                                             : ab.cross(bc);
    const double longest = std::sqrt(std::max({ab.squaredNorm(), bc.squaredNorm(), ca.squaredNorm()}));
    return longest > 0 ? twiceArea.norm() / longest : 0;
}

double smallestAngleDeg(const Mesh& m, TriangleId t) {
    // The smallest angle lies opposite the shortest edge.
    const Point& a = m.corner(t, 0);
    const Point& b = m.corner(t, 1);
    const Point& c = m.corner(t, 2);
    const Point ab = b - a;
    const Point bc = c - b;
    const Point ca = a - c;
    const double twiceArea = ab.cross(-ca).norm();
    const double lab = ab.squaredNorm();
    const double lbc = bc.squaredNorm();
    const double lca = ca.squaredNorm();
    double dot = 0;
    if (lab <= lbc && lab <= lca)
        dot = -bc.dot(ca);
    else if (lbc <= lca)
        dot = -ca.dot(ab);
    else
        dot = -ab.dot(bc);
    if (twiceArea == 0) return 0;
    return std::atan2(twiceArea, dot) * (180.0 / std::numbers::pi);
}

Kept keptOf(const Mesh& a, const Mesh& b) {
    Kept kept;
    kept.of.assign(a.triangles.size(), 0);
    kept.in.assign(b.triangles.size(), 0);
    if (a.triangles.empty()) return kept;
    std::size_t count = 0;
    ByCorners(b, mesh::Precision::Double).match(a, [&](TriangleId t, TriangleId same) {
        if (kept.in[same]) return false;
        kept.of[t] = kept.in[same] = 1;
        ++count;
        return true;
    });
    kept.share = static_cast<double>(count) / static_cast<double>(a.triangles.size());
    return kept;
}

}  // namespace zither::measure
