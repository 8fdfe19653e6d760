// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

namespace zither::tolerance {

// In the square of the part's unit: of a shorter normal the squares that its length is made of would underflow.
inline constexpr double shortestNormal = 1e-140;

// Of half the diagonal: a ray begins so far before its point that rounding to 32 bits leaves nothing out that lies
// ahead.
inline constexpr double rayBefore = 1e-6;

// Relative to the product of three distances: a point lies in the plane of a triangle, where its solid angle jumps.
inline constexpr double inPlane = 1e-14;

}  // namespace zither::tolerance
