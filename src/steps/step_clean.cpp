// Descriptor of `clean`.
#include <fmt/format.h>

#include "check/catalogue.h"
#include "repair/clean.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments&, Progress& progress) {
    auto result = repair::clean(s, pick, progress);
    if (!result) return mesh::errorOf(result);
    Record record;
    record.add("collapsed_removed", result->collapsed);
    record.add("duplicates_removed", result->duplicates);
    record.add("unused_vertices_removed", result->unusedVertices);
    if (result->collapsed + result->duplicates > 0)
        record.sentences.push_back(fmt::format("Removed {} and {}; no point of the surface moved.",
                                               counted(result->collapsed, "collapsed triangle"),
                                               counted(result->duplicates, "duplicate")));
    return StepOutput{std::move(result->mesh), std::move(record)};
}

std::string reason(const Survey& s, const Arguments&, std::span<const double>) {
    const auto& c = s.counts;
    if (c.duplicateTriangles + c.collapsedTriangles == 0) return {};
    return fmt::format("{} on each other, {} to a line or a point.",
                       counted(c.duplicateTriangles, "triangle lies", "triangles lie"),
                       counted(c.collapsedTriangles, "is drawn together", "are drawn together"));
}

}  // namespace

const Step& cleanStep() {
    static const Step step = {
        .name = "clean",
        .title = "Clean out surplus",
        .summary = "Removes triangles without area between equal corners, surplus duplicates and unused vertices.",
        .family = &familyCutAway,
        .words = {"duplicate", "degenerate", "zero area", "unused vertices", "tidy", "double faces", "garbage"},
        .parameters = {},
        .helpsWith = {check::duplicates, check::degenerate},
        .run = run,
        .reason = reason};
    return step;
}

}  // namespace zither::steps
