// Repairs: each takes a mesh, leaves it as it is, and gives a new one with a record of what it did. Triangles outside
// the damage stay bit-identical, in their order.
#pragma once

#include <limits>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"

namespace zither::repair {

using mesh::Mesh;
using mesh::Outcome;
using mesh::Pick;
using mesh::Progress;

// clean: removes collapsed triangles, surplus duplicates (the first of equals stays) and unused vertices.
struct CleanResult {
    Mesh mesh;
    std::size_t collapsed = 0;
    std::size_t duplicates = 0;
    std::size_t unusedVertices = 0;
};
Outcome<CleanResult> clean(const Mesh& m, const Pick& pick, Progress& progress);

// orient: makes each patch (triangles linked across manifold edges) face one way, and outwards by nesting. An open
// patch that encloses too little to have an outside keeps the direction that most of its area has.
struct OrientResult {
    Mesh mesh;
    std::size_t flipped = 0;          // triangles
    std::size_t patchesFlipped = 0;   // patches of which at least one triangle was flipped
    std::size_t shellsTurned = 0;     // whole closed shells turned by their nesting
    std::size_t oneSidedPatches = 0;  // patches that cannot face one way (Moebius): left with misoriented edges
    std::size_t keptByMajority = 0;   // open patches decided by majority
};
Outcome<OrientResult> orient(const Mesh& m, const Pick& pick, Progress& progress);

// weld: joins vertices on open edges that are within `distance` of each other onto the first of them, then splits open
// edges that pass within `distance` of an open vertex (T-junctions). No vertex moves farther than `distance`.
struct WeldOptions {
    double distance = 0;   // in the file's unit
    bool openOnly = true;  // false: every vertex, not only those on open edges
};
struct WeldResult {
    Mesh mesh;
    std::size_t joined = 0;     // vertices that became another one
    std::size_t split = 0;      // edges split at T-junctions
    std::size_t collapsed = 0;  // triangles that joining collapsed, removed
    double farthestMoved = 0;
};
// A distance that joins most of the cracks of this mesh and little else: just above the gaps between open vertices that
// are far shorter than the open edges. 0 where there is no such gap.
double proposedWeldDistance(const Mesh& m);
Outcome<WeldResult> weld(const Mesh& m, const Pick& pick, const WeldOptions& options, Progress& progress);

// fill: closes holes with triangulations of least area that do not fold (Barequet & Sharir 1995, weights of Liepa
// 2003). Rims that touch themselves are taken apart into simple loops first.
struct FillOptions {
    double maxSize = std::numeric_limits<double>::infinity();  // largest extent of a rim's box, in the file's unit
};
struct Opening {
    mesh::Point position;
    double size = 0;  // diagonal of the rim's box
    std::size_t edges = 0;
};
struct FillResult {
    Mesh mesh;
    std::size_t filled = 0;
    std::size_t added = 0;      // triangles
    double largestFilled = 0;   // extent of the largest filled rim
    std::vector<Opening> left;  // loops larger than maxSize, largest first
    std::size_t notClosed = 0;  // rims whose edges form no loop: neighbours face opposite ways; orient first
};
Outcome<FillResult> fill(const Mesh& m, const Pick& pick, const FillOptions& options, Progress& progress);

// drop-shells: removes shells that are below both limits; never the largest one.
struct DropShellsOptions {
    double belowSizeShare = 0;      // extent as a share (0 to 1) of the extent of the whole
    double belowTriangleShare = 0;  // triangles as a share (0 to 1) of all
};
struct DroppedShell {
    mesh::Point position;
    double size = 0;
    double area = 0;
    double volume = 0;
    bool closed = false;
    std::size_t triangles = 0;
};
struct DropShellsResult {
    Mesh mesh;
    std::vector<DroppedShell> dropped;  // largest first
    std::size_t kept = 0;
};
Outcome<DropShellsResult> dropShells(const Mesh& m, const Pick& pick, const DropShellsOptions& options,
                                     Progress& progress);

}  // namespace zither::repair
