// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

namespace zither::tolerance {

// Of half the diagonal: a ray begins so far before its point that rounding to 32 bits leaves nothing out that lies
// ahead.
inline constexpr double rayBefore = 1e-6;

// Relative to the product of three distances: a point lies in the plane of a triangle, where its solid angle jumps.
inline constexpr double inPlane = 1e-14;

}  // namespace zither::tolerance
