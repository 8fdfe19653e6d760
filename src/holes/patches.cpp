// What can be said of a patch whichever way it was made.
#include "holes/patches.h"

#include <Eigen/Geometry>

namespace zither::holes {

using mesh::Point;

std::array<Point, 3> cornersOf(const Patch& patch, const mesh::Triangle& t, const std::vector<Point>& positions) {
    std::array<Point, 3> corners;
    for (unsigned k = 0; k < 3; ++k)
        corners[k] = t[k] < positions.size() ? positions[t[k]] : patch.added[t[k] - positions.size()];
    return corners;
}

double areaOf(const Patch& patch, const std::vector<Point>& positions) {
    double area = 0;
    for (const mesh::Triangle& t : patch.triangles) {
        const auto [a, b, c] = cornersOf(patch, t, positions);
        area += 0.5 * (b - a).cross(c - a).norm();
    }
    return area;
}

}  // namespace zither::holes
