// How much of a triangle has nothing of a surface near it.
#pragma once

#include "mesh/mesh.h"
#include "space/triangle_tree.h"

namespace zither::measure {

// Area of triangle t of m from which nothing of the tree's surface (`facing`: nothing that faces the same way) is
// within `tolerance` (in the file's unit), by points spread over it, at most 36.
double strayArea(const mesh::Mesh& m, mesh::TriangleId t, const space::TriangleTree& tree, double tolerance,
                 bool facing);

}  // namespace zither::measure
