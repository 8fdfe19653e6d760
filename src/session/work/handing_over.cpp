// Jobs for writing and for reports; what the file will not hold is said first.
#include "session/work/handing_over.h"

#include <QFileInfo>

#include "io/units.h"
#include "project/parting.h"
#include "project/report.h"
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

HandingOver::HandingOver(const Bench& bench, const Judging& judging)
    : parts_(bench.parts), looks_(bench.looks), judging_(judging), jobs_(bench.jobs), notice_(bench.notice) {}

void HandingOver::exportTo(const QString& file) {
    if (parts_.current() && looks_.kept()) exportThese({{{parts_.current()->id}, file}});
}

void HandingOver::exportThese(std::vector<Wanted> wanted) {
    exportNext({std::move(wanted), {}});
}

namespace {

// What is written: the stop of a part, or several parts as one surface.
struct Source {
    std::vector<project::Piece> pieces;  // more than one: they are joined
    check::SurveyedPtr surface;
    Origin since;
};

check::SurveyedPtr surfaceOf(const Source& source) {
    return source.pieces.size() < 2 ? source.surface
                                    : std::make_shared<const check::Surveyed>(project::joined(source.pieces));
}

}  // namespace

void HandingOver::exportNext(Round round) {
    if (round.wanted.empty()) return;
    const Wanted next = round.wanted.front();
    round.wanted.erase(round.wanted.begin());
    std::vector<const Part*> parts;
    for (const std::uint64_t id : next.parts)
        if (const Part* part = parts_.withId(id)) parts.push_back(part);
    if (parts.empty()) return exportNext(std::move(round));
    const Part& first = *parts.front();
    const QString name = QFileInfo(next.file).fileName();
    const std::string unit = first.unit().known();
    Source source;
    Delivered made;
    made.unit = first.unit().name.toStdString();
    for (const Part* part : parts) {
        const check::SurveyedPtr& surface = part->track.part();
        for (std::string& what :
             project::lossesOf(surface->mesh(), {next.file.toStdString(), unit, next.format}, part->notKept))
            made.losses.push_back(std::move(what));
        if (parts.size() > 1) source.pieces.push_back({part->name.toStdString(), surface->mesh()});
        if (const auto known = surface->known()) made.inputVolume += known->mass.volume;
        made.bytesBefore += QFileInfo(QString::fromStdString(part->file.string())).size();
    }
    source.surface = first.track.part();
    if (parts.size() == 1) source.since = first.originBehind(first.track.current());
    if (!made.losses.empty()) notice_.say(QString("%1 will not hold %2.").arg(name, listed(made.losses)));
    using Proved = std::shared_ptr<project::Delivered>;
    jobs_.start<Proved>(
        QString("Writing and proving %1").arg(name), Jobs::Lane::Work,
        [source,
         order =
             project::Order{{next.file.toStdString(), made.unit, next.format}, judging_.chosen(), source.since, false}](
            Progress& progress) -> Outcome<Proved> {
            auto delivered = project::deliver(surfaceOf(source), order, progress);
            if (!delivered) return mesh::errorOf(delivered);
            return std::make_shared<project::Delivered>(std::move(*delivered));
        },
        [this, made, round, ids = next.parts, stop = first.track.current()](Outcome<Proved> result) mutable {
            if (!result) {
                notice_.failed(result.error());
                // Cancelled means all of them.
                if (!result.error().cancelled()) exportNext(std::move(round));
                return;
            }
            project::Judged& judged = (*result)->file;
            if (ids.size() == 1)
                if (Part* of = parts_.withId(ids.front())) of->written[stop] = judged.file;
            made.file = QString::fromStdString(judged.file);
            made.part = judged.part;
            made.survey = judged.survey;
            made.loss = (*result)->loss;
            made.verdict = judged.verdict;
            made.briefTitle = QString::fromStdString(judging_.chosen().title);
            made.settled = std::move(judged.settled);
            made.bytes = QFileInfo(made.file).size();
            made.others = round.done;
            delivered_ = std::move(made);
            judgeAgain();
            Q_EMIT wrote(delivered_->file);
            round.done << QString("%1: %2 of %3 in tune")
                              .arg(QFileInfo(delivered_->file).fileName())
                              .arg(delivered_->verdict.met())
                              .arg(delivered_->verdict.asked());
            exportNext(std::move(round));
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

void HandingOver::report(const QString& file) {
    const Part* part = parts_.current();
    if (!part) return;
    const project::StopId stop = part->track.current();
    if (part->file.empty())
        return notice_.say(
            QString("%1 was made of other parts: there is no file that it could be compared with.").arg(part->name));
    const auto written = part->written.find(stop);
    if (written == part->written.end())
        return notice_.say("Export it first: a report is of a file as it lies on disk.");
    if (const auto named = project::isReportName(file.toStdString()); !named) return notice_.failed(named.error());
    std::vector<project::ReportStep> done;
    for (const project::StopId id : part->track.pathTo(stop)) {
        const project::Stop& s = part->track.stop(id);
        if (s.call) done.push_back({s.label, s.why, s.record.sentences, s.seconds});
    }
    struct Asked {
        std::filesystem::path import;
        check::SurveyedPtr imported;
        std::filesystem::path written;
        steps::Brief brief;
        std::string unit;
        Origin since;
        std::vector<project::ReportStep> steps;
        std::string recipe;
        std::filesystem::path file;
    };
    jobs_.start<QString>(
        QString("Writing the report %1").arg(QFileInfo(file).fileName()), Jobs::Lane::Work,
        [asked =
             Asked{part->file, part->track.imported(), written->second, judging_.chosen(), part->unit().known(),
                   part->originBehind(stop), std::move(done), steps::recipeJson({part->track.recipeTo(stop)}).dump(2),
                   file.toStdString()}](Progress& progress) -> Outcome<QString> {
            mesh::PartOfProgress reading(progress, 0, 0.25);
            const auto input = project::readAndJudge(asked.import, asked.brief, reading, asked.unit);
            if (!input) return mesh::errorOf(input);
            if (!mesh::isSameSurface(input->part->mesh(), asked.imported->mesh()))
                return mesh::badInput(asked.import.string() +
                                      ": it holds another surface than when it was opened. Open it again, or put back "
                                      "the file that it was");
            mesh::PartOfProgress readingAgain(progress, 0.25, 0.5);
            auto output = project::readAndJudge(asked.written, asked.brief, readingAgain, asked.unit);
            if (!output) return mesh::errorOf(output);
            mesh::PartOfProgress comparing(progress, 0.5, 0.8);
            const auto import = asked.since.seen->import();
            const auto compared = project::compare(
                *import, *output->part, {.told = &asked.since.told, .seen = asked.since.seen.get()}, comparing);
            if (!compared) return mesh::errorOf(compared);
            output->judgeLost(compared->loss);
            mesh::PartOfProgress writing(progress, 0.8, 1);
            const auto report = project::reportOf(
                {*input, *output, *import, *compared, asked.steps, asked.recipe, "Zither " ZITHER_VERSION}, writing);
            if (!report) return mesh::errorOf(report);
            if (auto kept = project::writeReport(*report, asked.file); !kept) return mesh::errorOf(kept);
            return QString::fromStdString(asked.file.string());
        },
        [this](Outcome<QString> result) {
            if (!result) return notice_.failed(result.error());
            notice_.say(QString("Report written to %1.").arg(QFileInfo(*result).fileName()));
        });
}

}  // namespace zither::session
