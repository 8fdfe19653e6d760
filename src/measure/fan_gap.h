// How far a small flat triangle with its corners on the triangles around a vertex can lie from them.
#pragma once

#include <array>
#include <vector>

#include "mesh/edges.h"

namespace zither::measure {

// The triangles around vertex w form a closed fan that is a height field along its mean normal, and the flat triangle
// over `feet`, which lie on the fan, projects into it: then the largest height between the two, which lies at w or
// where an edge of the flat triangle crosses a spoke. Infinite where any of that cannot be shown.
double gapOverFan(const mesh::Mesh& m, const mesh::Corners& corners, mesh::VertexId w,
                  const std::array<mesh::Point, 3>& feet);

}  // namespace zither::measure
