// Named regions of a surface, inlets and walls of a flow, and what became of them in another one.
#pragma once

#include "mesh/edges.h"
#include "mesh/mesh.h"

namespace zither::measure {

struct RegionChange {
    std::size_t lost = 0;  // regions of the import with area, of which the result has none by that name
    // Share of the length of the edges between two regions of the import that has no edge between the same two within
    // the tolerance; 0 where there are none. Looked at every half of the tolerance, at most a hundred times an edge.
    double bordersLost = 0;
};

struct RegionSurface {
    const mesh::Mesh& mesh;
    const mesh::Edges& edges;
};

// Regions are the same where their names are.
RegionChange regionChange(const RegionSurface& import, const RegionSurface& result, double tolerance);

}  // namespace zither::measure
