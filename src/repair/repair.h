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

// orient: makes each patch (triangles linked across manifold edges) face one way, and outwards: closed shells by what
// encloses them, exactly; open patches by what can be seen of their two sides (Takayama 2014), or, where both sides are
// seen alike, by the direction that most of their area has.
struct PatchEvidence {
    mesh::Point position = mesh::Point::Zero();
    double size = 0;  // diagonal of the box
    std::size_t triangles = 0;
    double frontSeen = 0;  // share (0 to 1) of rays from the front of its first triangle that leave the part
    double backSeen = 0;
    bool turned = false;
    bool byMajority = false;  // both sides are seen alike
};
struct OrientResult {
    Mesh mesh;
    std::size_t flipped = 0;          // triangles
    std::size_t patchesFlipped = 0;   // patches of which at least one triangle was flipped
    std::size_t shellsTurned = 0;     // whole closed shells turned by their nesting
    std::size_t oneSidedPatches = 0;  // patches that cannot face one way (Moebius): left with misoriented edges
    std::vector<PatchEvidence> open;  // open patches, largest first
};
Outcome<OrientResult> orient(const Mesh& m, const Pick& pick, Progress& progress);

// drop-shells: removes shells that are below both limits; never the largest one. Whether one is enclosed is told by the
// winding number of the other shells about its first corner.
struct DropShellsOptions {
    double belowSizeShare = 0;      // extent as a share (0 to 1) of the extent of the whole
    double belowTriangleShare = 0;  // triangles as a share (0 to 1) of all
    bool enclosedOnly = false;      // only shells that lie inside a closed one
};
struct DroppedShell {
    mesh::Point position;
    double size = 0;
    double area = 0;
    double volume = 0;
    bool closed = false;
    bool enclosed = false;  // it lies inside a closed shell
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
