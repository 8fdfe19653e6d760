// Descriptor of `thicken`.
#include <fmt/format.h>

#include "check/catalogue.h"
#include "measure/loss.h"
#include "mesh/tolerances.h"
#include "repair/volumes.h"
#include "steps/steps_list.h"

namespace zither::steps {
namespace {

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    const double thickness = a.find("thickness")->second;
    auto result = repair::thickenSheets(s, pick, thickness, mesh::precisionOf(s.mesh()), progress);
    if (!result) return tl::unexpected(result.error());
    Record record;
    record.add("sheets_thickened", result->sheets);
    record.add("triangles_thickened", result->triangles);
    record.add("thickness", thickness);
    record.add("farthest_moved", result->farthestMoved);
    record.add("unsound_places", result->unsound.size());
    if (result->sheets > 0)
        record.say(fmt::format("{} {} thick behind {} faces.", counted(result->sheets, "sheet is", "sheets are"),
                               lengthText(thickness), result->sheets == 1 ? "its" : "their"));
    if (result->sheets == 0)
        record.say(pick.everything() ? "No surface ends anywhere: there is no sheet."
                                     : "What is picked is closed: it bounds a body already, and is no sheet.");
    if (result->besideOpen && result->sheets > 0)
        record.say("Open surfaces beside them stay as they are, with whatever crosses them.");
    listUnsettled(result->unsound, record);
    record.told = std::make_shared<const measure::Told>(measure::Told{.bodies = std::move(result->bodies)});
    return StepOutput{std::move(result->mesh), std::move(record)};
}

}  // namespace

Parameter sheetThickness(std::string_view help) {
    return {.name = "thickness",
            .kind = ParameterKind::Length,
            .min = 0,
            .max = 1e30,
            .help = help,
            .propose = [](const Surveyed& s) {
                const double seen = measure::lossTolerance(s.mesh());
                // What has no area has a size all the same.
                return tolerance::sheetThickness * (seen > 0 ? seen : mesh::boxOf(s.mesh()).diagonal() / 1000);
            }};
}

const Step& thickenStep() {
    static const Step step = {
        .name = "thicken",
        .title = "Thicken sheets",
        .summary =
            "Open surfaces become bodies of a given thickness behind their faces, one with the closed bodies "
            "that they meet.",
        .parameters = {sheetThickness(
            "Of the bodies, against the sheets' normals. Proposed: nearly a thousandth of the part.")},
        .helpsWith = {check::openEdges},
        .run = run};
    return step;
}

}  // namespace zither::steps
