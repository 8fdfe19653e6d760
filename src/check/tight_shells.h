// Shells that enclose a body by themselves.
#pragma once

#include <cstdint>
#include <vector>

#include "check/crossing_pairs.h"
#include "check/surveyed.h"

namespace zither::check {

// Of each triangle: 1 where it belongs to a shell that is closed, directed alike and meets itself nowhere, with what it
// encloses behind its triangles; -1 where that lies in front of them; 0 of other shells. `crossing`: the pairs of
// triangles that meet (Survey::crossingPairs). O(n).
std::vector<std::int8_t> tightShells(const Surveyed& s, const std::vector<TrianglePair>& crossing);

}  // namespace zither::check
