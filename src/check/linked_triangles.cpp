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
    std::vector<std::uint32_t> numberOf(flags.size(), mesh::noIndex);
    std::vector<std::vector<TriangleId>> lists;
    for (TriangleId t = 0; t < flags.size(); ++t) {
        if (!flags[t]) continue;
        std::uint32_t& number = numberOf[groups.find(t)];
        if (number == mesh::noIndex) {
            number = static_cast<std::uint32_t>(lists.size());
            lists.emplace_back();
        }
        lists[number].push_back(t);
    }
    Findings result;
    for (const auto& list : lists) result.add(defect, s.mesh(), list, {});
    return result;
}

}  // namespace zither::check
