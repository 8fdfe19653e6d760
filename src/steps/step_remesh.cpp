// Descriptor of `remesh`.
#include <fmt/format.h>

#include <cmath>

#include "check/catalogue.h"
#include "measure/mass.h"
#include "shape/remesh.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

// The mean edge of as many even triangles as there are.
double proposedLength(const Surveyed& s) {
    const double area = measure::massOf(s.mesh()).area;
    constexpr double even = 4 / 1.7320508075688772;  // squared edge over area, of an even triangle
    const auto count = static_cast<double>(std::max<std::size_t>(1, s.mesh().triangles.size()));
    return std::sqrt(even * area / count);
}

const Number length({.name = "length",
                     .kind = ParameterKind::Length,
                     .min = 0,
                     .max = 1e300,
                     .help = "Of edges, where nothing asks for shorter ones. Proposed: as many triangles as there "
                             "are.",
                     .propose = proposedLength});
const Number shortest({.name = "shortest",
                       .kind = ParameterKind::Length,
                       .min = 0,
                       .max = 1e300,
                       .help = "Of edges where the surface is curved most.",
                       .zero = "all alike"});
const Number deviation({.name = "deviation",
                        .kind = ParameterKind::Length,
                        .min = 0,
                        .max = 1e300,
                        .help = "The surface comes no farther from what came in; edges become shorter for it.",
                        .zero = "a tenth of the length"});
const Number crease({.name = "crease",
                     .kind = ParameterKind::Angle,
                     .min = 1,
                     .max = 180,
                     .fallback = 35,
                     .help = "Edges that turn by more are creases, and stay."});

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    shape::RemeshOptions options;
    options.creaseDeg = a[crease];
    options.target.longest = a[length];
    if (!(options.target.longest > 0)) options.target.longest = proposedLength(s);
    const double least = a[shortest];
    const double bound = a[deviation];
    if (least > options.target.longest)
        return mesh::badInput("step 'remesh': shortest must not be more than length", mesh::errorcode::badParameter);
    options.target.shortest = least > 0 ? least : options.target.longest;
    constexpr double usual = 0.1;  // of the length
    options.target.deviation = bound > 0 ? bound : usual * options.target.longest;
    Record record;
    if (s.mesh().triangles.empty()) return StepOutput{s.mesh(), std::move(record)};
    auto result = shape::remesh(s, pick, options, progress);
    if (!result) return mesh::errorOf(result);
    record.add("mean_edge", result->meanEdge);
    record.add("smallest_angle", result->smallestAngleDeg);
    record.add("share_below_30", result->shareBelow30);
    record.add("lines_kept", result->lines);
    record.add("triangles_held", result->heldTriangles);
    if (result->heldTriangles == s.mesh().triangles.size()) {
        record.say("New triangles would meet each other wherever they were tried: it is left as it came.");
        return StepOutput{s.mesh(), std::move(record)};
    }
    record.say(
        fmt::format("{} in place of {}: edges of {} on average, the smallest angle {:.3g}\u00B0, {:.3g} % below "
                    "30\u00B0.",
                    counted(result->mesh().triangles.size(), "triangle"), s.mesh().triangles.size(),
                    lengthText(result->meanEdge), result->smallestAngleDeg, 100 * result->shareBelow30));
    record.say(
        fmt::format("{} kept.", counted(result->lines, "crease or border line was", "crease and border lines were")));
    record.add("deviation_bound", result->deviation);
    record.say(fmt::format("No farther than {} from what came in, both ways.", lengthText(result->deviation)));
    if (result->heldTriangles > 0)
        record.say(fmt::format("{} stayed as they came: new ones would meet others there, or lead too far.",
                               counted(result->heldTriangles, "triangle")));
    return StepOutput{{}, std::move(record), std::move(result->part)};
}

}  // namespace

const Step& remeshStep() {
    static const Step step = {
        .name = "remesh",
        .title = "Remesh evenly",
        .summary =
            "Even triangles of one edge length, or sized by curvature, in place of those that came; creases and "
            "borders stay.",
        .family = &familyTriangles,
        .words = {"even", "uniform", "isotropic", "retriangulate", "mesh size", "element size", "equilateral",
                  "curvature"},
        .parameters = {length, shortest, deviation, crease},
        .helpsWith = {check::slivers, check::narrowWalls},
        .run = run,
        .brings = "new"};
    return step;
}

}  // namespace zither::steps
