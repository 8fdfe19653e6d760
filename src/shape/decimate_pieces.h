// A large surface taken apart into pieces that fit a core's cache, whose insides are brought down in parallel.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "shape/edge_collapse.h"

namespace zither::shape {

using mesh::Outcome;

// Triangles of a piece: with all that is known of them they stay within a core's cache.
inline constexpr std::size_t pieceTriangles = 24'000;

// As EdgeCollapse is given it.
struct Undivided {
    const Mesh& mesh;
    const std::vector<VertexKind>& allowed;
    const std::vector<float>& reach;  // empty: 0
    const CollapseSettings& settings;
};

// What the pieces leave, in the numbers of what came in.
struct BroughtDown {
    std::vector<Triangle> triangles;  // of those that are alive
    std::vector<std::uint8_t> alive;
    std::vector<Point> positions;
    std::vector<VertexId> wentTo;    // of each vertex; itself where it stands
    std::vector<float> reach;        // of each triangle; empty where it is not kept
    std::vector<Collapse> made;      // in order
    std::vector<std::uint8_t> seam;  // one flag a vertex: of several pieces, so that nothing touched it
};

// Down to about `wanted` triangles, never below `least`. The same for any number of threads. Error: only cancelled.
Outcome<BroughtDown> bringDownInPieces(const Undivided& surface, std::size_t wanted, std::size_t least,
                                       Progress& progress);

}  // namespace zither::shape
