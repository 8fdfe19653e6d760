// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

namespace zither::tolerance {

// Drawing: planes whose normals have a sine below this are parallel to the eye, and the line in which they meet says
// nothing. Relative to 1.
inline constexpr double drawnParallel = 1e-9;

// Of the diagonal: undercuts are looked for on a grid so wide.
inline constexpr double undercutGrid = 5e-3;

// Of the diagonal: what is thinner than this most meshers refuse, and what is made may move that far to be thicker.
inline constexpr double needleHeight = 1e-6;

// Of the diagonal: skins that are nearer are one to the tolerance of most meshers.
inline constexpr double hairGap = 1e-6;

// In degrees: sides of an edge that enclose less are folded onto each other.
inline constexpr double foldedDeg = 0.5;

// Of the sum of absolute products: rounding of a dot product of three and of the differences in it.
inline constexpr double dotRounding = 8 * 0x1p-52;

}  // namespace zither::tolerance
