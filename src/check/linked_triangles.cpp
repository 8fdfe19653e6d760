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

Findings linkedAcrossVertices(const Surveyed& s, DefectClass defect, const std::vector<TriangleId>& chosen,
                              std::span<const TrianglePair> pairs) {
    std::vector<std::uint32_t> rank(s.mesh().triangles.size(), mesh::noIndex);
    for (std::uint32_t i = 0; i < chosen.size(); ++i) rank[chosen[i]] = i;
    mesh::DisjointSets sets(chosen.size());
    for (const auto& [a, b] : pairs) sets.join(rank[a], rank[b]);
    std::vector<std::uint32_t> firstAt(s.mesh().positions.size(), mesh::noIndex);
    for (std::uint32_t i = 0; i < chosen.size(); ++i)
        for (VertexId v : s.mesh().triangles[chosen[i]])
            if (firstAt[v] == mesh::noIndex)
                firstAt[v] = i;
            else
                sets.join(firstAt[v], i);

    // The root of a set is its first member, so places can be numbered and counted on the way.
    std::vector<std::uint32_t>& placeOf = rank;
    std::vector<std::uint32_t> begin{0};
    for (std::uint32_t i = 0; i < chosen.size(); ++i) {
        const std::uint32_t root = sets.find(i);
        if (root == i) {
            placeOf[chosen[i]] = static_cast<std::uint32_t>(begin.size() - 1);
            begin.push_back(0);
        } else {
            placeOf[chosen[i]] = placeOf[chosen[root]];
        }
        ++begin[placeOf[chosen[i]] + 1];
    }
    for (std::size_t p = 1; p < begin.size(); ++p) begin[p] += begin[p - 1];
    std::vector<TriangleId> members(chosen.size());
    std::vector<std::uint32_t> next(begin);
    for (TriangleId t : chosen) members[next[placeOf[t]]++] = t;
    Findings findings;
    std::vector<TriangleId> triangles;
    for (std::size_t p = 0; p + 1 < begin.size(); ++p) {
        triangles.assign(members.begin() + begin[p], members.begin() + begin[p + 1]);
        findings.add(defect, s.mesh(), triangles, {});
    }
    return findings;
}

}  // namespace zither::check
