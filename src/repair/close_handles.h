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

// Handles as measure/tunnels.h finds them. The triangles along the loop of each go, and the two rims are closed taut. A
// handle stays, and is listed, where a patch would cross the surface, or where nothing would be gained.
mesh::Outcome<HandlesResult> closeHandles(const check::Surveyed& s, const mesh::Pick& pick, double longest,
                                          mesh::Progress& progress);

}  // namespace zither::repair
