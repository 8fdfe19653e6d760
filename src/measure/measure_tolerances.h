// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

namespace zither::tolerance {

// Deviation search stops when the proven bound is this close to the largest distance found. Relative to the diagonal
// of both surfaces' box: far below any tolerance a drawing asks for, far above rounding (1e-16).
inline constexpr double deviationRelative = 1e-6;
// ... or relative to the distance found itself: a fiftieth is less than any limit is chosen to.
inline constexpr double deviationOfValue = 2e-2;
// What is this close to the other surface, relative to the diagonal, is taken to be as far from it as from what was
// found there first: a tenth of what is left open anyway, and as much as rounding to 32 bits can move a vertex.
inline constexpr double deviationBeside = 1e-7;

// ---- lost and added (definitions.md)

// How far off the surface a point looks around. Of the box's diagonal: above the rounding of a file, below its details.
inline constexpr double hairOffSurface = 1e-6;
// A speck: of the box's diagonal; and of the area, all of them together.
inline constexpr double speckSize = 0.02;
inline constexpr double speckArea = 0.005;
// A repair may lose this share of a shell's area that is seen at all through a crack, without losing the shell.
inline constexpr double glimpse = 0.02;

// ---- full space

// Winding numbers, which are told to a few hundredths: what is above the one is enclosed, what is below the other is not.
inline constexpr double surelyFull = 0.75;
inline constexpr double surelyEmpty = 0.25;

// ---- wall, slope, undercut (definitions.md)

// Of the diagonal: where bodies lie in each other, faces no farther apart along a ray are met at once.
inline constexpr double wallTogether = 1e-9;
// In degrees: a slope is below its limit where it is so by more than this.
inline constexpr double slopeDeg = 0.01;
// Of the height: what lies so low stands on the floor.
inline constexpr double onFloor = 1e-3;
// Of a side: what is so little longer fits in it.
inline constexpr double justFits = 1e-9;
// Of a footprint: a face is no farther from the lowest point where the part stands on it (of the diagonal).
inline constexpr double standsOn = 1e-4;
// Of an area: overhangs that differ by less are alike, and what moves the part less, or leaves it lower, is better.
inline constexpr double overhangsAlike = 1e-3;

// ---- aligning

// Weight of the points themselves beside that of the planes they are to reach: enough to end what slides, too little to
// hold it back.
inline constexpr double slideHold = 1e-4;
// A round gains something where the distance falls by this share.
inline constexpr double alignGain = 1e-4;

// ---- lengths that nobody sees, and ties

// Relative to its length: a loop must be shorter by this share to take another one's place.
inline constexpr double shorterLoop = 1e-9;
// Relative to the largest coordinate: the least frame about an outline, so that one far from the origin has some room.
inline constexpr double sectionFrame = 1e-9;
// Of an area: sums of the same points in another order differ by less.
inline constexpr double sumsAlike = 1e-12;
// Of a squared extent: an area of two triangles laid over each other that may be nothing but the rounding of the frame.
inline constexpr double overlayRounding = 0x1p-46;
// Relative to nothing: what is divided by a length takes this one where it is 0. Far below any coordinate.
inline constexpr double aboveZero = 1e-300;

}  // namespace zither::tolerance
