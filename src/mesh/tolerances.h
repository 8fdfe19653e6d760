// Every tolerance of the program, each with what it is relative to and why it has its size. What can be decided
// exactly has no tolerance and is not here.
#pragma once

namespace zither::tolerance {

// Deviation search stops when the proven bound is this close to the largest distance found. Relative to the diagonal
// of both surfaces' box: far below any tolerance a drawing asks for, far above rounding (1e-16).
inline constexpr double deviationRelative = 1e-5;
// ... or relative to the distance found itself: a fiftieth is less than any limit is chosen to.
inline constexpr double deviationOfValue = 2e-2;

// Decimation: weight of the planes that hold borders in place, relative to the quadric of the surface itself
// (Garland & Heckbert 1998 use a large penalty; at 100 a border moves a tenth as far as the surface does).
inline constexpr double borderWeight = 100.0;
// Decimation: a collapse may turn no triangle further than this cosine (about 75 degrees): beyond it surfaces fold.
inline constexpr double flipCosine = 0.25;
// Decimation: a collapse may leave no triangle whose height is below this share of its longest edge, unless it was
// worse before: it keeps slivers out without forbidding the collapse of existing ones.
inline constexpr double sliverHeight = 0.02;
// Decimation: quadrics are solved by the pseudo-inverse below this relative eigenvalue; flat and ridge-like
// neighbourhoods otherwise throw the new vertex far along the flat direction.
inline constexpr double quadricCondition = 1e-3;

// Orientation: shares of rays that leave the part from the two sides of an open patch; below this difference they are
// taken as alike (a sheet hanging free is seen from both sides).
inline constexpr double seenAlike = 0.05;

// Fill: fold angle (cosine) between neighbours above which area decides; a patch is said to fold beyond 120 degrees.
inline constexpr double foldCosine = -0.5;

// Stitching: only gaps below this share of the mean open edge can be cracks: shorter than any edge of a fair
// tessellation, so that stitching joins no neighbours.
inline constexpr double crackOfOpenEdge = 0.25;

// Drawing: planes whose normals have a sine below this are parallel to the eye, and the line in which they meet says
// nothing. Relative to 1.
inline constexpr double drawnParallel = 1e-9;

}  // namespace zither::tolerance
