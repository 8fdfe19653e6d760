// Regions that a pick grows into: as far as the surface stays flat, or smooth.
#pragma once

#include "mesh/edges.h"
#include "mesh/pick.h"

namespace zither::mesh {

// What hangs together with the pick and faces where it faces on the whole, to within so many degrees. Ids ascend; a
// pick of everything stays so, and so does one without area.
Pick flatAround(const Mesh& m, const Edges& edges, const Pick& pick, double degrees);

// What is reached from the pick without crossing an edge that bends by more than so many degrees, is open, or has more
// than two triangles: up to creases and borders.
Pick smoothAround(const Mesh& m, const Edges& edges, const Pick& pick, double degrees);

// All that is not picked; nothing where all is.
Pick inverted(const Mesh& m, const Pick& pick);

}  // namespace zither::mesh
