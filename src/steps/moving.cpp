// The move itself is mesh::moved; the rest is what a file can hold of it.
#include "steps/moving.h"

#include <fmt/format.h>

#include <limits>

#include "measure/upright.h"
#include "mesh/parallel.h"
#include "steps/all_steps.h"
#include "steps/keep_solid.h"
#include "steps/steps_tolerances.h"

namespace zither::steps {
namespace {

// How far rounding takes any vertex from where the motion brings it.
double farthestRounded(const Mesh& before, const Mesh& after, const mesh::Motion& motion) {
    return mesh::parallelBlocks(
        after.positions.size(), 0.0,
        [&](std::size_t begin, std::size_t end) {
            double most = 0;
            for (std::size_t v = begin; v < end; ++v)
                most = std::max(most, (after.positions[v] - motion.of(before.positions[v])).norm());
            return most;
        },
        [](double a, double b) { return std::max(a, b); });
}

bool allFinite(const Mesh& m) {
    return std::all_of(m.positions.begin(), m.positions.end(), [](const mesh::Point& p) { return p.allFinite(); });
}

}  // namespace

std::string sizeText(const mesh::Box& box) {
    const mesh::Point size = box.extent();
    return fmt::format("{:.6g} x {:.6g} x {:.6g}", size.x(), size.y(), size.z());
}

mesh::Motion about(const mesh::Point& fixed, const Eigen::Matrix3d& linear) {
    return {linear, fixed - linear * fixed};
}

mesh::Box boxAfter(const Mesh& m, const mesh::Motion& motion) {
    const mesh::Box box = measure::boxTurned(m, motion.linear);
    return {box.min + motion.shift, box.max + motion.shift};
}

Outcome<StepOutput> movePart(const Surveyed& s, const mesh::Motion& motion, Record record, Progress& progress) {
    const Mesh& m = s.mesh();
    if (motion.isStill()) {
        record.say("It stands so already: nothing was done.");
        return StepOutput{m, std::move(record)};
    }
    const Mesh result = mesh::moved(m, motion);
    // What came from a file of 32 bits has to fit into one again.
    const bool single = mesh::precisionOf(m) == mesh::Precision::Single;
    if (!allFinite(result) ||
        (single && !m.triangles.empty() && mesh::boxOf(result).farthest() > std::numeric_limits<float>::max()))
        return mesh::badInput("it would come to lie, or become, larger than its coordinates can say",
                              mesh::errorcode::badParameter);
    const double rounded = farthestRounded(m, result, motion);
    record.motion = motion;
    record.add("scale", motion.scale());
    record.add("rounded_by", rounded);
    const mesh::Box box = mesh::boxOf(result);
    if (rounded > tolerance::roundingTold * box.diagonal())
        record.say(fmt::format(
            "So far from the origin {} bits a coordinate hold it to within {} only: that moved it by up to {}.",
            motion.precision == mesh::Precision::Single ? 32 : 64,
            lengthText(mesh::unitInLastPlace(motion.precision, box.farthest()) / 2), lengthText(rounded)));
    return keepSolid(s, {mesh::moved(m, {motion.linear, motion.shift, mesh::Precision::Double}), motion.precision},
                     std::move(record), progress);
}

}  // namespace zither::steps
