// A repair with its answers, and a hand-over with its proof.
#include "project/job.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "io/units.h"
#include "mesh/memory.h"
#include "steps/all_steps.h"
#include "steps/units_met.h"

namespace zither::project {

steps::RepairOptions repairOptions(const Subject& subject, const steps::RepairAsked& asked, const io::Format* format) {
    steps::RepairOptions how;
    how.brief = subject.brief;
    how.maxDeviation = asked.maxDeviation;
    how.closeOpenings = asked.closeOpenings;
    how.sheets = asked.sheets;
    how.thickness = asked.thickness;
    // A wall as the brief wants it, where it is known what a length of the file means.
    if (how.thickness == 0 && io::millimetresIn(subject.unit) > 0) how.thickness = subject.brief.surveyOptions().wall;
    how.buried = asked.buried;
    how.timeLimit =
        asked.timeLimit > 0 ? asked.timeLimit : steps::usualTimeLimit(subject.part->mesh().triangles.size());
    how.narrow = format && format->floats;
    how.seen = subject.seen;
    return how;
}

namespace {

const check::SurveyedPtr& endOf(const Subject& subject, const steps::RepairResult& result) {
    return result.steps.empty() ? subject.part : result.steps.back().part;
}

Outcome<void> ask(const Subject& subject, steps::RepairResult& result, Progress& progress) {
    const check::SurveyedPtr& part = endOf(subject, result);
    const auto survey = part->survey(part->knownOptions(), progress);
    if (!survey) return mesh::errorOf(survey);
    std::vector<const steps::Record*> records;
    for (const steps::DoneStep& step : result.steps) records.push_back(&step.record);
    result.questions = steps::questionsOf(records, result.left, *part, **survey);
    return {};
}

// What was asked, and is asked no more.
void dropDecided(steps::RepairResult& result) {
    std::erase_if(result.left, [&](const steps::Listed& l) {
        if (l.kind != steps::Listed::LeftOpen && l.kind != steps::Listed::Sheet) return false;
        return std::none_of(result.questions.begin(), result.questions.end(), [&](const steps::Question& q) {
            return q.position && *q.position == l.position && q.size == l.size;
        });
    });
}

// One step after the other: each moves the places of those that are still to be answered.
Outcome<steps::RepairResult> answered(const Subject& subject, std::vector<steps::AnswerGiven> answers,
                                      steps::RepairResult result, Progress& progress) {
    if (auto ok = ask(subject, result, progress); !ok) return mesh::errorOf(ok);
    while (!answers.empty()) {
        const auto steps = steps::stepsOfAnswers(result.questions, answers);
        if (!steps) return mesh::errorOf(steps);
        if (steps->empty()) break;
        // What is kept was asked, and need not be asked any more once another answer has changed the part.
        std::erase_if(answers, [](const steps::AnswerGiven& a) { return a.word == "keep"; });
        const steps::AnsweredStep& first = steps->front();
        steps::StepCall call = first.call;
        call.given.unit = subject.unit;
        auto done = steps::doStep(std::move(call), endOf(subject, result), first.pick, progress);
        if (!done) return mesh::errorOf(done);
        done->call.pick = first.pick.everything() ? std::string() : steps::textOfPick(first.pick);
        done->why = fmt::format("Answered: {}.", fmt::join(first.ids, ", "));
        result.steps.push_back(std::move(*done));
        std::erase_if(answers, [&](const steps::AnswerGiven& a) {
            return std::find(first.ids.begin(), first.ids.end(), a.id) != first.ids.end();
        });
        const auto survey = endOf(subject, result)->survey(subject.brief.repairOptions(), progress);
        if (!survey) return mesh::errorOf(survey);
        std::erase_if(result.left, [](const steps::Listed& l) { return l.kind == steps::Listed::Left && l.size == 0; });
        std::vector<steps::Listed> fails = steps::failingCounts(steps::judge(**survey, subject.brief));
        result.left.insert(result.left.begin(), fails.begin(), fails.end());
        if (auto ok = ask(subject, result, progress); !ok) return mesh::errorOf(ok);
        dropDecided(result);
    }
    return result;
}

}  // namespace

Outcome<steps::RepairResult> repair(const Subject& subject, const steps::RepairAsked& asked, const io::Format* format,
                                    Progress& progress) {
    mesh::PartOfProgress repairing(progress, 0, asked.answers.empty() ? 0.98 : 0.7);
    auto result = steps::repairAutomatically(subject.part, repairOptions(subject, asked, format), repairing);
    if (!result) return result;
    mesh::PartOfProgress asking(progress, asked.answers.empty() ? 0.98 : 0.7, 1);
    return answered(subject, asked.answers, std::move(*result), asking);
}

Outcome<steps::RepairResult> run(const Subject& subject, const steps::Recipe& recipe, const io::Format* format,
                                 Progress& progress) {
    steps::RepairResult result;
    if (recipe.repair) {
        mesh::PartOfProgress repairing(progress, 0, recipe.steps.empty() ? 1 : 0.7);
        auto repaired = repair(subject, *recipe.repair, format, repairing);
        if (!repaired) return repaired;
        result = std::move(*repaired);
    }
    mesh::PartOfProgress going(progress, recipe.repair ? 0.7 : 0, 1);
    auto done = runSteps(endOf(subject, result), recipe.steps, unitAfter(result.steps, subject.unit), going);
    if (!done) return mesh::errorOf(done);
    std::move(done->begin(), done->end(), std::back_inserter(result.steps));
    return result;
}

std::string unitAfter(const std::vector<steps::DoneStep>& done, std::string unit) {
    for (const steps::DoneStep& step : done)
        if (!step.record.unit.empty()) unit = step.record.unit;
    return unit;
}

steps::Origin originAfter(std::shared_ptr<steps::SeenOfImport> seen, const std::vector<steps::DoneStep>& done) {
    steps::Origin origin{std::move(seen)};
    for (const steps::DoneStep& step : done) origin.follow(step.record);
    return origin;
}

namespace {

// A file of 32 bits rounds what a motion brought to other coordinates: the import is compared rounded alike.
steps::Origin roundedAlike(steps::Origin origin, const check::Surveyed& file) {
    if (!origin.seen || !origin.moved || mesh::precisionOf(file.mesh()) != mesh::Precision::Single) return origin;
    const mesh::Motion rounding{.precision = mesh::Precision::Single};
    origin.seen = std::make_shared<steps::SeenOfImport>(origin.seen, rounding);
    return origin;
}

}  // namespace

Outcome<Delivered> deliver(check::SurveyedPtr surface, const Order& order, Progress& progress) {
    mesh::PartOfProgress writing(progress, 0, 0.4);
    auto proved = prove(*surface, order.to, order.brief, writing);
    if (!proved) return mesh::errorOf(proved);
    surface.reset();
    Judged& file = proved->judged;
    Delivered delivered;
    if (order.origin.seen) {
        file.part->forgetRays();
        mesh::returnSmallPieces();
        mesh::PartOfProgress comparing(progress, 0.4, 1);
        const steps::Origin origin = roundedAlike(order.origin, *file.part);
        if (order.measureDistance) {
            const auto import = origin.seen->import();
            auto compared = compare(*import, *file.part, {.told = &origin.told, .seen = origin.seen.get()}, comparing);
            if (!compared) return mesh::errorOf(compared);
            delivered.compared = std::move(*compared);
            delivered.loss = std::make_shared<const measure::Loss>(delivered.compared->loss);
        } else {
            auto loss = origin.seen->lossTo(*file.part, origin.told, comparing);
            if (!loss) return mesh::errorOf(loss);
            delivered.loss = std::make_shared<const measure::Loss>(std::move(*loss));
        }
        file.judgeLost(*delivered.loss);
    }
    auto judged = std::move(*proved).commit();
    if (!judged) return mesh::errorOf(judged);
    delivered.file = std::move(*judged);
    return delivered;
}

std::string muchLostText(const measure::Loss& loss) {
    const double gone = loss.lost - loss.lostReshaped;
    return gone > muchLost ? fmt::format("{:.0f} % of what could be seen is gone", 100 * gone) : std::string();
}

namespace {

std::vector<std::string_view> idleSteps(const std::vector<steps::DoneStep>& done) {
    std::vector<std::string_view> idle;
    for (const steps::DoneStep& step : done)
        if (!step.changed && !step.leftOut) idle.push_back(step.call.step->name);
    return idle;
}

}  // namespace

bool anyIdle(const std::vector<steps::DoneStep>& done) {
    return !idleSteps(done).empty();
}

std::vector<std::string> warningsOf(const std::vector<steps::DoneStep>& done, const measure::Loss& loss) {
    std::vector<std::string> warnings;
    if (const std::string lost = muchLostText(loss); !lost.empty()) warnings.push_back(lost + ".");
    if (const auto idle = idleSteps(done); !idle.empty())
        warnings.push_back(fmt::format("{} of {} changed nothing: {}.", idle.size(),
                                       steps::counted(done.size(), "step"), fmt::join(idle, ", ")));
    return warnings;
}

Outcome<Compared> compareJudged(const Judged& first, const Judged& second, Progress& progress) {
    const double factor = io::unitFactor(second.surface.unit, first.surface.unit);
    if (factor == 0 || factor == 1) return compare(*first.part, *second.part, {}, progress);
    mesh::Mesh converted = second.part->mesh();
    io::convert(converted, second.surface.unit, first.surface.unit);
    return compare(*first.part, check::Surveyed(std::move(converted)), {}, progress);
}

Outcome<TwoSurfaces> readTwo(const std::filesystem::path& first, const std::filesystem::path& second,
                             Progress& progress) {
    mesh::PartOfProgress one(progress, 0, 0.5);
    auto a = io::readSurface(first, one);
    if (!a) return mesh::errorOf(a);
    mesh::PartOfProgress other(progress, 0.5, 1);
    auto b = io::readSurface(second, other);
    if (!b) return mesh::errorOf(b);
    TwoSurfaces two{std::move(*a), std::move(*b), {}, {}};
    const steps::UnitsMet met =
        steps::unitsMet({first.filename().string(), two.first.unit}, {second.filename().string(), two.second.unit});
    if (met.converts()) io::convert(two.second.mesh, two.second.unit, two.first.unit);
    two.said = met.said;
    two.unit = two.first.unit.empty() ? two.second.unit : two.first.unit;
    return two;
}

}  // namespace zither::project
