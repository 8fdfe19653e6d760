// Spots of a surface cut out and closed anew, each as narrowly as it closes.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "mesh/traced.h"

namespace zither::fit {

struct Spots : mesh::Traced {
    std::vector<mesh::TriangleId> left;  // triangles of spots that stayed, and of patches that meet something
    std::vector<mesh::Point> patched;    // the middles of rims that were closed
    double largestPatch = 0;             // diagonal of the largest rim's box
};

// Marked triangles (one flag a triangle) go, and the rims are closed by patches (holes/fill.h) that cross nothing, as
// written. Where a rim is no loop, the spot grows by a ring of triangles; where patches meet something all the same, or
// make the surface touch itself, what meets is cut out again, then with rings around it. A spot stays as it is where
// all patches for it would leave what can be seen farther than the tolerance (in the file's unit) from the surface, or
// add something there. Open rims of the surface stay open. What it costs depends on what lies in the boxes around
// spots, not on the rest.
mesh::Outcome<Spots> patchSpots(const mesh::Mesh& m, std::vector<std::uint8_t> marked, double tolerance,
                                mesh::Progress& progress);

}  // namespace zither::fit
