// Descriptor of `wrap`.
#include <fmt/format.h>

#include "check/catalogue.h"
#include "repair/orient.h"
#include "shape/wrap.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

// 128 cells along the longest side: seconds, and fine enough to judge.
double proposedCell(const Surveyed& s) {
    const Mesh& m = s.mesh();
    return m.triangles.empty() ? 0.0 : mesh::boxOf(m).extent().maxCoeff() / 128;
}

const Number cell({.name = "cell",
                   .kind = ParameterKind::Length,
                   .min = 0,
                   .max = 1e300,
                   .help = "Edge of a cell of the grid. Proposed: a 128th of the longest side.",
                   .propose = proposedCell});
const WholeNumber triangles({.name = "triangles",
                             .min = 0,
                             .max = 1e8,
                             .help = "About so many triangles, whatever the cell says.",
                             .zero = "by the cell"});
const Number seal({.name = "seal",
                   .kind = ParameterKind::Length,
                   .min = 0,
                   .max = 1e300,
                   .help = "Openings up to this width are closed; what lies behind them is filled."});

double cellOf(const Mesh& m, const Arguments& a) {
    const auto wanted = static_cast<double>(a[triangles]);
    return wanted > 0 ? shape::cellForTriangles(m, wanted) : a[cell];
}

std::string foresee(const Surveyed& s, const Arguments& a) {
    const Mesh& m = s.mesh();
    const double edge = cellOf(m, a);
    return fmt::format("About {:.2g} triangles; the skin lies within {} of the surface, mostly far less.",
                       shape::trianglesForCell(m, edge), lengthText(edge));
}

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    // Which side is inside is read off the directions of the triangles.
    mesh::PartOfProgress turning(progress, 0, 0.15);
    auto oriented = repair::orient(s, {}, turning);
    if (!oriented) return mesh::errorOf(oriented);
    mesh::PartOfProgress wrapping(progress, 0.15, 1);
    const Surveyed turned(oriented->mesh);
    const double edge = cellOf(m, a);
    if (edge == 0) return StepOutput{m, {}};
    auto result =
        shape::wrap(oriented->mesh, {.cell = edge, .sealing = a[seal], .precision = mesh::precisionOf(m)}, wrapping);
    if (!result) return mesh::errorOf(result);
    Record record;
    if (result->mesh.triangles.empty() && !m.triangles.empty()) {
        record.say("Nothing here encloses anything at this cell, so nothing was done.");
        return StepOutput{m, std::move(record)};
    }
    record.add("cell", edge);
    record.add("cells", result->cells);
    record.add("vertices_drawn_back", result->relaxed);
    record.add("fused", static_cast<double>(result->fused));
    record.add("triangles_made", result->mesh.triangles.size());
    record.say(fmt::format("A new skin of {} with cells of {}; none of the old triangles stays.",
                           counted(result->mesh.triangles.size(), "triangle"), lengthText(edge)));
    if (result->relaxed > 0)
        record.say(fmt::format("{} drawn back from sharp edges so that nothing crosses.",
                               counted(result->relaxed, "vertex was", "vertices were")));
    if (!result->solid) record.say("The skin is not solid: choose a finer cell.");
    return StepOutput{std::move(result->mesh), std::move(record)};
}

double memoryOf(const Surveyed& s, const Arguments& a) {
    return memoryOfSkin(s.mesh(), cellOf(s.mesh(), a));
}

}  // namespace

double memoryOfSkin(const Mesh& m, double cell) {
    constexpr double bytesATriangle = 1700;
    return bytesATriangle * shape::trianglesForCell(m, cell);
}

const Step& wrapStep() {
    static const Step step = {
        .name = "wrap",
        .title = "Wrap in a new skin",
        .summary = "Makes a new closed skin around everything, sharp edges kept; for what no local repair closes.",
        .family = &familyClose,
        .words = {"shrink-wrap", "shrinkwrap", "voxel", "rebuild", "reconstruct", "envelope", "skin", "watertight",
                  "last resort"},
        .parameters = {cell, triangles, seal},
        .helpsWith = {check::openEdges, check::selfIntersections},
        .oneOf = {{"cell", "triangles"}},
        .run = run,
        .foresee = foresee,
        .memory = memoryOf,
        .wholeOnly = "a skin around a piece of surface would close it off from the rest"};
    return step;
}

}  // namespace zither::steps
