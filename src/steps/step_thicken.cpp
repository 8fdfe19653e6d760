// Descriptor of `thicken`.
#include <fmt/format.h>

#include <algorithm>

#include "check/catalogue.h"
#include "enclose/volumes.h"
#include "measure/loss.h"
#include "shape/thin_places.h"
#include "steps/all_steps.h"
#include "steps/steps_tolerances.h"

namespace zither::steps {
namespace {

enum class Side { Behind, Front, Both };
const Choice<Side> side({.name = "side",
                         .help = "Of a sheet's faces: behind them, in front of them, or half on each side."},
                        {{"behind", Side::Behind}, {"front", Side::Front}, {"both", Side::Both}});
const Number thickness = sheetThickness(
    "Of the bodies, against the sheets' normals. Proposed: nearly a thousandth of the part; of a solid, the brief's "
    "wall.");

// What is solid has no sheets, but it may be thin.
Outcome<StepOutput> runOnSolid(const Surveyed& s, const Pick& pick, double wall, Progress& progress) {
    auto result = shape::thickenThinPlaces(s, pick, {.wall = wall, .precision = mesh::precisionOf(s.mesh())}, progress);
    if (!result) return leftBecause(result.error(), s.mesh());
    Record record;
    record.add("thickness", wall);
    record.add("thin_places_before", result->placesIn);
    record.add("thin_places_after", result->placesLeft);
    record.add("farthest_moved", result->farthest);
    record.add("unsound_places", result->unsound.size());
    if (result->placesIn == 0) {
        record.say(
            fmt::format("Nothing{} is thinner than {}.", pick.everything() ? "" : " that is picked", lengthText(wall)));
        return StepOutput{s.mesh(), std::move(record)};
    }
    record.say(
        fmt::format("{} thinner than {} ({} at the thinnest) {} material on both sides, at most {} from the "
                    "surface; the rest stays as it is.",
                    counted(result->placesIn, "place"), lengthText(wall), lengthText(result->thinnestIn),
                    result->placesIn == 1 ? "has" : "have", lengthText(result->farthest)));
    if (result->placesLeft > 0)
        record.say(fmt::format("{} still thinner, {} at the thinnest.",
                               counted(result->placesLeft, "place is", "places are"),
                               lengthText(result->thinnestLeft)));
    if (result->otherHoles)
        record.say("What runs through the part is not what it was: look for narrow gaps that were closed.");
    listUnsettled(result->unsound, record);
    record.told = toldShaped(s.mesh(), result->mesh);
    return StepOutput{std::move(result->mesh), std::move(record)};
}

// The sheets that are meant, turned over: what is behind them then was in front.
Mesh turnedOver(const Surveyed& s, const check::Survey& survey, const Pick& pick, bool alone) {
    const std::vector<std::uint8_t> chosen = pick.mask(s.mesh());
    Mesh turned = s.mesh();
    std::vector<std::uint8_t> sheets(chosen.size(), 0);
    for (mesh::TriangleId t = 0; t < chosen.size(); ++t) {
        const std::uint32_t shell = survey.shellOf[t];
        sheets[t] = chosen[t] && shell != mesh::noEdge && !survey.shells[shell].closed;
        if (sheets[t]) std::swap(turned.triangles[t][1], turned.triangles[t][2]);
    }
    return alone ? mesh::keepTriangles(turned, sheets) : turned;
}

// Behind the faces, in front of them, or half of it on each side.
Outcome<enclose::ThickSheets> thickSheets(const Surveyed& s, const check::Survey& survey, const Pick& pick, double wall,
                                          Side where, Progress& progress) {
    const mesh::Precision precision = mesh::precisionOf(s.mesh());
    if (where == Side::Behind) return enclose::thickenSheets(s, pick, wall, precision, progress);
    if (where == Side::Front) {
        const Surveyed turned(turnedOver(s, survey, pick, false));
        return enclose::thickenSheets(turned, pick, wall, precision, progress);
    }
    mesh::PartOfProgress first(progress, 0, 0.5);
    auto behind = enclose::thickenSheets(s, pick, wall / 2, precision, first);
    if (!behind || behind->sheets == 0) return behind;
    // The same sheets again, over the bodies that they have become the front of: both halves become one.
    Mesh both = std::move(behind->mesh);
    const auto from = static_cast<std::uint32_t>(both.triangles.size());
    mesh::appendPart(both, turnedOver(s, survey, pick, true));
    std::vector<mesh::TriangleId> fronts;
    for (std::uint32_t t = from; t < both.triangles.size(); ++t) fronts.emplace_back(t);
    const Surveyed halves(std::move(both));
    mesh::PartOfProgress second(progress, 0.5, 1);
    auto whole = enclose::thickenSheets(halves, Pick(std::move(fronts)), wall / 2, precision, second);
    if (!whole) return whole;
    mesh::append(whole->bodies, behind->bodies);
    whole->besideOpen = behind->besideOpen;
    whole->farthestMoved = std::max(whole->farthestMoved, behind->farthestMoved);
    return whole;
}

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    const double wall = a[thickness];
    const Side where = a[side];
    mesh::PartOfProgress asking(progress, 0, 0.1);
    const auto survey = s.survey(s.knownOptions(), asking);
    if (!survey) return mesh::errorOf(survey);
    if ((*survey)->solid && wall > 0) return runOnSolid(s, pick, wall, progress);
    auto result = thickSheets(s, **survey, pick, wall, where, progress);
    if (!result) return mesh::errorOf(result);
    Record record;
    record.add("sheets_thickened", result->sheets);
    record.add("triangles_thickened", result->triangles);
    record.add("thickness", wall);
    record.add("farthest_moved", result->farthestMoved);
    record.add("unsound_places", result->unsound.size());
    if (result->sheets > 0)
        record.say(fmt::format("{} {} thick {} {} faces.", counted(result->sheets, "sheet is", "sheets are"),
                               lengthText(wall),
                               where == Side::Behind  ? "behind"
                               : where == Side::Front ? "in front of"
                                                      : "on both sides of",
                               result->sheets == 1 ? "its" : "their"));
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

Number sheetThickness(std::string_view help) {
    return Number({.name = "thickness",
                   .kind = ParameterKind::Length,
                   .min = 0,
                   .max = 1e300,
                   .help = help,
                   .propose = [](const Surveyed& s) {
                       // Of a solid, what the brief asks of its walls.
                       if (const auto survey = s.known(); survey && survey->solid && survey->options.wall > 0)
                           return survey->options.wall;
                       const double seen = measure::lossTolerance(s.mesh());
                       // What has no area has a size all the same.
                       return tolerance::sheetThickness * (seen > 0 ? seen : mesh::boxOf(s.mesh()).diagonal() / 1000);
                   }});
}

const Step& thickenStep() {
    static const Step step = {.name = "thicken",
                              .title = "Thicken",
                              .summary =
                                  "Open surfaces become bodies of a given thickness, one with the closed bodies "
                                  "that they meet; of a solid, what is thinner gets that thickness.",
                              .family = &familyShape,
                              .words = {"thickness", "wall", "solidify", "extrude", "sheet", "shell", "offset", "thin"},
                              .parameters = {thickness, side},
                              .helpsWith = {check::openEdges, check::thinWalls, check::narrowWalls},
                              .run = run};
    return step;
}

}  // namespace zither::steps
