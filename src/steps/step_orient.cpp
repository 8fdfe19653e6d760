#include <fmt/format.h>

#include "repair/repair.h"
#include "steps/steps_list.h"

namespace zither::steps {
namespace {

Outcome<StepOutput> run(const Mesh& m, const Pick& pick, const Arguments&, Progress& progress) {
    auto result = repair::orient(m, pick, progress);
    if (!result) return tl::unexpected(result.error());
    Record record;
    record.add("triangles_flipped", result->flipped);
    record.add("patches_flipped", result->patchesFlipped);
    record.add("shells_turned_by_nesting", result->shellsTurned);
    record.add("one_sided_patches", result->oneSidedPatches);
    record.add("open_patches_by_majority", result->keptByMajority);
    if (result->flipped > 0)
        record.sentences.push_back(fmt::format("Flipped {}.", counted(result->flipped, "triangle")));
    if (result->shellsTurned > 0)
        record.sentences.push_back(fmt::format(
            "{} turned by what encloses it.", counted(result->shellsTurned, "closed shell was", "closed shells were")));
    if (result->keptByMajority > 0)
        record.sentences.push_back(
            fmt::format("{} enclosed no inside: the direction that most of its area had was kept.",
                        counted(result->keptByMajority, "open patch", "open patches")));
    if (result->oneSidedPatches > 0)
        record.sentences.push_back(
            fmt::format("{} cannot face one way (it closes on itself with a half turn) and keeps misoriented edges.",
                        counted(result->oneSidedPatches, "patch", "patches")));
    return StepOutput{std::move(result->mesh), std::move(record)};
}

}  // namespace

Step orientStep() {
    return {"orient",
            "Face one way, outwards",
            "Makes neighbours face the same way, and every shell outwards by what encloses it.",
            {},
            {check::DefectClass::Misoriented, check::DefectClass::InwardShells},
            run};
}

}  // namespace zither::steps
