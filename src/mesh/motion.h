// A motion of a whole part that keeps its shape: turned, mirrored, scaled alike in all directions, moved.
#pragma once

#include <Eigen/Core>

#include "mesh/mesh.h"
#include "mesh/precision.h"

namespace zither::mesh {

struct Motion {
    // A rotation or reflection times a scale above 0.
    Eigen::Matrix3d linear = Eigen::Matrix3d::Identity();
    Point shift = Point::Zero();  // after it, in the unit that comes out
    Precision precision = Precision::Double;

    // Where a point comes to stand, before it is rounded.
    [[nodiscard]] Point of(const Point& p) const;
    [[nodiscard]] double scale() const;                        // length after over length before
    [[nodiscard]] bool mirrors() const;                        // left becomes right
    [[nodiscard]] bool isStill() const;                        // nothing moves
    [[nodiscard]] Point turned(const Point& direction) const;  // of length 1 as before
};

// First one, then the other, rounded as the other says.
Motion then(const Motion& first, const Motion& second);

// Every vertex where the motion brings it, rounded to its precision; triangles and vertices keep their numbers, and
// outside stays outside. Coordinates beyond what the precision holds become infinite.
Mesh moved(const Mesh& m, const Motion& motion);

}  // namespace zither::mesh
