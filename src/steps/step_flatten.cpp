// Descriptor of `flatten`.
#include <fmt/format.h>

#include "check/catalogue.h"
#include "shape/flatten.h"
#include "steps/all_steps.h"
#include "steps/keep_solid.h"

namespace zither::steps {
namespace {

// What decimation leaves of a flat base, and more.
double proposedReach(const Surveyed& s) {
    constexpr double share = 0.005;
    const mesh::Box box = mesh::boxOf(s.mesh());
    return box.empty() ? 0.0 : share * box.diagonal();
}

enum class What { Base, Rims };
const Choice<What> what({.name = "what", .help = "The base (or what is picked), or every open rim."},
                        {{"base", What::Base}, {"rims", What::Rims}});
const Number within({.name = "within",
                     .kind = ParameterKind::Length,
                     .min = 0,
                     .max = 1e300,
                     .help = "No vertex moves farther. Proposed: a two-hundredth of the part.",
                     .propose = proposedReach});
const Place down({.name = "down",
                  .help = "A direction x,y,z that a base faces. Proposed: down.",
                  .optional = true,
                  .means = Parameter::Direction});

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    shape::FlattenOptions options;
    options.within = a[within];
    options.precision = mesh::precisionOf(s.mesh());
    const auto towards = directionAsked("flatten", a, down);
    if (!towards) return mesh::errorOf(towards);
    if (*towards) options.down = **towards;
    const bool rims = a[what] == What::Rims;
    shape::Flattened result = rims ? shape::flattenRims(s, pick, options) : shape::flattenBase(s, pick, options);
    Record record;
    record.add("planes", result.places.size());
    record.add("too_uneven", result.tooUneven);
    std::size_t vertices = 0;
    double farthest = 0;
    for (const shape::FlatPlace& p : result.places) {
        vertices += p.vertices;
        farthest = std::max(farthest, p.farthestMoved);
        record.say(fmt::format(
            "{} brought to one plane at {}, by {} at most{}.", counted(p.vertices, "vertex was", "vertices were"),
            placeText(p.at), lengthText(p.farthestMoved),
            p.farthestOff > 0 ? fmt::format("; rounded to within {} of it", lengthText(p.farthestOff))
                              : ", in which every one lies exactly"));
    }
    record.add("vertices_moved", vertices);
    record.add("farthest_moved", farthest);
    if (result.tooUneven > 0)
        record.say(fmt::format(
            "{} farther than {} from any plane, and stayed.",
            counted(result.tooUneven, rims ? "rim reaches" : "base reaches", rims ? "rims reach" : "bases reach"),
            lengthText(options.within)));
    else if (result.places.empty())
        record.say(rims ? "No surface ends anywhere: there is no rim." : "Nothing nearly flat lies at the bottom.");
    return unlessWorse(s, std::make_shared<const Surveyed>(std::move(result.mesh)), std::move(record), progress);
}

}  // namespace

const Step& flattenStep() {
    static const Step step = {.name = "flatten",
                              .title = "Flatten",
                              .summary = "Brings an uneven base, what is picked, or open rims to one plane.",
                              .family = &familyShape,
                              .words = {"flat", "plane", "base", "level", "planar"},
                              .parameters = {what, within, down},
                              .helpsWith = {},
                              .run = run,
                              .brings = "moved"};
    return step;
}

}  // namespace zither::steps
