// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

namespace zither::tolerance {

// In degrees: what is made has no smaller angle, unless given edges force it.
inline constexpr double fitAngleDeg = 0.5;
// Of the diagonal: what cutting makes lies on a grid no wider than this, which 32 bits hold of a coordinate. Points
// that crowd together become one, and nothing is made too fine for a file.
inline constexpr double madeGrid = 0x1p-23;
// Of a surface's area: a patch over a spot that rounding does not hold may lose or add this much of what can be seen.
inline constexpr double strayShare = 1e-4;
// The same, of all spots together.
inline constexpr double straySum = 5e-4;
// Of the diagonal: what touches is parted by a few of these at least, where a file's own units are finer still. Pulled
// apart by less, it could not be told from rounding.
inline constexpr double partingLength = 2.5e-9;

// Of the diagonal: triangles and gaps that a mesher gets are no narrower. Twice what it takes for nothing, so that
// rounding leaves a margin; and so many units of the last place, where these are more.
inline constexpr double easedLength = 2e-6;
inline constexpr double easedUnits = 4;

// How far copies are moved, in units of the last place: enough that rounding does not bring them together again.
inline constexpr double partingUnits = 4;

// Relative to 1, the sum of unit vectors: a shorter one has no direction.
inline constexpr double noDirection = 1e-9;
// A patch whose rim is this share of its border or more hangs on an edge, and is not a surface with a hole in it.
inline constexpr double finRimShare = 0.3;

}  // namespace zither::tolerance
