// Small handles and tunnels, as scanning and thresholding leave them, cut and closed.
#pragma once

#include <vector>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"

namespace zither::repair {

struct Handle {
    mesh::Point position = mesh::Point::Zero();
    double loop = 0;  // length of the loop along which it is cut
    bool closed = false;
};
struct HandlesResult {
    mesh::Mesh mesh;
    std::vector<Handle> handles;  // found, shortest loop first
    std::size_t removed = 0;      // triangles
    std::size_t added = 0;
};

// A handle is small where a piece of surface within three quarters of `longest` (along edges) about one of its vertices
// holds the whole of it: that piece then has a genus (Guskov & Wood 2001). A hole drilled through a plate is none: the
// way through it and back around the plate is long. Of each, the shortest loop through the middle that does not part
// the piece is found with a tree and a cotree (Erickson & Whittlesey 2005), tightened from its own vertices; the
// triangles along it go, and the two rims are closed taut. A handle stays, and is listed, where its loop is longer,
// where a patch would cross the surface, or where nothing would be gained. Shells with open or non-manifold edges near
// by are left.
mesh::Outcome<HandlesResult> closeHandles(const check::Surveyed& s, const mesh::Pick& pick, double longest,
                                          mesh::Progress& progress);

}  // namespace zither::repair
