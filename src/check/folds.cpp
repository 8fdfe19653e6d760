// Edges at which a skin is folded back onto itself.
#include "check/catalogue.h"
#include "check/check_tolerances.h"
#include "check/edge_runs.h"
#include "measure/fold_angle.h"
#include "measure/mass.h"

namespace zither::check {
namespace {

double angleBetween(const Mesh& m, mesh::HalfEdge a, mesh::HalfEdge b) {
    return measure::angleBetweenSides(m.positions[mesh::fromVertex(m, a)], m.positions[mesh::toVertex(m, a)],
                                      m.positions[mesh::oppositeVertex(m, a)], m.positions[mesh::oppositeVertex(m, b)]);
}

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress&) {
    const Mesh& m = s.mesh();
    const double least = tolerance::needleHeight * mesh::boxOf(m).diagonal();
    const auto isHigh = [&](mesh::HalfEdge h) { return measure::leastHeight(m, mesh::triangleOf(h)) >= least; };
    const auto chosen = edgesWhere(s, [&](mesh::EdgeId e) {
        const auto around = s.edges().around(e);
        return around.size() == 2 && angleBetween(m, around[0], around[1]) < tolerance::foldedDeg &&
               isHigh(around[0]) && isHigh(around[1]);
    });
    survey.counts.folds = chosen.size();
    return edgeRunFindings(s, folds, chosen);
}

}  // namespace

constinit const DefectDescriptor folds = {
    .key = "folds",
    .name = "Folds",
    .sentence = "Edges at which the skin is folded back onto itself, with less than half a degree between its sides.",
    .ink = 0x8C3A6B,
    .glyph = glyph::fold,
    .draw = drawEdges,
    .run = run,
    .limited = {.id = "folds", .title = "folds", .unit = "", .value = countOf<&Counts::folds>, .topological = false},
};

}  // namespace zither::check
