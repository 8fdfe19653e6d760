// Points in a triangular grid.
#include "measure/stray.h"

#include <algorithm>
#include <cmath>

namespace zither::measure {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

double strayArea(const Mesh& m, TriangleId t, const space::TriangleTree& tree, double tolerance) {
    const Point& a = m.corner(t, 0);
    const Point u = m.corner(t, 1) - a;
    const Point v = m.corner(t, 2) - a;
    constexpr double mostParts = 8;
    const double parts = std::clamp(std::ceil(std::max(u.norm(), v.norm()) / (4 * tolerance)), 1.0, mostParts);
    double stray = 0;
    double count = 0;
    for (double i = 0; i < parts; ++i)
        for (double j = 0; i + j < parts; ++j) {
            ++count;
            stray += !tree.nearest(a + (i + 1.0 / 3) / parts * u + (j + 1.0 / 3) / parts * v, tolerance);
        }
    return 0.5 * u.cross(v).norm() * stray / count;
}

}  // namespace zither::measure
