// Surplus triangles with the same three vertices as an earlier one, whatever their direction. Two such triangles share
// every edge, so it is enough to look at the one edge of each triangle that lies opposite its highest vertex.
#include <algorithm>

#include "check/surroundings.h"

namespace zither::check {

CheckResult checkDuplicateTriangles(const Surroundings& s) {
    CheckResult result;
    std::vector<std::pair<VertexId, TriangleId>> opposite;
    for (mesh::EdgeId e = 0; e < s.edges.count(); ++e) {
        if (s.edges.degree(e) < 2) continue;
        opposite.clear();
        for (mesh::HalfEdge h : s.edges.around(e)) {
            const VertexId top = oppositeVertex(s.mesh, h);
            if (top > fromVertex(s.mesh, h) && top > toVertex(s.mesh, h))
                opposite.emplace_back(top, mesh::triangleOf(h));
        }
        std::sort(opposite.begin(), opposite.end());
        for (std::size_t i = 1; i < opposite.size(); ++i) {
            if (opposite[i].first != opposite[i - 1].first) continue;
            ++result.count;
            result.findings.add(DefectClass::Duplicates, s.mesh, std::array{opposite[i].second}, {});
        }
    }
    return result;
}

}  // namespace zither::check
