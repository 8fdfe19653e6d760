// Rounded, looked at, and only then mended.
#include "steps/keep_solid.h"

#include <fmt/format.h>

#include "check/worse.h"
#include "fit/fit.h"
#include "mesh/parallel.h"
#include "steps/all_steps.h"

namespace zither::steps {

namespace {

// In a part that is broken already, a step may add to it.
void sayWhatIsWorse(const check::Survey& was, const check::Survey& is, Record& record) {
    if (std::string worse = check::worseText(was, is); !worse.empty()) record.say(std::move(worse));
}

}  // namespace

Outcome<StepOutput> keepSolid(const Surveyed& before, Unrounded&& made, Record record, Progress& progress) {
    mesh::PartOfProgress asking(progress, 0, 0.4);
    const auto was = before.survey(before.knownOptions(), asking);
    if (!was) return mesh::errorOf(was);
    Mesh rounded = made.mesh;
    mesh::parallelFor(rounded.positions.size(), mesh::blockSize, [&](std::size_t v) {
        rounded.positions[v] = mesh::rounded(made.precision, rounded.positions[v]);
    });
    auto part = std::make_shared<const Surveyed>(std::move(rounded));
    mesh::PartOfProgress looking(progress, 0.4, 0.8);
    const auto is = part->survey(before.knownOptions(), looking);
    if (!is) return mesh::errorOf(is);
    if (!(*was)->solid) sayWhatIsWorse(**was, **is, record);
    if ((*is)->solid || !(*was)->solid) return StepOutput{{}, std::move(record), std::move(part)};
    mesh::PartOfProgress mending(progress, 0.8, 1);
    auto fitted = fit::makeFit(made.mesh, {.precision = made.precision}, mending);
    if (!fitted) return mesh::errorOf(fitted);
    record.sentences.emplace_back("Rounding would have broken it, and was mended where it did.");
    record.add("unsettled_places", fitted->unsound.size());
    listUnsettled(fitted->unsound, record);
    return StepOutput{std::move(fitted->mesh), std::move(record)};
}

Outcome<StepOutput> unlessWorse(const Surveyed& before, SurveyedPtr part, Record record, Progress& progress,
                                std::string_view advice) {
    mesh::PartOfProgress asking(progress, 0, 0.5);
    const auto was = before.survey(before.knownOptions(), asking);
    if (!was) return mesh::errorOf(was);
    mesh::PartOfProgress looking(progress, 0.5, 1);
    const auto is = part->survey(before.knownOptions(), looking);
    if (!is) return mesh::errorOf(is);
    if ((*was)->solid && !(*is)->solid) {
        Record left;
        left.say(fmt::format("It would not be solid any more, so nothing was done{}.", advice));
        return StepOutput{before.mesh(), std::move(left)};
    }
    if (!(*was)->solid) sayWhatIsWorse(**was, **is, record);
    return StepOutput{{}, std::move(record), std::move(part)};
}

}  // namespace zither::steps
