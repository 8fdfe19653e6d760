// Counts the pairs of triangles that meet where they should not, and groups them into places.
#include <algorithm>

#include "check/catalogue.h"
#include "check/surveyed.h"
#include "mesh/disjoint_sets.h"
#include "mesh/parallel.h"

namespace zither::check {
namespace {

// Groups the triangles of the pairs: two belong to one place where they meet or share a vertex. Places come in the
// order of their first triangles. `involved` is ascending.
Findings placesOf(const Surveyed& s, const std::vector<TrianglePair>& pairs, const std::vector<TriangleId>& involved) {
    std::vector<std::uint32_t> rank(s.mesh().triangles.size(), mesh::noIndex);
    for (std::uint32_t i = 0; i < involved.size(); ++i) rank[involved[i]] = i;
    mesh::DisjointSets sets(involved.size());
    for (const auto& [a, b] : pairs) sets.join(rank[a], rank[b]);
    std::vector<std::uint32_t> firstAt(s.mesh().positions.size(), mesh::noIndex);
    for (std::uint32_t i = 0; i < involved.size(); ++i)
        for (VertexId v : s.mesh().triangles[involved[i]])
            if (firstAt[v] == mesh::noIndex)
                firstAt[v] = i;
            else
                sets.join(firstAt[v], i);

    // The root of a set is its first member, so places can be numbered and counted on the way.
    std::vector<std::uint32_t>& placeOf = rank;
    std::vector<std::uint32_t> begin{0};
    for (std::uint32_t i = 0; i < involved.size(); ++i) {
        const std::uint32_t root = sets.find(i);
        if (root == i) {
            placeOf[involved[i]] = static_cast<std::uint32_t>(begin.size() - 1);
            begin.push_back(0);
        } else {
            placeOf[involved[i]] = placeOf[involved[root]];
        }
        ++begin[placeOf[involved[i]] + 1];
    }
    for (std::size_t p = 1; p < begin.size(); ++p) begin[p] += begin[p - 1];
    std::vector<TriangleId> members(involved.size());
    std::vector<std::uint32_t> next(begin);
    for (TriangleId t : involved) members[next[placeOf[t]]++] = t;
    Findings findings;
    std::vector<TriangleId> triangles;
    for (std::size_t p = 0; p + 1 < begin.size(); ++p) {
        triangles.assign(members.begin() + begin[p], members.begin() + begin[p + 1]);
        findings.add(selfIntersections, s.mesh(), triangles, {});
    }
    return findings;
}

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress& progress) {
    const space::TriangleTree& tree = s.tree();
    if (!progress.report(0.2)) return mesh::cancelled();
    mesh::PartOfProgress searching(progress, 0.2, 0.9);
    mesh::Outcome<std::vector<TrianglePair>> pairs = crossingPairs(tree, searching, {.leftOut = s.degenerate()});
    if (!pairs) return mesh::errorOf(pairs);
    mesh::parallelSort(pairs->begin(), pairs->end());
    std::vector<std::uint8_t> isInvolved(s.mesh().triangles.size(), 0);
    for (const auto& [a, b] : *pairs) isInvolved[a] = isInvolved[b] = 1;
    std::vector<TriangleId> involved;
    for (TriangleId t = 0; t < isInvolved.size(); ++t)
        if (isInvolved[t]) involved.push_back(t);
    survey.counts.selfIntersectingPairs = pairs->size();
    survey.counts.selfIntersectingTriangles = involved.size();
    survey.crossingPairs = std::move(*pairs);
    return placesOf(s, survey.crossingPairs, involved);
}

}  // namespace

constinit const DefectDescriptor selfIntersections = {
    .key = "self-intersections",
    .name = "Self-intersecting",
    .sentence = "Triangles that cut through or touch each other.",
    .ink = 0xB3134E,
    .glyph = glyph::cross,
    .draw = drawCrossings,
    .run = run,
    .limited = {.id = "self_intersecting_pairs",
                .title = "self-intersecting",
                .unit = "",
                .value = countOf<&Counts::selfIntersectingPairs>},
    .afterOthers = true,
};

}  // namespace zither::check
