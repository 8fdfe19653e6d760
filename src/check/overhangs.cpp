// What faces down towards the build direction at less than a slope, and does not stand on the floor.
#include <algorithm>
#include <limits>

#include "check/catalogue.h"
#include "check/linked_triangles.h"
#include "check/surveyed.h"
#include "measure/slope.h"
#include "mesh/parallel.h"
#include "mesh/tolerances.h"

namespace zither::check {
namespace {

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress&) {
    survey.shape.overhangArea = Shape::untold;
    if (!(options.slopeDeg > 0)) return Findings();
    const Mesh& m = s.mesh();
    const Point up = options.upward();
    double low = std::numeric_limits<double>::infinity();
    double high = -low;
    for (const mesh::Triangle& t : m.triangles)
        for (const VertexId v : t) {
            low = std::min(low, up.dot(m.positions[v]));
            high = std::max(high, up.dot(m.positions[v]));
        }
    const double floor = low + tolerance::onFloor * (high - low);
    std::vector<std::uint8_t> hangs(m.triangles.size(), 0);
    mesh::parallelFor(hangs.size(), 4096, [&](std::size_t i) {
        const auto t = static_cast<TriangleId>(i);
        if (!(measure::slopeDeg(m, t, up) < options.slopeDeg - tolerance::slopeDeg)) return;
        double top = low;
        for (unsigned k = 0; k < 3; ++k) top = std::max(top, up.dot(m.corner(t, k)));
        hangs[i] = top > floor;
    });
    double area = 0;
    for (TriangleId t = 0; t < hangs.size(); ++t)
        if (hangs[t]) area += 0.5 * mesh::areaVector(m, t).norm();
    survey.shape.overhangArea = area;
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
                .value = shapeOf<&Shape::overhangArea>,
                .mendable = false,
                .topological = false,
                .settings = settings},
    .byOptions = true,
    .onlyWhenChosen = true,
};

}  // namespace zither::check
