// How a mesh is numbered: neighbours in space near each other in memory, or not.
#pragma once

#include "mesh/mesh.h"

namespace zither::mesh {

// Large, and what follows on a triangle in its numbering mostly lies elsewhere in space, or has corners that lie
// elsewhere in memory: all that walks over such a surface waits for memory. O(n).
bool isScattered(const Mesh& m);

// Numbers triangles along a space-filling curve, and vertices as the triangles meet them; unused ones go. The surface
// is the same, bit for bit; done twice, so is the numbering. O(n log n).
void putInOrder(Mesh& m);

}  // namespace zither::mesh
