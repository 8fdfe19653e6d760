// Holes that are small beside the part, told apart from openings that are likely meant.
#include <numbers>

#include "check/catalogue.h"
#include "check/edge_runs.h"

namespace zither::check {
namespace {

constexpr Measure holes = {.key = "small_holes"};
constexpr const Measure* measures[] = {&holes};

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress&) {
    if (!(options.holePercent > 0)) return Findings();
    const Mesh& m = s.mesh();
    const double limit = options.holePercent / 100 * survey.mass.size.diagonal();
    std::vector<mesh::EdgeId> small;
    for (const std::vector<mesh::EdgeId>& rim :
         edgeRuns(s, edgesWhere(s, [&](mesh::EdgeId e) { return s.edges().degree(e) == 1; }))) {
        double around = 0;
        for (const mesh::EdgeId e : rim) {
            const mesh::HalfEdge h = s.edges().around(e)[0];
            around += (m.positions[mesh::toVertex(m, h)] - m.positions[mesh::fromVertex(m, h)]).norm();
        }
        // As wide as a circle of that rim.
        if (around < std::numbers::pi * limit) small.insert(small.end(), rim.begin(), rim.end());
    }
    std::sort(small.begin(), small.end());
    Findings result = edgeRunFindings(s, smallHoles, small);
    survey.measured.set(holes, static_cast<double>(result.list.size()));
    return result;
}

constexpr Setting settings[] = {
    {.id = "percent", .title = "holes below", .unit = "%", .usual = 2, .option = &SurveyOptions::holePercent}};

}  // namespace

constinit const DefectDescriptor smallHoles = {
    .key = "small-holes",
    .name = "Small holes",
    .sentence = "Open rims that are narrow beside the whole part: damage rather than openings that are meant.",
    .ink = 0x0B7A75,
    .glyph = glyph::ring,
    .draw = drawEdges,
    .run = run,
    .limited = {.id = "small_holes",
                .title = "small holes",
                .unit = "",
                .value = measuredOf<holes>,
                .mendable = false,
                .topological = false,
                .settings = settings},
    .measures = measures,
    .afterOthers = true,
    .byOptions = true,
};

}  // namespace zither::check
