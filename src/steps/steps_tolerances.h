// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

namespace zither::tolerance {

// Of the diagonal: where rounding moves a part by more than this, it is told (32 bits at the origin: 6e-8).
inline constexpr double roundingTold = 1e-6;

// Of the tolerance of lost and added: a sheet becomes a body so thick that what faced away from it is still found.
inline constexpr double sheetThickness = 0.9;

// Relative to the diagonal of the part's box: far below what a print or a mesh resolves.
inline constexpr double unseenLength = 1e-5;
// Relative to the same: how far refining slivers may move the surface, where nobody says otherwise.
inline constexpr double proposedSliverMove = 1e-4;
// Relative to the same: how far folds may be laid flat or opened. A tenth of what counts as lost.
inline constexpr double proposedEaseMove = 1e-4;

}  // namespace zither::tolerance
