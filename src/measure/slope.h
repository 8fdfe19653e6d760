// How steep a surface is towards a build direction.
#pragma once

#include "mesh/mesh.h"

namespace zither::measure {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

// The angle between the plane of a triangle that faces down and the plane across `up` (of length 1), in degrees: 0 for
// a ceiling, below 90. 90 for a triangle that does not face down, or has no area.
double slopeDeg(const Mesh& m, TriangleId t, const Point& up);

// What hangs over: the slope is below the limit, and it does not stand on the floor (definitions.md, Slope).
class Overhangs {
public:
    // `up`: of length 1.
    Overhangs(const Mesh& m, const Point& up, double limitDeg);

    [[nodiscard]] bool has(TriangleId t) const;

private:
    const Mesh& m_;
    Point up_;
    double limitDeg_;
    double floor_ = 0;
};

}  // namespace zither::measure
