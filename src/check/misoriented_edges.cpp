// Edges with exactly two triangles that run along it in the same direction.
#include "check/catalogue.h"
#include "check/edge_runs.h"

namespace zither::check {
namespace {

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress&) {
    const mesh::Edges& edges = s.edges();
    const auto chosen = edgesWhere(s, [&](mesh::EdgeId e) {
        return edges.degree(e) == 2 && mesh::runsAlong(s.mesh(), edges.around(e)[0], edges.around(e)[1]);
    });
    survey.counts.misorientedEdges = chosen.size();
    return edgeRunFindings(s, misoriented, chosen);
}

}  // namespace

constinit const DefectDescriptor misoriented = {
    .key = "misoriented",
    .name = "Facing",
    .sentence = "Neighbours face opposite ways: inside and outside change across these edges.",
    .ink = 0x9A6B00,
    .glyph = glyph::hatch,
    .draw = drawEdges,
    .run = run,
    .limited = {.id = "misoriented_edges", .title = "facing", .unit = "", .value = countOf<&Counts::misorientedEdges>},
};

}  // namespace zither::check
