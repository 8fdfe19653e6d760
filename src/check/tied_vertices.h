// Vertices where pieces of surface hang together in a point only.
#pragma once

#include <vector>

#include "check/surveyed.h"

namespace zither::check {

// Vertices whose triangles, linked across edges at that vertex, form more than one group; ascending. O(n).
std::vector<VertexId> tiedVertices(const Surveyed& s);

}  // namespace zither::check
