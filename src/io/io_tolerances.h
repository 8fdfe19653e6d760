// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

namespace zither::tolerance {

// Of the diagonal: where 32-bit coordinates come in wider steps than this, they show: a hundredth of what is seen lost.
inline constexpr double coarseStep = 1e-5;

}  // namespace zither::tolerance
