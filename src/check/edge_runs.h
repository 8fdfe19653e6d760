// Groups chosen edges into connected runs, each of them one finding.
#pragma once

#include <vector>

#include "check/surveyed.h"

namespace zither::check {

// The edges for which which(edge) is true; ascending.
template <class Which>
std::vector<mesh::EdgeId> edgesWhere(const Surveyed& s, const Which& which) {
    std::vector<mesh::EdgeId> chosen;
    for (mesh::EdgeId e = 0; e < s.edges().count(); ++e)
        if (which(e)) chosen.push_back(e);
    return chosen;
}

// Connected components of the graph of `chosen` edges (ascending), in the order of their first edge.
std::vector<std::vector<mesh::EdgeId>> edgeRuns(const Surveyed& s, const std::vector<mesh::EdgeId>& chosen);

// One finding a run, with its edges and the triangles at them.
Findings edgeRunFindings(const Surveyed& s, DefectClass defect, const std::vector<mesh::EdgeId>& chosen);

}  // namespace zither::check
