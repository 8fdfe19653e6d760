// Boundary edges: exactly one triangle. A connected group of them is a hole.
#include "check/catalogue.h"
#include "check/edge_runs.h"

namespace zither::check {
namespace {

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress&) {
    const mesh::Edges& edges = s.edges();
    const auto chosen = edgesWhere(s, [&](mesh::EdgeId e) { return edges.degree(e) == 1; });
    survey.counts.boundaryEdges = chosen.size();
    Findings findings = edgeRunFindings(s, openEdges, chosen);
    survey.counts.holes = findings.list.size();
    return findings;
}

}  // namespace

constinit const DefectDescriptor openEdges = {
    .key = "open-edges",
    .name = "Open edges",
    .sentence = "The surface ends here: only one triangle lies at these edges, so water could get through.",
    .ink = 0x0B7A75,
    .glyph = glyph::ring,
    .draw = drawEdges,
    .run = run,
    .limited = {.id = "boundary_edges", .title = "open edges", .unit = "", .value = countOf<&Counts::boundaryEdges>},
};

}  // namespace zither::check
