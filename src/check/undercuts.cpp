// What parallel light along the build direction reaches from neither end.
#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "check/catalogue.h"
#include "check/check_tolerances.h"
#include "check/linked_triangles.h"
#include "check/surveyed.h"
#include "measure/triangle_rows.h"
#include "mesh/blocks.h"

namespace zither::check {
namespace {

constexpr Measure undercutArea = {.key = "undercut_area"};
constexpr const Measure* measures[] = {&undercutArea};

constexpr std::size_t block = 1024;  // triangles

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress& progress) {
    if (!(options.parallelDeg > 0)) return Findings();
    const Mesh& m = s.mesh();
    const Point up = options.upward();
    const double parallel = std::sin(options.parallelDeg * std::numbers::pi / 180);
    const double step = tolerance::undercutGrid * mesh::boxOf(m).diagonal();
    std::vector<std::uint8_t> flags(m.triangles.size(), 0);
    std::vector<double> dark((flags.size() + block - 1) / block, 0);
    const auto look = [&](std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i < end; ++i) {
            const auto t = static_cast<TriangleId>(i);
            const Point normal = mesh::areaVector(m, t);
            const double slope = normal.dot(up);
            if (!(std::abs(slope) > parallel * normal.norm())) continue;
            // Light comes from the end that the triangle faces, or not at all.
            const Point towards = slope > 0 ? up : Point(-up);
            measure::TriangleRows(m, t, step, step).forEach([&](const Point& at, double area, const auto&) {
                if (!s.rays().firstBeyond({m, t, at, towards})) return;
                dark[begin / block] += area;
                flags[i] = 1;
            });
        }
    };
    if (!mesh::forBlocks(flags.size(), block, progress, look)) return mesh::cancelled();
    double area = 0;
    for (const double d : dark) area += d;
    survey.measured.set(undercutArea, area);
    return linkedTriangles(s, undercuts, flags);
}

constexpr Setting settings[] = {{.id = "parallel",
                                 .title = "undercuts beyond",
                                 .unit = "deg",
                                 .usual = 0.5,
                                 .option = &SurveyOptions::parallelDeg}};

}  // namespace

constinit const DefectDescriptor undercuts = {
    .key = "undercuts",
    .name = "Undercuts",
    .sentence = "What light along the build direction reaches from neither end: a mould would not open there.",
    .ink = 0x27655A,
    .glyph = glyph::hook,
    .draw = drawBorders,
    .run = run,
    .limited = {.id = "undercut_area",
                .title = "undercut",
                .unit = "unit2",
                .value = measuredOf<undercutArea>,
                .mendable = false,
                .topological = false,
                .settings = settings},
    .measures = measures,
    .afterOthers = true,
    .byRays = true,
    .byOptions = true,
    .onlyWhenChosen = true,
};

}  // namespace zither::check
