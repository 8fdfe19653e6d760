// Boundary edges: exactly one triangle. A connected group of them is a hole.
#include "check/edge_runs.h"

namespace zither::check {

CheckResult checkOpenEdges(const Surroundings& s) {
    std::vector<mesh::EdgeId> chosen;
    for (mesh::EdgeId e = 0; e < s.edges.count(); ++e)
        if (s.edges.degree(e) == 1) chosen.push_back(e);
    return edgeRunFindings(s, DefectClass::OpenEdges, chosen);
}

}  // namespace zither::check
