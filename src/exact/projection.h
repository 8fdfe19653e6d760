// A triangle seen along a coordinate axis in which it does not become a line.
#pragma once

#include <array>

#include "exact/predicates.h"

namespace zither::exact {

using Corner3 = std::array<const Point3*, 3>;

// Sign as orient3d: 1 where p lies below the triangle's plane, opposite to its normal.
inline int sideOf(const Corner3& plane, const Point3& p) {
    return orient3d(*plane[0], *plane[1], *plane[2], p);
}

// The coordinate to drop, and the turn (1 or -1, as orient2dDropping) of the triangle in the plane that is left; a turn
// of 0 only for a degenerate triangle.
struct Projection {
    int axis = 0;
    int turn = 0;
};
Projection projectionOf(const Corner3& triangle);

// p, in the plane of the triangle, lies in it or on its rim.
bool inTriangleInPlane(const Projection& projection, const Point3& p, const Corner3& triangle);

}  // namespace zither::exact
