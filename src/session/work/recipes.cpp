// One part after the other; a fault on one does not keep the others from their turn.
#include "session/work/recipes.h"

#include <QFileInfo>
#include <algorithm>

#include "io/atomic_file.h"
#include "project/job.h"
#include "session/reading/number_text.h"
#include "session/reading/strings.h"
#include "session/state/preferences.h"
#include "steps/condition.h"

namespace zither::session {

using mesh::Outcome;
using mesh::Progress;
using steps::StepCall;

Recipes::Recipes(const Bench& bench, const Judging& judging, const Exporting& exporting)
    : parts_(bench.parts),
      jobs_(bench.jobs),
      notice_(bench.notice),
      judging_(judging),
      exporting_(exporting),
      preferences_(bench.preferences) {}

// What was tried was another recipe.
void Recipes::edited() {
    would_.clear();
    Q_EMIT tried();
    Q_EMIT changed();
}

void Recipes::takeFromTrack(project::StopId after) {
    const Part* part = parts_.current();
    if (!part) return;
    std::vector<StepCall> calls = part->track.recipeTo(part->track.current());
    const std::size_t before = part->track.recipeTo(after).size();
    calls.erase(calls.begin(), calls.begin() + static_cast<std::ptrdiff_t>(std::min(before, calls.size())));
    take(part->name, {std::move(calls)});
}

void Recipes::open(const QString& file) {
    auto recipe = steps::loadRecipe(file.toStdString());
    if (!recipe) return notice_.failed(recipe.error());
    take(QFileInfo(file).fileName(), std::move(*recipe));
}

void Recipes::setRepairFirst(bool first) {
    if (first == recipe_.repair.has_value()) return;
    if (!first) repairFirst_ = recipe_.repair;
    recipe_.repair = first ? std::optional(repairFirst_.value_or(steps::RepairAsked())) : std::nullopt;
    edited();
}

void Recipes::take(const QString& name, steps::Recipe recipe) {
    recipe_ = std::move(recipe);
    repairFirst_.reset();
    name_ = name;
    edited();
}

void Recipes::save(const steps::Recipe& recipe, const QString& file) {
    const auto written = io::writeBytes(file.toStdString(), steps::recipeJson(recipe).dump(2) + "\n");
    if (!written) return notice_.failed(written.error());
    const std::vector<StepCall>& calls = recipe.steps;
    const auto byHand = std::count_if(calls.begin(), calls.end(), [](const StepCall& c) { return c.isByHand(); });
    QString said = QString("Recipe of %1 steps written to %2").arg(calls.size()).arg(QFileInfo(file).fileName());
    if (byHand > 0)
        said +=
            QString("; %1 of them work on triangles that were picked by hand: they fit this part alone").arg(byHand);
    notice_.say(said);
}

void Recipes::saveTo(const QString& file) {
    save(recipe_, file);
    name_ = QFileInfo(file).fileName();
    Q_EMIT changed();
}

void Recipes::saveTrackTo(const QString& file) {
    if (const Part* part = parts_.current()) save({part->track.recipeTo(part->track.current())}, file);
}

void Recipes::add(const steps::Step& step) {
    recipe_.steps.push_back({&step});
    edited();
}

void Recipes::remove(std::size_t i) {
    if (i >= recipe_.steps.size()) return;
    recipe_.steps.erase(recipe_.steps.begin() + static_cast<std::ptrdiff_t>(i));
    edited();
}

void Recipes::move(std::size_t i, int by) {
    const auto to = static_cast<std::ptrdiff_t>(i) + by;
    if (i >= recipe_.steps.size() || to < 0 || to >= static_cast<std::ptrdiff_t>(recipe_.steps.size())) return;
    StepCall call = std::move(recipe_.steps[i]);
    recipe_.steps.erase(recipe_.steps.begin() + static_cast<std::ptrdiff_t>(i));
    recipe_.steps.insert(recipe_.steps.begin() + to, std::move(call));
    edited();
}

void Recipes::set(std::size_t i, const steps::Parameter& parameter, const std::optional<steps::Value>& value) {
    if (i >= recipe_.steps.size()) return;
    steps::Arguments& given = recipe_.steps[i].given;
    if (value) {
        for (const std::string_view other : steps::excludedBy(*recipe_.steps[i].step, parameter, *value))
            if (const auto it = given.find(other); it != given.end()) given.erase(it);
        given.set(parameter, *value);
    } else if (const auto it = given.find(parameter.name); it != given.end()) {
        given.erase(it);
    }
    edited();
}

bool Recipes::setOnlyIf(std::size_t i, const QString& condition) {
    if (i >= recipe_.steps.size()) return false;
    if (!condition.isEmpty())
        if (const auto read = steps::conditionFromText(condition.toStdString()); !read) {
            notice_.failed(read.error());
            return false;
        }
    recipe_.steps[i].onlyIf = condition.toStdString();
    edited();
    return true;
}

QString Recipes::inWords(std::size_t i) const {
    const StepCall& call = recipe_.steps[i];
    QStringList words;
    for (const auto& [name, value] : call.given)
        words << QString("%1 %2").arg(
            QString::fromStdString(name),
            value.isText() ? QString::fromStdString(value.text()) : preferences_.numbers().shortNumber(value.number()));
    if (!call.pick.empty()) words << "on a pick";
    if (!call.onlyIf.empty())
        if (const auto condition = steps::conditionFromText(call.onlyIf))
            words << QString::fromStdString(steps::conditionInWords(*condition));
    return words.isEmpty() ? "as the part asks" : words.join(", ");
}

steps::Value Recipes::proposed(std::size_t i, const steps::Parameter& parameter) const {
    const Part* part = parts_.current();
    const Look* look = part ? part->look() : nullptr;
    if (look && look->proposals)
        if (const auto of = look->proposals->find(recipe_.steps[i].step); of != look->proposals->end())
            if (const auto value = of->second.values.find(parameter.name); value != of->second.values.end())
                return value->second;
    if (parameter.kind == steps::ParameterKind::Choice) return steps::Value(std::string(parameter.choices.front()));
    return steps::isText(parameter.kind) ? steps::Value(std::string()) : steps::Value(parameter.fallback);
}

void Recipes::run() {
    if (recipe_.steps.empty() && !recipe_.repair) return notice_.say("There is no step in the recipe yet.");
    start({name_, recipe_, parts_.chosenIds()});
}

void Recipes::tryOut() {
    if (recipe_.steps.empty() && !recipe_.repair) return notice_.say("There is no step in the recipe yet.");
    edited();
    start({name_, recipe_, parts_.chosenIds(), false});
}

void Recipes::runFile(const QString& file) {
    if (!parts_.current()) return;
    auto recipe = steps::loadRecipe(file.toStdString());
    if (!recipe) return notice_.failed(recipe.error());
    start({QFileInfo(file).fileName(), std::move(*recipe), parts_.chosenIds()});
}

void Recipes::repeatLastStep() {
    const Part* part = parts_.current();
    if (!part) return;
    std::vector<std::uint64_t> ids = parts_.chosenIds();
    std::erase(ids, part->id);
    if (ids.empty()) return notice_.say("Choose other parts first, with Ctrl and a click on each.");
    const std::vector<StepCall> calls = part->track.recipeTo(part->track.current());
    if (calls.empty()) return notice_.say("Nothing was done to this part yet.");
    if (calls.back().isByHand())
        return notice_.say(
            "The last step works on triangles that were picked by hand: they mean nothing on another part.");
    start({session::text(calls.back().step->title), {{calls.back()}}, std::move(ids)});
}

void Recipes::start(Run run) {
    const Part* part = parts_.takeNext(run.ids);
    if (!part) return;
    jobs_.start<steps::RepairResult>(
        QString(run.keep ? "Running %1 on %2" : "Trying %1 on %2").arg(run.name, part->name), Jobs::Lane::Work,
        [subject = judging_.subjectOf(*part), recipe = run.recipe, format = &exporting_.format()](Progress& progress) {
            return project::run(subject, recipe, format, progress);
        },
        [this, id = part->id, from = part->track.current(), run](Outcome<steps::RepairResult> result) {
            if (result)
                done(run, id, from, std::move(*result));
            else
                notice_.failed(result.error());
            // Cancelled means all of them.
            if (result || !result.error().cancelled()) start(run);
        });
}

void Recipes::done(const Run& run, std::uint64_t id, project::StopId from, steps::RepairResult result) {
    if (!run.keep) {
        const Part* part = parts_.withId(id);
        if (!part) return;
        Would would{part->name, {}};
        for (const steps::DoneStep& step : result.steps) {
            QStringList said;
            for (const std::string& sentence : step.record.sentences) said << QString::fromStdString(sentence);
            would.sentences << QString("%1: %2").arg(text(step.call.step->title),
                                                     said.isEmpty() ? QString("nothing to be told.") : said.join(' '));
        }
        would_.push_back(std::move(would));
        Q_EMIT tried();
        return;
    }
    const std::size_t count = result.steps.size();
    Part* part = parts_.addSteps(id, from, std::move(result.steps));
    if (!part) return;
    if (run.recipe.repair) part->left[part->track.current()] = std::move(result.left);
    notice_.say(QString("Ran %1 on %2: %3 %4 on its track.")
                    .arg(run.name, part->name)
                    .arg(count)
                    .arg(count == 1 ? "stop more" : "stops more"));
    parts_.showSteps(*part);
}

}  // namespace zither::session
