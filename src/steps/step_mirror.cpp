// Descriptor of `mirror`.
#include <fmt/format.h>

#include "steps/moving.h"
#include "steps/steps_list.h"

namespace zither::steps {
namespace {

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    const Eigen::Index axis = axisAsked(a);
    const std::string& at = a.find("at")->second.text;
    mesh::Motion motion;
    motion.linear(axis, axis) = -1;
    double plane = mesh::boxOf(s.mesh()).centre()[axis];
    if (at == "origin") plane = 0;
    motion.shift[axis] = 2 * plane;
    Record record;
    record.say(fmt::format("Mirrored at the plane {} = {:.6g}; outside stays outside.", "xyz"[axis], plane));
    return movePart(s, motion, std::move(record), progress);
}

}  // namespace

const Step& mirrorStep() {
    static const Step step = {
        .name = "mirror",
        .title = "Mirror",
        .summary = "Turns left into right at a plane; outside stays outside.",
        .family = &familyTurn,
        .words = {"reflect", "symmetry", "left", "right"},
        .parameters = {{.name = "axis",
                        .kind = ParameterKind::Choice,
                        .help = "The plane lies across this axis.",
                        .choices = {"x", "y", "z"}},
                       {.name = "at",
                        .kind = ParameterKind::Choice,
                        .help = "Through the middle of the part, which stays where it is, or through the origin.",
                        .choices = {"middle", "origin"}}},
        .helpsWith = {},
        .run = run,
        .brings = "moved",
        .wholeOnly = movesAsOne};
    return step;
}

}  // namespace zither::steps
