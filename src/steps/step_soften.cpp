// Descriptor of `soften`.
#include <fmt/format.h>

#include <algorithm>

#include "shape/soften.h"
#include "steps/all_steps.h"
#include "steps/keep_solid.h"

namespace zither::steps {
namespace {

constexpr double usualRidge = 30;  // degrees

// A hundredth of the part; more where there are so many ridges that they would become too many triangles.
double proposedRadius(const Surveyed& s) {
    constexpr double share = 0.01;
    constexpr double usual = 100'000;
    constexpr double most = 300'000;
    const mesh::Box box = mesh::boxOf(s.mesh());
    if (box.empty()) return 0;
    // Of a part of many triangles it may be as many again.
    const double room = std::clamp(static_cast<double>(s.mesh().triangles.size()), usual, most);
    const shape::SoftenOptions options{.radius = share * box.diagonal(), .ridgeDeg = usualRidge};
    return options.radius * std::max(1.0, shape::trianglesToSoften(s, Pick(), options) / room);
}

const Number radius({.name = "radius",
                     .kind = ParameterKind::Length,
                     .min = 0,
                     .max = 1e300,
                     .help = "Nothing farther from a ridge changes. Proposed: a hundredth of "
                             "the part, or more where it has many ridges.",
                     .propose = proposedRadius});
const Number ridge({.name = "ridge",
                    .kind = ParameterKind::Angle,
                    .min = 1,
                    .max = 179,
                    .fallback = usualRidge,
                    .help = "Edges that turn by more are ridges, or valleys."});

shape::SoftenOptions optionsOf(const Surveyed& s, const Arguments& a) {
    shape::SoftenOptions options;
    options.radius = a[radius];
    options.ridgeDeg = a[ridge];
    options.precision = mesh::precisionOf(s.mesh());
    return options;
}

// Of the whole part.
double trianglesOf(const Surveyed& s, const Arguments& a) {
    return shape::trianglesToSoften(s, Pick(), optionsOf(s, a));
}

std::string foresee(const Surveyed& s, const Arguments& a) {
    return workText(trianglesOf(s, a));
}

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    const shape::SoftenOptions options = optionsOf(s, a);
    Record record;
    if (s.mesh().triangles.empty() || !(options.radius > 0)) return StepOutput{s.mesh(), std::move(record)};
    mesh::PartOfProgress bending(progress, 0, 0.8);
    auto result = shape::soften(s, pick, options, bending);
    if (!result) return leftBecause(result.error(), s.mesh());
    record.add("ridge_length", result->ridges);
    record.add("edges_split", result->split);
    record.add("vertices_moved", result->moved);
    record.add("farthest_moved", result->farthest);
    if (result->moved == 0) {
        record.say(result->ridges > 0 ? "The ridges are as round as they can be."
                                      : fmt::format("No edge{} turns by more than {:.4g}\u00B0.",
                                                    pick.everything() ? "" : " of the pick", options.ridgeDeg));
        return StepOutput{s.mesh(), std::move(record)};
    }
    record.say(fmt::format("Ridges of {} in all made round; the surface moved by {} at most, within {} of them.",
                           lengthText(result->ridges), lengthText(result->farthest), lengthText(options.radius)));
    record.told = toldShaped(s.mesh(), result->part->mesh());
    mesh::PartOfProgress looking(progress, 0.8, 1);
    return unlessWorse(s, std::move(result->part), std::move(record), looking, ": choose a smaller radius");
}

}  // namespace

const Step& softenStep() {
    static const Step step = {.name = "soften",
                              .title = "Soften ridges",
                              .summary = "Rounds ridges and valleys, as where two bodies were fused, within a radius.",
                              .family = &familyShape,
                              .words = {"fillet", "round", "blend", "radius", "rounding", "bevel", "chamfer", "edge"},
                              .parameters = {radius, ridge},
                              .helpsWith = {},
                              .run = run,
                              .brings = "moved",
                              .foresee = foresee};
    return step;
}

}  // namespace zither::steps
