// A sound surface made fit for a mesher.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"
#include "mesh/traced.h"

namespace zither::fit {

struct EaseOptions {
    double tolerance = 0;  // how far the surface may move where folds are laid flat or opened, in the file's unit
    std::vector<std::uint8_t> fixed = {};  // one flag a triangle: it must stay. Empty: none
    mesh::Precision precision = mesh::Precision::Double;
};

struct EaseResult : mesh::Traced {
    std::size_t flakes = 0;    // triangles of closed shells that were thinner than a hair, and went
    std::size_t narrow = 0;    // triangles taken out or widened
    std::size_t unfolded = 0;  // edges
    std::size_t parted = 0;    // vertices that were moved apart
    double farthestMoved = 0;
};

// Closed shells thinner than a hair go where they lie on others or are voids, needles go (sliver_removal.h), folds are
// laid flat (unfold.h), skins nearer than twice a hair, and folds that are no thin lenses, come apart (part_skins.h);
// again while that gets better, as each may lay bare another. The surface is closed, crosses nothing and has no
// degenerate triangle. Error: cancelled.
mesh::Outcome<EaseResult> ease(const mesh::Mesh& m, const EaseOptions& options, mesh::Progress& progress);

}  // namespace zither::fit
