// Descriptor of `refine-slivers`.
#include <fmt/format.h>

#include "check/catalogue.h"
#include "fit/sliver_removal.h"
#include "steps/all_steps.h"
#include "steps/steps_tolerances.h"

namespace zither::steps {
namespace {

// Far below what is seen or printed.
double proposedTolerance(const Surveyed& s) {
    return shareOfPart(s, tolerance::proposedSliverMove);
}

const Number angle({.name = "angle",
                    .kind = ParameterKind::Angle,
                    .min = 0,
                    .max = 30,
                    .fallback = 5,
                    .help = "Triangles with a smaller angle are slivers."});
const Number tolerance({.name = "tolerance",
                        .kind = ParameterKind::Length,
                        .min = 0,
                        .max = 1e300,
                        .help = "The surface moves no farther than this. Proposed: a ten thousandth of the part.",
                        .propose = proposedTolerance});

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    fit::SliverOptions options;
    options.tolerance = a[tolerance];
    options.angleDeg = a[angle];
    options.slides = options.widens = options.angleDeg == 0;
    options.precision = mesh::precisionOf(m);
    options.fixed = besidePick(m, pick);
    auto result = fit::removeSlivers(m, options, progress);
    if (!result) return mesh::errorOf(result);
    Record record;
    record.add("edges_collapsed", result->collapsed);
    record.add("edges_swapped", result->swapped);
    record.add("slivers_left", result->left);
    record.add("farthest_moved", result->farthestMoved);
    if (result->collapsed + result->swapped > 0)
        record.say(fmt::format("Collapsed {} and swapped {}; the surface moved by {} at most.",
                               counted(result->collapsed, "edge"), counted(result->swapped, "edge"),
                               lengthText(std::max(result->farthestMoved, 0.0))));
    if (result->left > 0)
        record.say(fmt::format("{} left: no change within the tolerance makes it better without harm.",
                               counted(result->left, "sliver is", "slivers are")));
    return StepOutput{std::move(result->mesh), std::move(record)};
}

}  // namespace

const Step& refineSliversStep() {
    static const Step step = {
        .name = "refine-slivers",
        .title = "Refine slivers",
        .summary = "Takes needles and caps out by collapsing and swapping edges; nothing is made to cross.",
        .family = &familyTriangles,
        .words = {"sliver", "needle", "cap", "skinny", "bad triangles", "aspect", "quality", "small angle"},
        .parameters = {angle, tolerance},
        .helpsWith = {check::slivers, check::degenerate},
        .run = run,
        .brings = "cut"};
    return step;
}

}  // namespace zither::steps
