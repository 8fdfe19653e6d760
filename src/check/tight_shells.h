// Shells that enclose a body by themselves.
#pragma once

#include <cstdint>
#include <vector>

#include "check/surveyed.h"

namespace zither::check {

// Of each triangle: 1 where it belongs to a shell that is closed, directed alike and meets itself nowhere, with what it
// encloses behind its triangles; -1 where that lies in front of them; 0 of other shells. By the survey that was made
// last; empty before the first.
std::vector<std::int8_t> tightShells(const Surveyed& s);

}  // namespace zither::check
