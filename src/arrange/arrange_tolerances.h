// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

namespace zither::tolerance {

// Groups of triangles beyond twice their radius count as one: the winding number is compared with a half only. Of the
// skin around open surfaces as well.
inline constexpr double skinFarAway = 2;

// Of a winding number: a half is rounded down, so that what lies on both sides alike is outside.
inline constexpr double windingTie = 1e-9;
// Of the largest coordinate: points in cells this wide are compared exactly. Far above the error of approximations
// (2^-51), far below what lies apart.
inline constexpr double equalPointsCell = 0x1p-40;

}  // namespace zither::tolerance
