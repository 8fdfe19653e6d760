// Edges with three or more triangles.
#include "check/catalogue.h"
#include "check/edge_runs.h"

namespace zither::check {
namespace {

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress&) {
    const mesh::Edges& edges = s.edges();
    const auto chosen = edgesWhere(s, [&](mesh::EdgeId e) { return edges.degree(e) >= 3; });
    survey.counts.nonmanifoldEdges = chosen.size();
    return edgeRunFindings(s, nonmanifoldEdges, chosen);
}

}  // namespace

constinit const DefectDescriptor nonmanifoldEdges = {
    .key = "nonmanifold-edges",
    .name = "Non-manifold edges",
    .sentence = "Three or more triangles meet in one edge: no inside or outside can be told there.",
    .ink = 0x6B3FA0,
    .glyph = glyph::star,
    .draw = drawEdges,
    .run = run,
    .limited = {.id = "nonmanifold_edges",
                .title = "non-manifold edges",
                .unit = "",
                .value = countOf<&Counts::nonmanifoldEdges>},
};

}  // namespace zither::check
