// Edges with exactly two triangles that run along it in the same direction.
#include "check/edge_runs.h"

namespace zither::check {

CheckResult checkMisorientedEdges(const Surroundings& s) {
    std::vector<mesh::EdgeId> chosen;
    for (mesh::EdgeId e = 0; e < s.edges.count(); ++e)
        if (s.edges.degree(e) == 2 && mesh::runsAlong(s.mesh, s.edges.around(e)[0], s.edges.around(e)[1]))
            chosen.push_back(e);
    return edgeRunFindings(s, DefectClass::Misoriented, chosen);
}

}  // namespace zither::check
