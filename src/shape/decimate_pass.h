// One pass of decimation, down to a count or an error, with what became of each triangle and vertex.
#pragma once

#include <cstdint>
#include <limits>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "mesh/traced.h"
#include "shape/edge_collapse.h"

namespace zither::shape {

using mesh::Outcome;

struct PassOptions {
    // Around the surface, about: errors are relative to it.
    mesh::Box box;
    std::size_t targetTriangles = 0;
    bool lockBorders = false;                                    // as in DecimateOptions
    double mostReach = std::numeric_limits<double>::infinity();  // of a triangle (see EdgeCollapse); infinite: not kept
    double rounding = 0;                                         // of a vertex, afterwards
    bool preferShape = false;                                    // as in DecimateOptions
    // Of each triangle that comes in; empty: 0.
    std::vector<float> reach = {};
};

struct Pass : mesh::Traced {
    std::vector<float> reach;      // of each triangle; empty where it is not kept
    std::vector<VertexId> wentTo;  // of each vertex that came in: where it went; noIndex: nowhere
    std::vector<Collapse> made;    // in order, with the vertices that came in
};

// As decimate (decimate.h), but what comes out may meet itself. `fixed`: one flag a vertex that stays where it is;
// empty: none. Error: only cancelled.
Outcome<Pass> decimatePass(const Mesh& m, const std::vector<std::uint8_t>& fixed, const PassOptions& options,
                           Progress& progress);

// The collapses again, but for those of which a vertex is held (one flag a vertex), and what cannot be done without
// them: elsewhere the same comes out. A tenth of the cost. `made` is empty.
Pass redoWithout(const std::vector<std::uint8_t>& held, const std::vector<Collapse>& made, const Mesh& m,
                 const std::vector<std::uint8_t>& fixed, const PassOptions& options);

}  // namespace zither::shape
