// Edges at which a skin is folded back onto itself.
#include "check/catalogue.h"
#include "check/check_tolerances.h"
#include "check/edge_runs.h"
#include "measure/fold_angle.h"

namespace zither::check {
namespace {

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress&) {
    const Mesh& m = s.mesh();
    const double least = tolerance::needleHeight * mesh::boxOf(m).diagonal();
    const auto chosen =
        edgesWhere(s, [&](mesh::EdgeId e) { return measure::isFold(m, s.edges(), e, tolerance::foldedDeg, least); });
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
