// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

namespace zither::tolerance {

// Of unit vectors: below it two directions are parallel, and a view has no upright.
inline constexpr double viewParallel = 1e-9;
// Lengths: a scene of one point still has a size.
inline constexpr double viewLeast = 1e-12;

}  // namespace zither::tolerance
