// One direction for each patch, and outwards.
#pragma once

#include <vector>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"

namespace zither::repair {

using mesh::Mesh;
using mesh::Outcome;
using mesh::Pick;
using mesh::Progress;

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
Outcome<OrientResult> orient(const check::Surveyed& s, const Pick& pick, Progress& progress);

}  // namespace zither::repair
