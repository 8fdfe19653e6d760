// Bodies that touch along edges and at vertices made one by seams too fine to be seen.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::arrange {

struct Welded {
    mesh::Mesh mesh;
    std::vector<mesh::TriangleId> sourceOf;   // the triangle that each one is, or is a piece of; noIndex: of a seam
    std::vector<mesh::VertexId> givenVertex;  // of each vertex: its number in the input; noIndex for a new one
    std::size_t whole = 0;                    // the first so many triangles are not cut, or whole pieces of a seam
    std::size_t seams = 0;                    // edges and vertices that were covered; 0: nothing touches
};

// A closed surface may touch itself along edges of four and more triangles and at vertices where several of its groups
// meet. Pulled apart by a hair, such places cross as soon as they are rounded; so each such vertex gets a round body of
// the radius about it, each such edge a thinner bar, and the skin around them all is taken. `where`: one flag a vertex:
// only there, and along the edges that begin there; empty: everywhere. The surface must be without self-intersections
// but for those of rounding. Error: only cancelled.
mesh::Outcome<Welded> weldTouching(const mesh::Mesh& m, double radius, const std::vector<std::uint8_t>& where,
                                   mesh::Progress& progress);

}  // namespace zither::arrange
