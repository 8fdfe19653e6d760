// Counts the pairs of triangles that meet where they should not, and groups them into places: two triangles belong to
// one place where they meet or share a vertex.
#include <algorithm>

#include "check/catalogue.h"
#include "check/check_tolerances.h"
#include "check/linked_triangles.h"
#include "check/surveyed.h"
#include "mesh/parallel.h"

namespace zither::check {
namespace {

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress& progress) {
    const space::TriangleTree& tree = s.tree();
    if (!progress.report(0.2)) return mesh::cancelled();
    mesh::PartOfProgress searching(progress, 0.2, 0.9);
    const double hair = tolerance::hairGap * mesh::boxOf(s.mesh()).diagonal();
    auto met = meetings(tree, hair, searching, {.leftOut = s.degenerate()});
    if (!met) return mesh::errorOf(met);
    std::vector<TrianglePair>& pairs = met->crossing;
    mesh::parallelSort(pairs.begin(), pairs.end());
    survey.hairs = std::move(met->near);
    std::vector<std::uint8_t> isInvolved(s.mesh().triangles.size(), 0);
    for (const auto& [a, b] : pairs) isInvolved[a] = isInvolved[b] = 1;
    std::vector<TriangleId> involved;
    for (TriangleId t = 0; t < isInvolved.size(); ++t)
        if (isInvolved[t]) involved.push_back(t);
    survey.counts.selfIntersectingPairs = pairs.size();
    survey.counts.selfIntersectingTriangles = involved.size();
    survey.crossingPairs = std::move(pairs);
    return linkedAcrossVertices(s, selfIntersections, involved, survey.crossingPairs);
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
