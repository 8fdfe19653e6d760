// Shells, their direction and their nesting.
#pragma once

#include <vector>

#include "check/surveyed.h"

namespace zither::check {

// All shells with their nesting, numbered as Surveyed::shells; `crossing` pairs of triangles keep shells that cross
// from being nested. Error: only cancelled.
mesh::Outcome<std::vector<Shell>> shellList(const Surveyed& s, const std::vector<TrianglePair>& crossing,
                                            mesh::Progress& progress);

// A finding for each shell that is chosen (one flag each).
Findings findingsOfShells(const Surveyed& s, DefectClass defect, const std::vector<Shell>& list,
                          const std::vector<std::uint8_t>& chosen);

}  // namespace zither::check
