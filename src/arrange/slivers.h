// Needles and caps taken out without harm.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::arrange {

struct SliverOptions {
    double tolerance = 0;  // in the file's unit
    // Above 0: triangles with a smaller angle (in degrees) are slivers however wide they are, and the tolerance bounds
    // how far the surface moves, not how far its vertices slide along it.
    double angleDeg = 0;
    // One flag a vertex: it may be collapsed onto a neighbour. Empty: every vertex.
    std::vector<std::uint8_t> movable = {};
    // One flag a triangle: it must stay as it is. Empty: none.
    std::vector<std::uint8_t> fixed = {};
    // One flag a triangle: it meets others already, and may go on to meet those of the same kind. Empty: none.
    std::vector<std::uint8_t> broken = {};
    bool moveTouching = false;  // vertices at which more than one surface meets may be collapsed as well
};

struct SliverResult {
    mesh::Mesh mesh;
    std::vector<mesh::TriangleId> sourceOf;  // of each triangle: its number in the input
    std::size_t collapsed = 0;               // edges: needles
    std::size_t swapped = 0;                 // edges: caps
    double farthestMoved = 0;
    std::size_t left = 0;  // triangles that are slivers still
};

// Edges shorter than the tolerance collapse onto one of their ends, and a triangle whose corner lies within the
// tolerance of its longest edge swaps that edge. Nothing moves farther than the tolerance, over all changes together; a
// change that breaks the link condition, makes a degenerate triangle, turns one over or lets triangles meet (exactly)
// is not made. Open and non-manifold edges stay.
mesh::Outcome<SliverResult> removeSlivers(const mesh::Mesh& m, const SliverOptions& options, mesh::Progress& progress);

}  // namespace zither::arrange
