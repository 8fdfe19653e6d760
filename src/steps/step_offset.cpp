// Descriptor of `offset`.
#include <fmt/format.h>

#include <cmath>

#include "shape/offset.h"
#include "shape/wrap.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

// A hundredth of the longest side.
double proposedDistance(const Surveyed& s) {
    return s.mesh().triangles.empty() ? 0.0 : mesh::boxOf(s.mesh()).extent().maxCoeff() / 100;
}

const Number distance({.name = "distance",
                       .kind = ParameterKind::Length,
                       .min = -1e300,
                       .max = 1e300,
                       .help = "Outwards; below 0: inwards. Proposed: a hundredth of the longest side.",
                       .propose = proposedDistance});
enum class Corners { Sharp, Round };
const Choice<Corners> corners({.name = "corners",
                               .help = "Corners stay sharp where that folds nowhere, or are as round as the distance."},
                              {{"sharp", Corners::Sharp}, {"round", Corners::Round}});
const Number cell({.name = "cell",
                   .kind = ParameterKind::Length,
                   .min = 0,
                   .max = 1e300,
                   .help = "Edge of a cell of the grid, where the surface is made anew.",
                   .zero = "a third of the distance"});

double cellOf(const Arguments& a) {
    const double asked = a[cell];
    constexpr double usual = 1.0 / 3;  // of the distance
    return asked > 0 ? asked : usual * std::abs(a[distance]);
}

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    const double way = a[distance];
    Record record;
    if (s.mesh().triangles.empty() || way == 0) return StepOutput{s.mesh(), std::move(record)};
    const double grid = cellOf(a);
    if (grid > 0.5 * std::abs(way))
        return mesh::badInput("step 'offset': cell must be at most half the distance", mesh::errorcode::badParameter);
    auto result = shape::offset(s,
                                {.distance = way,
                                 .sharp = a[corners] == Corners::Sharp,
                                 .cell = grid,
                                 .precision = mesh::precisionOf(s.mesh())},
                                progress);
    if (!result) return leftBecause(result.error(), s.mesh());
    if (result->mesh.triangles.empty()) {
        record.say(fmt::format("Nothing here is {} deep, so nothing was done.", lengthText(-way)));
        return StepOutput{s.mesh(), std::move(record)};
    }
    record.add("distance", way);
    record.add("made_anew", static_cast<double>(result->anew));
    record.add("nearest", result->nearest);
    record.add("farthest", result->farthest);
    record.add("points_measured", result->points);
    record.say(fmt::format("{} by {}: between {} and {} from what came in, at {} points.", way > 0 ? "Grown" : "Shrunk",
                           lengthText(std::abs(way)), lengthText(result->nearest), lengthText(result->farthest),
                           result->points));
    record.say(result->anew ? "Made anew by distance: none of the old triangles stays."
                            : "Every triangle stays, moved outwards or inwards; corners stay sharp.");
    record.told = toldShaped(s.mesh(), result->mesh);
    return StepOutput{std::move(result->mesh), std::move(record)};
}

std::string foresee(const Surveyed& s, const Arguments& a) {
    return cellOf(a) > 0 ? workText(shape::trianglesForCell(s.mesh(), cellOf(a))) : std::string();
}

double memoryOf(const Surveyed& s, const Arguments& a) {
    return memoryOfSkin(s.mesh(), cellOf(a));
}

}  // namespace

const Step& offsetStep() {
    static const Step step = {.name = "offset",
                              .title = "Offset",
                              .summary = "A solid grown or shrunk by a length everywhere.",
                              .family = &familyShape,
                              .words = {"grow", "shrink", "inflate", "dilate", "erode", "expand", "clearance", "shell"},
                              .parameters = {distance, corners, cell},
                              .helpsWith = {},
                              .run = run,
                              .foresee = foresee,
                              .memory = memoryOf,
                              .wholeOnly = "a piece of surface has no inside to grow or shrink"};
    return step;
}

}  // namespace zither::steps
