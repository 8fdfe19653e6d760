// Descriptor of `orient`.
#include <fmt/format.h>

#include <algorithm>

#include "check/catalogue.h"
#include "repair/orient.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments&, Progress& progress) {
    auto result = repair::orient(s, pick, progress);
    if (!result) return mesh::errorOf(result);
    Record record;
    record.add("triangles_flipped", result->flipped);
    record.headline = fmt::format("{} flipped", result->flipped);
    record.add("patches_flipped", result->patchesFlipped);
    record.add("shells_turned_by_nesting", result->shellsTurned);
    record.add("one_sided_patches", result->oneSidedPatches);
    const auto byMajority = static_cast<std::size_t>(
        std::count_if(result->open.begin(), result->open.end(), [](const auto& e) { return e.byMajority; }));
    record.add("open_patches", result->open.size());
    record.add("open_patches_by_majority", byMajority);
    if (result->flipped > 0)
        record.sentences.push_back(fmt::format("Flipped {}.", counted(result->flipped, "triangle")));
    if (result->shellsTurned > 0)
        record.sentences.push_back(fmt::format(
            "{} turned by what encloses it.", counted(result->shellsTurned, "closed shell was", "closed shells were")));
    constexpr std::size_t mostSaid = 12;
    for (std::size_t i = 0; i < std::min(mostSaid, result->open.size()); ++i) {
        const repair::PatchEvidence& e = result->open[i];
        record.say(
            fmt::format("Open patch {} across at {}, {}: {:.0f} % of rays from its front leave the part, {:.0f} % "
                        "from its back; {}{}.",
                        lengthText(e.size), placeText(e.position), counted(e.triangles, "triangle"), 100 * e.frontSeen,
                        100 * e.backSeen, e.turned ? "turned" : "left as it was",
                        e.byMajority ? ", as most of its area faced" : ""));
    }
    if (result->oneSidedPatches > 0)
        record.sentences.push_back(
            fmt::format("{} cannot face one way (it closes on itself with a half turn) and keeps misoriented edges.",
                        counted(result->oneSidedPatches, "patch", "patches")));
    return StepOutput{std::move(result->mesh), std::move(record)};
}

std::string reason(const Survey& s, const Arguments&, std::span<const double>) {
    std::string said;
    if (s.counts.misorientedEdges > 0)
        said = fmt::format("Across {} the sides disagree.", counted(s.counts.misorientedEdges, "edge"));
    if (s.counts.inwardShells > 0)
        said += fmt::format("{}{} inward.", said.empty() ? "" : " ",
                            counted(s.counts.inwardShells, "shell faces", "shells face"));
    return said;
}

}  // namespace

const Step& orientStep() {
    static const Step step = {
        .name = "orient",
        .title = "Face one way, outwards",
        .summary = "Makes neighbours face the same way, and every shell outwards by what encloses it.",
        .family = &familyTurn,
        .words = {"normals", "flipped", "inverted", "inside out", "outward", "winding", "facing", "direction"},
        .parameters = {},
        .helpsWith = {check::misoriented, check::inwardShells},
        .run = run,
        .reason = reason};
    return step;
}

}  // namespace zither::steps
