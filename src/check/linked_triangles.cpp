// Union-find over edges; the lists are filled group by group.
#include "check/linked_triangles.h"

#include "mesh/disjoint_sets.h"

namespace zither::check {

Findings linkedTriangles(const Surveyed& s, DefectClass defect, const std::vector<std::uint8_t>& flags) {
    const mesh::Edges& edges = s.edges();
    mesh::DisjointSets groups(flags.size());
    for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
        TriangleId first = mesh::noIndex;
        for (const mesh::HalfEdge h : edges.around(e)) {
            const TriangleId t = mesh::triangleOf(h);
            if (!flags[t]) continue;
            if (first != mesh::noIndex) groups.join(first, t);
            first = t;
        }
    }
    std::uint32_t count = 0;
    const std::vector<std::uint32_t> groupOf = groups.numbered(count);
    std::vector<std::vector<TriangleId>> lists(count);
    for (TriangleId t = 0; t < flags.size(); ++t)
        if (flags[t]) lists[groupOf[t]].push_back(t);
    Findings result;
    for (const auto& list : lists)
        if (!list.empty()) result.add(defect, s.mesh(), list, {});
    return result;
}

}  // namespace zither::check
