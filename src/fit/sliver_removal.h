// Needles and caps taken out without harm.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"
#include "mesh/traced.h"

namespace zither::fit {

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
    // Where neither does, a corner of a sliver slides onto another one along a surface that stays where it is.
    bool slides = false;
    // Where nothing else helps, a corner moves away from the longest edge, onto coordinates as placedOn (settle.h)
    // says.
    bool widens = false;
    mesh::Precision precision = mesh::Precision::Double;
    double grid = 0;
};

struct SliverResult : mesh::Traced {
    std::size_t collapsed = 0;  // edges: needles
    std::size_t swapped = 0;    // edges: caps
    std::size_t widened = 0;    // corners moved
    double farthestMoved = 0;
    std::size_t left = 0;  // triangles that are slivers still
};

// Edges shorter than the tolerance collapse onto one of their ends, a triangle whose corner lies within the tolerance
// of its longest edge swaps that edge, and where that does not do, and it is asked for, a corner slides onto another
// one along a surface that stays where it is. The surface moves no farther than the tolerance, over all changes
// together; what a change must not do is said in local_changes.h. Open and non-manifold edges stay.
mesh::Outcome<SliverResult> removeSlivers(const mesh::Mesh& m, const SliverOptions& options, mesh::Progress& progress);

}  // namespace zither::fit
