// Triangulates one closed loop of points in space.
#pragma once

#include <functional>
#include <span>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::repair {

struct Loop {
    std::vector<mesh::VertexId> vertices;  // each once, in the direction in which new triangles run along the rim
    std::vector<mesh::Point> rimNormals;   // unit normal of the triangle beyond the edge vertices[i], vertices[i+1]
};

// Triangles over the loop's vertices, of least weight: first the sharpest fold (with the rim and among themselves),
// then area (Liepa 2003, section 3). Loops longer than a few hundred edges are first cut by short chords. Never uses a
// chord for which `isEdge` is true: an edge that exists already would become non-manifold. Empty where there is no
// such triangulation.
mesh::Outcome<std::vector<mesh::Triangle>> triangulateLoop(
    const std::vector<mesh::Point>& positions, const Loop& loop,
    const std::function<bool(mesh::VertexId, mesh::VertexId)>& isEdge, mesh::Progress& progress);

}  // namespace zither::repair
