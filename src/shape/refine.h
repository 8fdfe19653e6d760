// refine: edges split that are long, or far from the curved surface that the triangles stand for.
#pragma once

#include <limits>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::shape {

struct RefineOptions {
    double length = std::numeric_limits<double>::infinity();     // longer edges are split
    double deviation = std::numeric_limits<double>::infinity();  // so are those farther from the curved surface
    double smallest = 0;    // no edge becomes shorter than this by a split in its middle
    bool curved = false;    // new vertices lie on the curved surface; else on the triangles
    double creaseDeg = 35;  // edges that turn by more are creases
    mesh::Precision precision = mesh::Precision::Single;  // of what is curved
};

struct Refined {
    mesh::Mesh mesh;           // not rounded where it is flat: new vertices are exact but for 64 bits
    std::size_t split = 0;     // edges
    double farthest = 0;       // that a new vertex lies from its triangle
    std::size_t keptFlat = 0;  // triangles that stayed flat, as they would have met others
};

// In the middle, of each triangle the longest edge first; flat, every triangle of the result lies in one that came in;
// with its region in either case. The curved surface is that of curved_patches.h, of the triangles that came in. Of a
// pick, edges of other triangles stay, and so do those where more than two triangles meet; close to such edges others
// may stay longer. A surface that meets itself nowhere does not come to: where curves would, their triangles stay flat.
// Error: cancelled, or not enough memory for so many triangles.
mesh::Outcome<Refined> refine(const check::Surveyed& s, const mesh::Pick& pick, const RefineOptions& options,
                              mesh::Progress& progress);

}  // namespace zither::shape
