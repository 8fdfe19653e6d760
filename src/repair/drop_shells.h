// Small shells taken out, each told.
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
Outcome<DropShellsResult> dropShells(const check::Surveyed& s, const Pick& pick, const DropShellsOptions& options,
                                     Progress& progress);

}  // namespace zither::repair
