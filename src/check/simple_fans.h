// Vertices around which nothing crosses, told by looking along an axis: a certificate that spares nearly all exact
// tests of triangles at one vertex.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/edges.h"

namespace zither::check {

// One flag a vertex: along some coordinate axis the triangles around it are seen as one closed fan, all from the same
// side and going around once. Then no two of them meet outside the vertex and the edge that they share. Exact: a flag
// of 0 says nothing, and vertices of degenerate triangles and open fans have it. O(n), in parallel.
std::vector<std::uint8_t> simpleFans(const mesh::Mesh& m, const mesh::Corners& corners);

}  // namespace zither::check
