// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

namespace zither::tolerance {

// Fill: fold angle (cosine) between neighbours above which area decides; a patch is said to fold beyond 120 degrees.
inline constexpr double foldCosine = -0.5;

// ---- openings

// Round: length squared over 4 pi times the area, of which a circle has 1 (definitions.md: within 5 % of a circle).
inline constexpr double openingRound = 1.05;
// In one plane: of the rim's size (definitions.md).
inline constexpr double openingFlat = 0.01;
// Sine of a turn the other way that a convex rim may make: below what coordinates of a file hold of an angle.
inline constexpr double rimStraight = 1e-3;
// An opening above this share of the part is more likely meant than torn.
inline constexpr double openingLargeShare = 0.2;

// ---- which patch suits a rim

// A surface that is so many times as large as what closes it is no sheet, and says how it goes on.
inline constexpr double surfaceToOpening = 4;

// Rims nearer to their plane are closed in it; the surface beyond stands on it nearly upright, or goes on nearly in it.
inline constexpr double rimUpright = 0.35;
inline constexpr double rimGoesOn = 0.998;
// Triangles beyond the rim that change direction more than this (mean cosine) say nothing of a curvature.
inline constexpr double rimSteady = 0.8;

// ---- weights of a taut patch

// as a fold: worse than any real one
inline constexpr double tautForbidden = 10;
// a triangle without area: only where there is no other way
inline constexpr double tautDegenerate = 5;

// ---- lengths that nobody sees, and ties

// In radians: four corners on a circle are swapped neither way.
inline constexpr double delaunayTie = 1e-9;
// Relative to the diagonal of the patch: vertices that move less than this have come to rest.
inline constexpr double smoothAtRest = 1e-3;

}  // namespace zither::tolerance
