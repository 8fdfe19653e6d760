// Triangles that stand on the same three vertices as an earlier one.
#pragma once

#include <vector>

#include "check/surveyed.h"

namespace zither::check {

// The surplus ones, whatever their direction, edge by edge: of those on one edge ascending. O(n).
std::vector<TriangleId> surplusTriangles(const Surveyed& s);

}  // namespace zither::check
