// Descriptor of `mirror`.
#include <fmt/format.h>

#include "steps/all_steps.h"
#include "steps/moving.h"

namespace zither::steps {
namespace {

const Choice<Eigen::Index> axis({.name = "axis", .help = "The plane lies across this axis."},
                                {{"x", 0}, {"y", 1}, {"z", 2}});
enum class At { Middle, Origin };
const Choice<At> at({.name = "at",
                     .help = "Through the middle of the part, which stays where it is, or through the origin."},
                    {{"middle", At::Middle}, {"origin", At::Origin}});

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    const Eigen::Index across = a[axis];
    mesh::Motion motion{.precision = mesh::precisionOf(s.mesh())};
    motion.linear(across, across) = -1;
    double plane = mesh::boxOf(s.mesh()).centre()[across];
    if (a[at] == At::Origin) plane = 0;
    motion.shift[across] = 2 * plane;
    Record record;
    record.say(fmt::format("Mirrored at the plane {} = {:.6g}; outside stays outside.", "xyz"[across], plane));
    return movePart(s, motion, std::move(record), progress);
}

}  // namespace

const Step& mirrorStep() {
    static const Step step = {.name = "mirror",
                              .title = "Mirror",
                              .summary = "Turns left into right at a plane; outside stays outside.",
                              .family = &familyTurn,
                              .words = {"reflect", "symmetry", "left", "right"},
                              .parameters = {axis, at},
                              .helpsWith = {},
                              .run = run,
                              .brings = "moved",
                              .wholeOnly = movesAsOne};
    return step;
}

}  // namespace zither::steps
