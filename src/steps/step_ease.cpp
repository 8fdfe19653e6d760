// Descriptor of `ease`.
#include <fmt/format.h>

#include "check/catalogue.h"
#include "fit/ease.h"
#include "steps/all_steps.h"
#include "steps/keep_solid.h"
#include "steps/steps_tolerances.h"

namespace zither::steps {
namespace {

double proposedTolerance(const Surveyed& s) {
    return shareOfPart(s, tolerance::proposedEaseMove);
}

const Number tolerance({.name = "tolerance",
                        .kind = ParameterKind::Length,
                        .min = 0,
                        .max = 1e300,
                        .help = "The surface moves no farther than this. Proposed: a ten thousandth of the part.",
                        .propose = proposedTolerance});

std::uint64_t placesOf(const check::Counts& c) {
    return c.needles + c.folds + c.hairGaps;
}

// What is left of a class, by place.
void listLeft(const Survey& survey, check::DefectClass defect, std::string_view what, Record& record) {
    constexpr std::size_t most = 20;
    std::size_t listed = 0;
    for (const check::Finding& f : survey.findings.list) {
        if (f.defect != defect || ++listed > most) continue;
        record.listed.push_back({Listed::Left, f.position, f.size,
                                 fmt::format("{}, {} across, at {}: it takes more than the tolerance to mend.", what,
                                             lengthText(f.size), placeText(f.position))});
    }
}

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    mesh::PartOfProgress looking(progress, 0, 0.2);
    const auto before = s.survey(s.knownOptions(), looking);
    if (!before) return mesh::errorOf(before);
    const check::Counts& was = (*before)->counts;
    Record record;
    if (was.boundaryEdges + was.nonmanifoldEdges + was.nonmanifoldVertices + was.selfIntersectingTriangles +
            was.duplicateTriangles + was.degenerateTriangles + was.misorientedEdges >
        0) {
        record.say("Nothing was done: the surface is open, or crosses itself. Repair it first.");
        return StepOutput{s.mesh(), std::move(record)};
    }
    fit::EaseOptions options{.tolerance = a[tolerance], .precision = mesh::precisionOf(s.mesh())};
    options.fixed = besidePick(s.mesh(), pick);
    mesh::PartOfProgress easing(progress, 0.2, 0.8);
    auto result = fit::ease(s.mesh(), options, easing);
    if (!result) return mesh::errorOf(result);
    const auto part = std::make_shared<const Surveyed>(std::move(result->mesh));
    mesh::PartOfProgress proving(progress, 0.8, 1);
    const auto after = part->survey(s.knownOptions(), proving);
    if (!after) return mesh::errorOf(after);
    const check::Counts& is = (*after)->counts;
    record.add("needles_left", is.needles);
    record.add("folds_left", is.folds);
    record.add("hair_gaps_left", is.hairGaps);
    record.add("vertices_parted", result->parted);
    record.add("farthest_moved", result->farthestMoved);
    if (result->flakes + result->narrow + result->unfolded + result->parted == 0)
        return StepOutput{{}, std::move(record), part};
    record.headline = fmt::format("{} places, {} left", placesOf(was), placesOf(is));
    record.sentences.push_back(fmt::format(
        "Needles {} -> {}, folds {} -> {}, hair gaps {} -> {}; the surface moved by "
        "{} at most.",
        was.needles, is.needles, was.folds, is.folds, was.hairGaps, is.hairGaps, lengthText(result->farthestMoved)));
    listLeft(**after, check::needles, "Needles", record);
    listLeft(**after, check::folds, "Fold", record);
    listLeft(**after, check::hairGaps, "Hair gap", record);
    return unlessWorse(s, part, std::move(record), proving);
}

std::string reason(const Survey& s, const Arguments&, std::span<const double>) {
    const check::Counts& c = s.counts;
    if (placesOf(c) == 0) return {};
    return onlyThere({{c.needles, counted(c.needles, "needle")},
                      {c.folds, counted(c.folds, "fold")},
                      {c.hairGaps, counted(c.hairGaps, "hair gap")}},
                     ", ") +
           ": most meshers stop at them.";
}

}  // namespace

const Step& easeStep() {
    static const Step step = {
        .name = "ease",
        .title = "Ease for a mesher",
        .summary =
            "Takes out needles, lays folds flat and moves skins apart that all but touch, by lengths that nobody "
            "sees.",
        .family = &familyTriangles,
        .words = {"mesher", "volume mesh", "needle", "fold", "hair gap", "thin", "sliver", "tolerance", "part"},
        .parameters = {tolerance},
        .helpsWith = {check::needles, check::folds, check::hairGaps},
        .run = run,
        .reason = reason};
    return step;
}

}  // namespace zither::steps
