// The nearest point of a surface, looked for from a triangle that is known to be about there.
#pragma once

#include "mesh/edges.h"
#include "space/triangle_tree.h"

namespace zither::space {

// Goes from `start` over edges, from triangle to triangle, as long as that leads nearer to p, and not on where the
// squared distance is `enough`. What is found is a point of the surface; the nearest of all only where p is close to
// the surface beside its turns, so that who must know that asks a tree (TriangleTree::nearest, with this as a hint).
// A few triangles are looked at, whatever the surface's size. Degenerate triangles are passed like any other.
Nearest nearestFrom(const Mesh& m, const mesh::Edges& edges, const Point& p, TriangleId start, double enough = 0);

}  // namespace zither::space
