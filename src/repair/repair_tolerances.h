// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

#include <cstddef>

namespace zither::tolerance {

// Orientation: shares of rays that leave the part from the two sides of an open patch; below this difference they are
// taken as alike (a sheet hanging free is seen from both sides).
inline constexpr double seenAlike = 0.05;
// Stitching: only gaps below this share of the mean open edge can be cracks: shorter than any edge of a fair
// tessellation, so that stitching joins no neighbours.
inline constexpr double crackOfOpenEdge = 0.25;

// Stretches run along each other within about 37 degrees.
inline constexpr double stitchAlong = 0.8;
// The directions from the border into the two surfaces: -1 where they go on into each other, 1 where they lie on each
// other. Above this they pass by each other.
inline constexpr double stitchFoldsBack = 0.77;
// A step by this factor between gaps parts cracks from openings.
inline constexpr double stitchWideStep = 4;
// As many beyond, among many more before, are odd places.
inline constexpr std::size_t stitchOddPlaces = 3;
// Cracks concern this share of the open vertices at least.
inline constexpr double stitchLeastShare = 0.03;
// Of the mean open edge: narrower than any triangle of a fair tessellation.
inline constexpr double stitchHair = 0.05;

// Relative to the same: gaps below it are what coordinates of 32 bits cannot tell, and are always closed.
inline constexpr double stitchAlways = 1e-7;

}  // namespace zither::tolerance
