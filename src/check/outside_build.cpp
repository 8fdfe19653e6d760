// What reaches beyond the build volume that the part fits best, standing in the middle of its floor.
#include <algorithm>

#include "check/catalogue.h"
#include "check/linked_triangles.h"
#include "check/surveyed.h"
#include "measure/measure_tolerances.h"
#include "measure/upright.h"
#include "mesh/parallel.h"

namespace zither::check {
namespace {

constexpr Measure beyond = {.key = "outside_build"};
constexpr const Measure* measures[] = {&beyond};

// A build volume about a part, and the rotation from the part to it.
struct Build {
    Eigen::Matrix3d upright;
    mesh::Box box;
    double outside = 0;  // how much longer the part is, along the side where it is worst
};

// The first of those that it is outside of by least.
Build bestBuild(const Mesh& m, const SurveyOptions& options) {
    Build best;
    best.upright = measure::uprightFor(options.upward());
    const mesh::Box part = measure::boxTurned(m, best.upright);
    best.outside = std::numeric_limits<double>::infinity();
    for (const auto& sides : options.build) {
        const Point size(sides[0], sides[1], sides[2]);
        const Point more = part.extent() - size;
        const double outside = (more.array() > tolerance::justFits * size.array()).any() ? more.maxCoeff() : 0;
        if (!(outside < best.outside)) continue;
        best.outside = outside;
        const Point centre = part.centre();
        best.box.min = centre - 0.5 * size;
        best.box.min.z() = part.min.z();
        best.box.max = best.box.min + size;
    }
    return best;
}

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress&) {
    const Mesh& m = s.mesh();
    if (options.build.empty() || m.triangles.empty()) return Findings();
    const Build build = bestBuild(m, options);
    survey.measured.set(beyond, build.outside);
    std::vector<std::uint8_t> outside(m.triangles.size(), 0);
    if (build.outside > 0) {
        const Point hair = Point::Constant(tolerance::justFits * build.box.diagonal());
        const mesh::Box room{build.box.min - hair, build.box.max + hair};
        mesh::parallelFor(outside.size(), mesh::blockSize, [&](std::size_t t) {
            for (const VertexId v : m.triangles[t]) {
                const Point p = build.upright * m.positions[v];
                outside[t] |= (p.array() < room.min.array()).any() || (p.array() > room.max.array()).any();
            }
        });
    }
    return linkedTriangles(s, outsideBuild, outside);
}

// The edges of the volume.
void drawBuild(const Drawn& drawn, DefectClass defect, Segments& out) {
    if (drawn.survey.options.build.empty() || drawn.mesh.triangles.empty()) return;
    const Build build = bestBuild(drawn.mesh, drawn.survey.options);
    const auto corner = [&](unsigned bits) {
        Point p;
        for (unsigned k = 0; k < 3; ++k) p[k] = (bits >> k & 1U) != 0 ? build.box.max[k] : build.box.min[k];
        return Point(build.upright.transpose() * p);
    };
    for (unsigned bits = 0; bits < 8; ++bits)
        for (unsigned k = 0; k < 3; ++k)
            if ((bits >> k & 1U) == 0) out.insert(out.end(), {corner(bits), corner(bits | 1U << k)});
    drawBorders(drawn, defect, out);
}

}  // namespace

constinit const DefectDescriptor outsideBuild = {
    .key = "outside-build",
    .name = "Outside the build",
    .sentence = "Reaches beyond the build volume of the brief, as the part lies.",
    .ink = 0x6B4A2B,
    .glyph = glyph::frame,
    .draw = drawBuild,
    .run = run,
    .limited = {.id = "outside_build",
                .title = "outside the build",
                .unit = "unit",
                .value = measuredOf<beyond>,
                .mendable = false,
                .topological = false},
    .measures = measures,
    .byOptions = true,
    .onlyWhenChosen = true,
};

}  // namespace zither::check
