// Shells, their direction and their nesting.
#pragma once

#include <vector>

#include "check/surveyed.h"

namespace zither::check {

// All shells with their nesting, numbered as Surveyed::shells; `crossing` pairs of triangles keep shells that cross
// from being nested. Error: only cancelled.
mesh::Outcome<std::vector<Shell>> shellList(const Surveyed& s, const std::vector<TrianglePair>& crossing,
                                            mesh::Progress& progress);

}  // namespace zither::check
