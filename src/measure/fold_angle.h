// The angle at which the two sides of an edge meet.
#pragma once

#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "mesh/mesh.h"

namespace zither::measure {

// Between the half-planes from the line through `from` and `to` that hold a and b, whichever way the sides face, in
// degrees: 180 where they are flat. None of the two lies on the line.
inline double angleBetweenSides(const mesh::Point& from, const mesh::Point& to, const mesh::Point& a,
                                const mesh::Point& b) {
    const mesh::Point along = (to - from).normalized();
    // Across the edge, into each side.
    const auto into = [&](const mesh::Point& corner) {
        const mesh::Point p = corner - from;
        return mesh::Point(p - p.dot(along) * along);
    };
    const mesh::Point u = into(a);
    const mesh::Point v = into(b);
    return std::atan2(u.cross(v).norm(), u.dot(v)) * 180 / std::numbers::pi;
}

}  // namespace zither::measure
