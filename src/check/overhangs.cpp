// What faces down towards the build direction at less than a slope, and does not stand on the floor.
#include "check/catalogue.h"
#include "check/linked_triangles.h"
#include "check/surveyed.h"
#include "measure/slope.h"
#include "mesh/parallel.h"

namespace zither::check {
namespace {

constexpr Measure overhangArea = {.key = "overhang_area"};
constexpr const Measure* measures[] = {&overhangArea};

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress&) {
    if (!(options.slopeDeg > 0)) return Findings();
    const Mesh& m = s.mesh();
    const measure::Overhangs overhanging(m, options.upward(), options.slopeDeg);
    std::vector<std::uint8_t> hangs(m.triangles.size(), 0);
    mesh::parallelFor(hangs.size(), 4096,
                      [&](std::size_t t) { hangs[t] = overhanging.has(static_cast<TriangleId>(t)); });
    double area = 0;
    for (TriangleId t = 0; t < hangs.size(); ++t)
        if (hangs[t]) area += 0.5 * mesh::areaVector(m, t).norm();
    survey.measured.set(overhangArea, area);
    return linkedTriangles(s, overhangs, hangs);
}

constexpr Setting settings[] = {
    {.id = "slope", .title = "overhang below", .unit = "deg", .usual = 45, .option = &SurveyOptions::slopeDeg}};

}  // namespace

constinit const DefectDescriptor overhangs = {
    .key = "overhangs",
    .name = "Overhangs",
    .sentence = "Faces down, flatter than the brief allows for the build direction, and not on the floor.",
    .ink = 0x3D6285,
    .glyph = glyph::ledge,
    .draw = drawBorders,
    .run = run,
    .limited = {.id = "overhang_area",
                .title = "overhang",
                .unit = "unit2",
                .value = measuredOf<overhangArea>,
                .mendable = false,
                .topological = false,
                .settings = settings},
    .measures = measures,
    .byOptions = true,
    .onlyWhenChosen = true,
};

}  // namespace zither::check
