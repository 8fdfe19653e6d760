#include <fmt/format.h>

#include "repair/repair.h"
#include "steps/steps_list.h"

namespace zither::steps {
namespace {

// An opening above a fifth of the part is more likely meant than torn.
double proposedSize(const Mesh& m) {
    return 0.2 * mesh::boxOf(m).diagonal();
}

Outcome<StepOutput> run(const Mesh& m, const Pick& pick, const Arguments& a, Progress& progress) {
    auto result = repair::fill(m, pick, {.maxSize = a.find("size")->second}, progress);
    if (!result) return tl::unexpected(result.error());
    Record record;
    record.add("holes_filled", result->filled);
    record.add("triangles_added", result->added);
    record.add("largest_filled", result->largestFilled);
    record.add("openings_left", result->left.size());
    record.add("rims_not_closed", result->notClosed);
    if (result->filled > 0)
        record.sentences.push_back(fmt::format("Filled {} with {}; the largest is {} across.",
                                               counted(result->filled, "hole"), counted(result->added, "triangle"),
                                               lengthText(result->largestFilled)));
    for (const auto& opening : result->left)
        record.sentences.push_back(fmt::format("Left open: {} across, {}, at {}.", lengthText(opening.size),
                                               counted(opening.edges, "edge"), placeText(opening.position)));
    if (result->notClosed > 0)
        record.sentences.push_back(
            fmt::format("{} no closed way round, because neighbours face opposite ways: run orient first.",
                        counted(result->notClosed, "rim has", "rims have")));
    return StepOutput{std::move(result->mesh), std::move(record)};
}

}  // namespace

Step fillStep() {
    return {
        "fill",
        "Fill the holes",
        "Closes each hole up to a size with the smallest patch that does not fold.",
        {{.name = "size",
          .kind = ParameterKind::Length,
          .min = 0,
          .max = 1e300,
          .fallback = 0,
          .help = "Only holes up to this extent; larger openings are listed and left. Proposed: a fifth of the part.",
          .propose = proposedSize}},
        {check::DefectClass::OpenEdges},
        run};
}

}  // namespace zither::steps
