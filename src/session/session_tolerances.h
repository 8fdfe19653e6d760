// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

namespace zither::tolerance {

// Of the diagonal: the nearest that a view comes.
inline constexpr double viewNearest = 1e-7;

}  // namespace zither::tolerance
