// Descriptor of `smooth`.
#include <fmt/format.h>

#include <cmath>

#include "check/catalogue.h"
#include "measure/loss.h"
#include "shape/smooth.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

// A few edges: what one triangle alone makes uneven.
double proposedScale(const Surveyed& s) {
    constexpr double edges = 6;
    return edges * measure::edgeLengthOf(s.mesh(), s.edges()).mean;
}

const Number scale({.name = "scale",
                    .kind = ParameterKind::Length,
                    .min = 0,
                    .max = 1e300,
                    .help = "Ripples of this length become half as high, shorter ones go, longer ones stay. "
                            "Proposed: six edges.",
                    .propose = proposedScale});
const Number deviation({.name = "deviation",
                        .kind = ParameterKind::Length,
                        .min = 0,
                        .max = 1e300,
                        .help = "No vertex moves farther. Proposed: what counts as lost beyond it.",
                        .propose = [](const Surveyed& s) { return measure::lossTolerance(s.mesh()); }});
const Number crease({.name = "crease",
                     .kind = ParameterKind::Angle,
                     .min = 1,
                     .max = 180,
                     .fallback = 35,
                     .help = "Edges that turn by more are creases, and stay, but for those shorter than the "
                             "scale."});

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    shape::SmoothOptions options;
    options.scale = a[scale];
    options.deviation = a[deviation];
    options.creaseDeg = a[crease];
    options.precision = mesh::precisionOf(s.mesh());
    Record record;
    if (s.mesh().triangles.empty() || !(options.scale > 0) || !(options.deviation > 0))
        return StepOutput{s.mesh(), std::move(record)};
    auto result = shape::smooth(s, pick, options, progress);
    if (!result) return mesh::errorOf(result);
    const bool closed = result->volumeBefore > 0;
    const double change = closed ? 100 * std::abs(result->volumeAfter / result->volumeBefore - 1) : 0;
    record.add("vertices_moved", result->moved);
    record.add("vertices_fixed", result->fixed);
    record.add("vertices_held_back", result->heldBack);
    record.add("farthest_moved", result->farthest);
    record.add("volume_change_percent", change);
    if (result->moved == 0) {
        record.say("Nothing could be made smoother.");
        return StepOutput{s.mesh(), std::move(record)};
    }
    record.say(fmt::format("{} moved, at most {}: nowhere is the surface farther from what came in{}.",
                           counted(result->moved, "vertex was", "vertices were"), lengthText(result->farthest),
                           closed ? fmt::format("; the volume is another by {:.2g} %", change) : ""));
    if (result->fixed > 0)
        record.say(fmt::format("{} on creases and borders stayed.", counted(result->fixed, "vertex", "vertices")));
    if (result->heldBack > 0)
        record.say(fmt::format("{} would have gone farther, or met something, and went less.",
                               counted(result->heldBack, "vertex", "vertices")));
    return StepOutput{{}, std::move(record), std::move(result->part)};
}

}  // namespace

const Step& smoothStep() {
    static const Step step = {
        .name = "smooth",
        .title = "Smooth",
        .summary = "Ripples go, the shape stays: nothing shrinks, creases and borders keep their place.",
        .family = &familyShape,
        .words = {"fair", "relax", "noise", "denoise", "ripple", "laplacian", "polish"},
        .parameters = {scale, deviation, crease},
        .helpsWith = {},
        .run = run,
        .brings = "moved"};
    return step;
}

}  // namespace zither::steps
