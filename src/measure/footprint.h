// What a part covers of the floor, and how it has to be turned to fit on it.
#pragma once

#include <optional>
#include <vector>

#include "mesh/mesh.h"

namespace zither::measure {

using Flat = Eigen::Vector2d;

// The corners of the convex hull of points in a plane, counter-clockwise (Andrew 1979). O(n log n); fewer than three
// where they lie on a line.
std::vector<Flat> convexHull(std::vector<Flat> points);
// The hull of a part seen from above, once it is turned by a rotation.
std::vector<Flat> footprintOf(const mesh::Mesh& m, const Eigen::Matrix3d& upright);
bool isWithin(const std::vector<Flat>& hull, const Flat& p);

// By which angle, counter-clockwise, a hull has to be turned to lie in a rectangle: 0 where it fits as it is, else a
// right angle where that does, else the one with most room. None: it fits at no angle.
std::optional<double> turnToFit(const std::vector<Flat>& hull, double width, double depth);

}  // namespace zither::measure
