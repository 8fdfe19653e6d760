// Edges at which material ends in a sharper angle than the brief allows.
#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "check/catalogue.h"
#include "check/edge_runs.h"

namespace zither::check {
namespace {

constexpr Measure knifeLength = {.key = "knife_length"};
constexpr const Measure* measures[] = {&knifeLength};

// The angle through what lies behind two triangles at their common edge, in degrees; 360 where one of them has no area.
double angleBehind(const Mesh& m, mesh::HalfEdge a, mesh::HalfEdge b) {
    const Point na = mesh::areaVector(m, mesh::triangleOf(a));
    const Point nb = mesh::areaVector(m, mesh::triangleOf(b));
    if (!(na.norm() > 0) || !(nb.norm() > 0)) return 360;
    const Point along = m.positions[mesh::toVertex(m, a)] - m.positions[mesh::fromVertex(m, a)];
    // Turned about the edge: a flat one by 0, a ridge by less than half a turn, a valley by more.
    double turn = std::atan2(na.cross(nb).dot(along.normalized()), na.dot(nb));
    // Folded back onto itself: a ridge without thickness, or a gap; below the first, or not.
    const Point beyond = m.positions[mesh::oppositeVertex(m, b)] - m.positions[mesh::fromVertex(m, a)];
    if (std::abs(turn) == std::numbers::pi) turn = beyond.dot(na) > 0 ? -std::numbers::pi : std::numbers::pi;
    return 180 - turn * 180 / std::numbers::pi;
}

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress&) {
    if (!(options.knifeDeg > 0)) return Findings();
    const mesh::Edges& edges = s.edges();
    const Mesh& m = s.mesh();
    const auto chosen = edgesWhere(s, [&](mesh::EdgeId e) {
        const auto around = edges.around(e);
        return around.size() == 2 && !mesh::runsAlong(m, around[0], around[1]) &&
               angleBehind(m, around[0], around[1]) < options.knifeDeg;
    });
    double length = 0;
    for (const mesh::EdgeId e : chosen) {
        const mesh::HalfEdge h = edges.around(e)[0];
        length += (m.positions[mesh::toVertex(m, h)] - m.positions[mesh::fromVertex(m, h)]).norm();
    }
    survey.measured.set(knifeLength, length);
    return edgeRunFindings(s, knifeEdges, chosen);
}

constexpr Setting settings[] = {
    {.id = "angle", .title = "knife edges below", .unit = "deg", .usual = 30, .option = &SurveyOptions::knifeDeg}};

}  // namespace

constinit const DefectDescriptor knifeEdges = {
    .key = "knife-edges",
    .name = "Knife edges",
    .sentence = "Edges where material runs out in a sharper angle than the brief allows: no mesh is good there.",
    .ink = 0x7A2E1D,
    .glyph = glyph::wedge,
    .draw = drawEdges,
    .run = run,
    .limited = {.id = "knife_length",
                .title = "knife edges",
                .unit = "unit",
                .value = measuredOf<knifeLength>,
                .mendable = false,
                .topological = false,
                .settings = settings},
    .measures = measures,
    .byOptions = true,
};

}  // namespace zither::check
