// How steep a surface is towards a build direction.
#pragma once

#include <algorithm>
#include <cmath>
#include <numbers>

#include "mesh/mesh.h"

namespace zither::measure {

// The angle between the plane of a triangle that faces down and the plane across `up` (of length 1), in degrees: 0 for
// a ceiling, below 90. 90 for a triangle that does not face down, or has no area.
inline double slopeDeg(const mesh::Mesh& m, mesh::TriangleId t, const mesh::Point& up) {
    const mesh::Point normal = mesh::areaVector(m, t);
    const double length = normal.norm();
    if (!(length > 0) || !(normal.dot(up) < 0)) return 90;
    return std::acos(std::clamp(-normal.dot(up) / length, 0.0, 1.0)) * 180 / std::numbers::pi;
}

}  // namespace zither::measure
