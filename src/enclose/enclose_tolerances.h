// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

namespace zither::tolerance {

// A ray counts if it passes every edge, and parts every two surfaces, by more than this share of the diagonal: far
// above the error of constructed points.
inline constexpr double rayMargin = 1e-11;
// Price of a patch against the given surface's evidence, a unit of area: closing what is open must be worth it, but a
// wrong side of the same area costs more.
inline constexpr double patchPrice = 0.3;
// Price of the given surface: of two ways that the evidence likes alike, that with less surface.
inline constexpr double surfacePrice = 0.01;
// Where bodies in one group are inside out and others are not, by more than this share, its direction says nothing.
inline constexpr double mixedFacing = 0.1;
// Of a piece of surface: patches over its rims that lie on it over more than this make it a sheet. Above the hairs of
// cracks, whose patches lie within rounding of it.
inline constexpr double doubledShare = 1e-2;
// Of the surface: small sheets that hang on the skin may go, all together, where others stay; half of what may be lost.
inline constexpr double overhangShare = 1e-3;
// Of the skin's area: a pocket between surfaces that pass through each other in an open body has less around it.
inline constexpr double pocketShare = 1e-2;
// Of the diagonal: cells thinner than this count less and less. A few times what 32 bits hold of a coordinate.
inline constexpr double thinCell = 4e-7;

// Sine between a ray and a plane that it is said to pass through: flatter ones are decided by another ray.
inline constexpr double raySteepest = 1e-3;
// In radians: an angle without size still counts a little, so that a vertex among needles has a normal.
inline constexpr double leastAngle = 1e-6;

}  // namespace zither::tolerance
