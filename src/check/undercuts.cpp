// What parallel light along the build direction reaches from neither end.
#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <cmath>
#include <numbers>

#include "check/catalogue.h"
#include "check/linked_triangles.h"
#include "check/surveyed.h"
#include "measure/triangle_rows.h"
#include "mesh/parallel.h"
#include "mesh/tolerances.h"

namespace zither::check {
namespace {

constexpr std::size_t block = 1024;  // triangles

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress& progress) {
    survey.shape.undercutArea = Shape::untold;
    if (!(options.parallelDeg > 0)) return Findings();
    const Mesh& m = s.mesh();
    const Point up = Point(options.up[0], options.up[1], options.up[2]).normalized();
    const double parallel = std::sin(options.parallelDeg * std::numbers::pi / 180);
    const double step = tolerance::undercutGrid * mesh::boxOf(m).diagonal();
    std::vector<std::uint8_t> flags(m.triangles.size(), 0);
    const std::size_t blocks = (flags.size() + block - 1) / block;
    std::vector<double> dark(blocks, 0);
    std::atomic<bool> stop = false;
    std::atomic<std::size_t> done = 0;
    mesh::parallelFor(blocks, 1, [&](std::size_t b) {
        for (std::size_t i = b * block; i < std::min(flags.size(), (b + 1) * block) && !stop; ++i) {
            const auto t = static_cast<TriangleId>(i);
            const Point normal = mesh::areaVector(m, t);
            const double slope = normal.dot(up);
            if (!(std::abs(slope) > parallel * normal.norm())) continue;
            // Light comes from the end that the triangle faces, or not at all.
            const Point towards = slope > 0 ? up : Point(-up);
            measure::TriangleRows(m, t, step, step).forEach([&](const Point& at, double area, const auto&) {
                if (!s.rays().firstBeyond({m, t, at, towards})) return;
                dark[b] += area;
                flags[i] = 1;
            });
        }
        if (!progress.report(static_cast<double>(++done) / static_cast<double>(blocks))) stop = true;
    });
    if (stop) return mesh::cancelled();
    double area = 0;
    for (const double d : dark) area += d;
    survey.shape.undercutArea = area;
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
                .value = shapeOf<&Shape::undercutArea>,
                .mendable = false,
                .topological = false,
                .settings = settings},
    .afterOthers = true,
    .byOptions = true,
    .onlyWhenChosen = true,
};

}  // namespace zither::check
