#include <fmt/format.h>

#include "repair/repair.h"
#include "steps/steps_list.h"

namespace zither::steps {
namespace {

Outcome<StepOutput> run(const Mesh& m, const Pick& pick, const Arguments& a, Progress& progress) {
    auto result = repair::weld(
        m, pick, {.distance = a.find("distance")->second, .openOnly = a.find("open-only")->second != 0}, progress);
    if (!result) return tl::unexpected(result.error());
    Record record;
    record.add("vertices_joined", result->joined);
    record.add("edges_split", result->split);
    record.add("collapsed_removed", result->collapsed);
    record.add("farthest_moved", result->farthestMoved);
    if (result->joined + result->split > 0)
        record.sentences.push_back(
            fmt::format("Joined {} and split {} where a corner met it; nothing moved farther than {}.",
                        counted(result->joined, "vertex", "vertices"), counted(result->split, "edge"),
                        lengthText(result->farthestMoved)));
    if (result->collapsed > 0)
        record.sentences.push_back(
            fmt::format("{} narrower than the distance collapsed and went.", counted(result->collapsed, "triangle")));
    return StepOutput{std::move(result->mesh), std::move(record)};
}

}  // namespace

Step weldStep() {
    return {"weld",
            "Weld the cracks",
            "Joins vertices within a distance of each other, and splits open edges at corners that lie on them.",
            {{.name = "distance",
              .kind = ParameterKind::Length,
              .min = 0,
              .max = 1e300,
              .fallback = 0,
              .help = "No vertex moves farther than this. Proposed: just above the cracks of this part.",
              .propose = repair::proposedWeldDistance},
             {.name = "open-only",
              .kind = ParameterKind::Flag,
              .min = 0,
              .max = 1,
              .fallback = 1,
              .help = "Only vertices on open edges; no: every vertex."}},
            {check::DefectClass::OpenEdges},
            run};
}

}  // namespace zither::steps
