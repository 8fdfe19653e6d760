// Jobs for writing and for recipes; what the file will not hold is said first.
#include "session/handing_over.h"

#include <QFileInfo>
#include <algorithm>

#include "io/atomic_file.h"
#include "session/numbers.h"
#include "steps/recipe.h"

namespace zither::session {

using mesh::Outcome;
using mesh::Progress;

namespace {

QString listed(const std::vector<std::string>& things) {
    QStringList words;
    for (const std::string& t : things) words << QString::fromStdString(t);
    return words.join(", ");
}

}  // namespace

HandingOver::HandingOver(Parts& parts, Looks& looks, const Judging& judging, Jobs& jobs, Notice& notice,
                         QObject* parent)
    : QObject(parent), parts_(parts), looks_(looks), judging_(judging), jobs_(jobs), notice_(notice) {}

void HandingOver::exportTo(const QString& file) {
    const Part* part = parts_.current();
    const Look* look = looks_.kept();
    if (!part || !look) return;
    const std::string unit = part->unit.assumed ? std::string() : part->unit.name.toStdString();
    const auto losses = project::lossesOf(look->mesh(), file.toStdString(), unit, part->notKept);
    if (!losses.empty()) notice_.say(QString("%1 will not hold %2.").arg(QFileInfo(file).fileName(), listed(losses)));
    struct Handed {
        project::Judged judged;
        std::shared_ptr<const measure::Loss> loss;
    };
    using Proved = std::shared_ptr<Handed>;
    jobs_.start<Proved>(
        QString("Writing and proving %1").arg(QFileInfo(file).fileName()), Jobs::Lane::Work,
        [surface = look->part, file, brief = judging_.chosen(), unit = part->unit.name.toStdString(),
         since = part->originBehind(part->track.current())](Progress& progress) -> Outcome<Proved> {
            mesh::PartOfProgress writing(progress, 0, 0.8);
            auto judged = project::writeAndProve(*surface, {file.toStdString(), unit}, brief, writing);
            if (!judged) return tl::unexpected(judged.error());
            mesh::PartOfProgress comparing(progress, 0.8, 1);
            auto loss = lossSince(since, *judged->part, comparing);
            // The file is written and proved: what was cancelled is only the comparison.
            return std::make_shared<Handed>(Handed{std::move(*judged), loss ? *loss : nullptr});
        },
        [this, volume = look->survey->mass.volume, losses,
         unit = part->unit.name.toStdString()](Outcome<Proved> result) {
            if (!result) return notice_.failed(result.error());
            project::Judged& judged = (*result)->judged;
            delivered_ = Delivered{QString::fromStdString(judged.file),
                                   judged.part,
                                   judged.survey,
                                   (*result)->loss,
                                   judged.verdict,
                                   QString::fromStdString(judging_.chosen().title),
                                   unit,
                                   std::move(judged.settled),
                                   volume,
                                   losses};
            judgeAgain();
            Q_EMIT wrote(delivered_->file);
        });
}

void HandingOver::judgeAgain() {
    if (!delivered_) return;
    const steps::Brief brief = judging_.chosen().inUnit(io::millimetresIn(delivered_->unit));
    const auto judge = [this, brief](std::shared_ptr<const check::Survey> survey) {
        delivered_->survey = std::move(survey);
        const auto& loss = delivered_->loss;
        delivered_->verdict = steps::judge(*delivered_->survey, brief, loss.get());
        delivered_->briefTitle = QString::fromStdString(brief.title);
        Q_EMIT changed();
    };
    if (delivered_->survey->options.cover(brief.surveyOptions())) return judge(delivered_->survey);
    using Surveyed = std::shared_ptr<const check::Survey>;
    jobs_.start<Surveyed>(
        "Judging the file", Jobs::Lane::Work,
        [part = delivered_->part, options = brief.surveyOptions()](Progress& progress) {
            return part->survey(options, progress);
        },
        [this, judge, part = delivered_->part](Outcome<Surveyed> survey) {
            if (survey && delivered_ && delivered_->part == part) judge(*survey);
        });
}

void HandingOver::dismiss() {
    delivered_.reset();
    Q_EMIT changed();
}

void HandingOver::saveRecipe(const QString& file) {
    if (!parts_.current()) return;
    const auto calls = parts_.current()->track.recipeTo(parts_.current()->track.current());
    const auto written = io::writeBytes(file.toStdString(), steps::recipeJson(calls).dump(2) + "\n");
    if (!written) return notice_.failed(written.error());
    const auto byHand =
        std::count_if(calls.begin(), calls.end(), [](const steps::StepCall& c) { return c.isByHand(); });
    QString said = QString("Recipe of %1 steps written to %2").arg(calls.size()).arg(QFileInfo(file).fileName());
    if (byHand > 0)
        said +=
            QString("; %1 of them work on triangles that were picked by hand: they fit this part alone").arg(byHand);
    notice_.say(said);
}

void HandingOver::runRecipe(const QString& file) {
    if (!parts_.current()) return;
    auto calls = steps::loadRecipe(file.toStdString());
    if (!calls) return notice_.failed(calls.error());
    run({QFileInfo(file).fileName(), std::move(*calls), parts_.chosenIds()});
}

void HandingOver::repeatLastStep() {
    const Part* part = parts_.current();
    if (!part) return;
    std::vector<std::uint64_t> ids = parts_.chosenIds();
    std::erase(ids, part->id);
    if (ids.empty()) return notice_.say("Choose other parts first, with Ctrl and a click on each.");
    const std::vector<steps::StepCall> calls = part->track.recipeTo(part->track.current());
    if (calls.empty()) return notice_.say("Nothing was done to this part yet.");
    if (calls.back().isByHand())
        return notice_.say(
            "The last step works on triangles that were picked by hand: they mean nothing on another part.");
    run({session::text(calls.back().step->title), {calls.back()}, std::move(ids)});
}

void HandingOver::run(Run run) {
    while (!run.ids.empty() && !parts_.withId(run.ids.front())) run.ids.erase(run.ids.begin());
    if (run.ids.empty()) return;
    const Part& part = *parts_.withId(run.ids.front());
    run.ids.erase(run.ids.begin());
    using Done = std::vector<steps::DoneStep>;
    jobs_.start<Done>(
        QString("Running %1 on %2").arg(run.name, part.name), Jobs::Lane::Work,
        [surface = part.track.part(), calls = run.calls](Progress& progress) -> Outcome<Done> {
            return project::runSteps(surface, calls, progress);
        },
        [this, id = part.id, from = part.track.current(), run](Outcome<Done> done) {
            if (!done) {
                notice_.failed(done.error());
                // Cancelled means all of them.
                if (done.error().kind != mesh::ErrorKind::Cancelled) this->run(run);
                return;
            }
            const std::size_t count = done->size();
            if (const Part* changedPart = parts_.addSteps(id, from, std::move(*done))) {
                notice_.say(QString("Ran %1 on %2: %3 %4 on its track.")
                                .arg(run.name, changedPart->name)
                                .arg(count)
                                .arg(count == 1 ? "stop more" : "stops more"));
                parts_.showSteps(*changedPart);
            }
            this->run(run);
        });
}

}  // namespace zither::session
