// Points in a triangular grid.
#include "measure/stray.h"

#include <algorithm>
#include <cmath>

namespace zither::measure {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

double strayArea(const Mesh& m, TriangleId t, const space::TriangleTree& tree, double tolerance, bool facing) {
    const Point& a = m.corner(t, 0);
    const Point u = m.corner(t, 1) - a;
    const Point v = m.corner(t, 2) - a;
    const Mesh& other = tree.surface();
    const auto faces = [&](TriangleId o) { return mesh::areaVector(other, o).dot(u.cross(v)) >= 0; };
    const auto isStray = [&](const Point& at) {
        const auto nearest = tree.nearest(at, tolerance);
        if (!nearest) return true;
        if (!facing || faces(nearest->triangle)) return false;
        mesh::Box around;
        around.add(at - Point::Constant(tolerance));
        around.add(at + Point::Constant(tolerance));
        bool found = false;
        tree.overlapping(around, [&](TriangleId o) {
            if (found || !faces(o)) return;
            const Point p = space::nearestOnTriangle(at, other.corner(o, 0), other.corner(o, 1), other.corner(o, 2));
            found = (p - at).norm() <= tolerance;
        });
        return !found;
    };
    constexpr double mostParts = 8;
    const double parts = std::clamp(std::ceil(std::max(u.norm(), v.norm()) / (4 * tolerance)), 1.0, mostParts);
    double stray = 0;
    double count = 0;
    for (double i = 0; i < parts; ++i)
        for (double j = 0; i + j < parts; ++j) {
            ++count;
            stray += isStray(a + (i + 1.0 / 3) / parts * u + (j + 1.0 / 3) / parts * v);
        }
    return 0.5 * u.cross(v).norm() * stray / count;
}

}  // namespace zither::measure
