// Descriptor of `offset`.
#include <fmt/format.h>

#include <cmath>

#include "mesh/tolerances.h"
#include "shape/offset.h"
#include "shape/wrap.h"
#include "steps/steps_list.h"

namespace zither::steps {
namespace {

double cellOf(const Arguments& a) {
    const double cell = a.find("cell")->second;
    constexpr double usual = 1.0 / 3;  // of the distance
    return cell > 0 ? cell : usual * std::abs(a.find("distance")->second.number);
}

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    const double distance = a.find("distance")->second;
    Record record;
    if (s.mesh().triangles.empty() || distance == 0) return StepOutput{s.mesh(), std::move(record)};
    const double cell = cellOf(a);
    if (cell > 0.5 * std::abs(distance))
        return mesh::badInput("step 'offset': cell must be at most half the distance", mesh::errorcode::badParameter);
    auto result = shape::offset(s,
                                {.distance = distance,
                                 .sharp = a.find("corners")->second.text != "round",
                                 .cell = cell,
                                 .precision = mesh::precisionOf(s.mesh())},
                                progress);
    if (!result) return leftBecause(result.error(), s.mesh());
    if (result->mesh.triangles.empty()) {
        record.say(fmt::format("Nothing here is {} deep, so nothing was done.", lengthText(-distance)));
        return StepOutput{s.mesh(), std::move(record)};
    }
    record.add("distance", distance);
    record.add("made_anew", static_cast<double>(result->anew));
    record.add("nearest", result->nearest);
    record.add("farthest", result->farthest);
    record.add("points_measured", result->points);
    record.say(fmt::format("{} by {}: between {} and {} from what came in, at {} points.",
                           distance > 0 ? "Grown" : "Shrunk", lengthText(std::abs(distance)),
                           lengthText(result->nearest), lengthText(result->farthest), result->points));
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

// A hundredth of the longest side.
double proposedDistance(const Surveyed& s) {
    return s.mesh().triangles.empty() ? 0.0 : mesh::boxOf(s.mesh()).extent().maxCoeff() / 100;
}

}  // namespace

const Step& offsetStep() {
    static const Step step = {
        .name = "offset",
        .title = "Offset",
        .summary = "A solid grown or shrunk by a length everywhere.",
        .family = &familyShape,
        .words = {"grow", "shrink", "inflate", "dilate", "erode", "expand", "clearance", "shell"},
        .parameters = {{.name = "distance",
                        .kind = ParameterKind::Length,
                        .min = -1e300,
                        .max = 1e300,
                        .help = "Outwards; below 0: inwards. Proposed: a hundredth of the longest side.",
                        .propose = proposedDistance},
                       {.name = "corners",
                        .kind = ParameterKind::Choice,
                        .help = "Corners stay sharp where that folds nowhere, or are as round as the distance.",
                        .choices = {"sharp", "round"}},
                       {.name = "cell",
                        .kind = ParameterKind::Length,
                        .min = 0,
                        .max = 1e300,
                        .help = "Edge of a cell of the grid, where the surface is made anew.",
                        .zero = "a third of the distance"}},
        .helpsWith = {},
        .run = run,
        .foresee = foresee,
        .memory = memoryOf,
        .wholeOnly = "a piece of surface has no inside to grow or shrink"};
    return step;
}

}  // namespace zither::steps
