// Edges with three or more triangles.
#include "check/edge_runs.h"

namespace zither::check {

CheckResult checkNonmanifoldEdges(const Surroundings& s) {
    std::vector<mesh::EdgeId> chosen;
    for (mesh::EdgeId e = 0; e < s.edges.count(); ++e)
        if (s.edges.degree(e) >= 3) chosen.push_back(e);
    return edgeRunFindings(s, DefectClass::NonmanifoldEdges, chosen);
}

}  // namespace zither::check
