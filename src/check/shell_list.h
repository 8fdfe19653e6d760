// Shells, their direction and their nesting.
#pragma once

#include <vector>

#include "check/surveyed.h"

namespace zither::check {

// Shells with who holds each: the closed ones in which it lies and which it does not cross, ascending.
struct NestedShells {
    std::vector<Shell> shells;
    std::vector<std::vector<std::uint32_t>> holders;
};

// All shells with their nesting, numbered as Surveyed::shells; `crossing` pairs of triangles keep shells that cross
// from being nested. Error: only cancelled.
mesh::Outcome<NestedShells> nestedShells(const Surveyed& s, const std::vector<TrianglePair>& crossing,
                                         mesh::Progress& progress);
mesh::Outcome<std::vector<Shell>> shellList(const Surveyed& s, const std::vector<TrianglePair>& crossing,
                                            mesh::Progress& progress);

// Which shells to turn so that none faces inward where nothing is full around it: the outermost first, each with all
// that it holds, so that its voids stay voids. Those that may not turn stay. `aroundToo`: of each, what else is full
// around it, as an open shell that will be closed.
std::vector<std::uint8_t> inwardWithAllTheyHold(const NestedShells& nested, const std::vector<std::uint8_t>& mayTurn,
                                                const std::vector<int>& aroundToo);

// A finding for each shell that is chosen (one flag each).
Findings findingsOfShells(const Surveyed& s, DefectClass defect, const std::vector<Shell>& list,
                          const std::vector<std::uint8_t>& chosen);

}  // namespace zither::check
