// Surplus taken out: what has no area between equal corners, what lies twice, vertices that nothing uses.
#pragma once

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

// clean: removes collapsed triangles, surplus duplicates (the first of equals stays) and unused vertices.
struct CleanResult {
    Mesh mesh;
    std::size_t collapsed = 0;
    std::size_t duplicates = 0;
    std::size_t unusedVertices = 0;
};
Outcome<CleanResult> clean(const check::Surveyed& s, const Pick& pick, Progress& progress);

}  // namespace zither::repair
