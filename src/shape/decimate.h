// decimate: fewer triangles, by collapsing edges in the order of the quadric error they cause.
#pragma once

#include <limits>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"

namespace zither::shape {

using mesh::Mesh;
using mesh::Outcome;
using mesh::Pick;
using mesh::Progress;

struct DecimateOptions {
    // Stop at this many triangles.
    std::size_t targetTriangles = 0;
    // Largest deviation between input and result in the file's unit, both ways; infinite: no limit.
    double maxDeviation = std::numeric_limits<double>::infinity();
    // With a limit on the deviation: what its collapses add up to is not measured anew for another step.
    bool oneStep = false;
    // Vertices on open edges and region borders stay where they are.
    bool lockBorders = false;
    // Angles below 10 degrees are kept out at some cost, not only where that costs next to nothing.
    bool preferShape = false;
};

struct DecimateResult {
    Mesh mesh;
    std::size_t removed = 0;  // triangles
    std::size_t swapped = 0;  // edges in flat places
    bool reachedTarget = false;
    bool heldBack = false;         // the target was not reached because fewer triangles would meet each other
    double measuredDeviation = 0;  // upper bound, both ways; only where maxDeviation was finite
};

// Quadric error metric after Garland & Heckbert 1997, with border planes of 1998 and placement after Lindstrom & Turk
// 1998; link condition after Dey et al. 1999. Never creates non-manifold edges or vertices, turns no triangle over, and
// leaves vertices on non-manifold edges, and what was not picked, untouched. Borders of regions stay on their line.
// Coordinates of 32 bits stay such. No triangle comes to meet another, unless both met others before (decided exactly,
// as rounded): where a pass ends so, it is taken again, in steps of half the count, with the vertices that went into
// those triangles held fast. Collapses that leave a bad angle wait until there are no others of about their cost, and
// edges in flat places swap where the smallest angle grows (edge_swaps.h).
// Collapses are taken from buckets of rising error (steps of 9 %), which orders them nearly as a heap does at a
// fraction of its cost. About O(n). The same result for any number of threads.
Outcome<DecimateResult> decimate(const check::Surveyed& s, const Pick& pick, const DecimateOptions& options,
                                 Progress& progress);

}  // namespace zither::shape
