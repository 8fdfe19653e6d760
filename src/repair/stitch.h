// Cracks between patches that were tessellated separately, closed along their borders.
#pragma once

#include <vector>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"

namespace zither::repair {

struct StitchOptions {
    double distance = 0;          // in the file's unit: no vertex moves farther
    bool sameFacingOnly = false;  // patches that face opposite ways are left apart; else orient turns one of them later
};
struct StitchResult {
    mesh::Mesh mesh;
    std::size_t joined = 0;     // vertices that became another one
    std::size_t split = 0;      // open edges split where a corner of the other side lies on them
    std::size_t collapsed = 0;  // triangles narrower than the crack, removed
    double farthestMoved = 0;
};

// Open vertices are joined, the smallest gaps first; then open edges are split at open vertices near their inside;
// first where the gap is small for the edges there, then wherever it is within the distance. Of two sides that meet,
// the one moves whose surface lies along the way: the rim of a flat end onto the wall around it, not the wall onto the
// rim. Two stretches of border fit together where they run along each other and their surfaces lie on opposite sides of
// the gap, or at an angle that does not fold one back onto the other: surfaces that pass by each other stay apart
// (Borodin 2002; Gueziec 2001). A border whose one end has been joined follows the edge there to its other end, also
// where that is closed already: a wall onto a seam. A vertex of each group stays with its bits. Error: negative,
// cancelled, or a distance within which so many borders lie that none can be told from the others.
mesh::Outcome<StitchResult> stitch(const check::Surveyed& s, const mesh::Pick& pick, const StitchOptions& options,
                                   mesh::Progress& progress);

// The gap from each open vertex to the nearest stretch of border that it could be stitched to, up to a quarter of the
// mean open edge and not beyond the shortest open edge at either; vertices without one are left out. Unsorted, in the
// order of vertices. Where very many lie that close together only some are looked at.
std::vector<double> gapsOf(const check::Surveyed& s);

// A distance that closes the cracks among these gaps and little else: twice the largest gap of a group of them that
// concerns a fair share of the open vertices and is parted from larger ones by a wide step (a factor of four with
// nothing between, or no more than a few of very many). 0 where there are none.
double proposedStitchDistance(const check::Surveyed& s);

}  // namespace zither::repair
