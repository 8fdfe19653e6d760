// Reads the workshop; only what differs from the proposal goes into a call.
#include "session/reading/desk_model.h"

#include <algorithm>

#include "session/reading/number_text.h"
#include "steps/all_steps.h"

namespace zither::session {

namespace {

constexpr int tryDelayMs = 250;

}  // namespace

DeskModel::DeskModel(Workshop& workshop, QObject* parent) : QObject(parent), workshop_(workshop) {
    delay_.setSingleShot(true);
    delay_.setInterval(tryDelayMs);
    connect(&delay_, &QTimer::timeout, this, [this] {
        if (edited_) workshop_.trial().start(callOf(*edited_));
    });
    connect(&workshop_.choice(), &Choice::changed, this, [this] {
        if (workshop_.choice().chosenClass()) chosen_ = nullptr;
        Q_EMIT changed();
    });
    connect(&workshop_.picking(), &Picking::changed, this, [this] {
        // Another pick is another proposal; what is being tried stays.
        if (workshop_.trial().current()) return;
        edited_ = nullptr;
        Q_EMIT changed();
    });
    connect(&workshop_.preferences(), &Preferences::changed, this, [this] { questionsFor_ = nullptr; });
    connect(&workshop_.veil(), &Veil::changed, this, [this] {
        questionsFor_ = nullptr;
        if (!workshop_.trial().current()) Q_EMIT changed();
    });
    connect(&workshop_.handingOver(), &HandingOver::changed, this, &DeskModel::changed);
    connect(&workshop_.judging(), &Judging::changed, this, &DeskModel::changed);
    // A repair without a step leaves the surface as it was, but says why.
    connect(&workshop_.parts(), &Parts::changed, this, [this] {
        questionsFor_ = nullptr;
        onLookChanged();
    });
    connect(&workshop_.looks(), &Looks::changed, this, &DeskModel::onLookChanged);
    connect(&workshop_.trial(), &Trial::changed, this, &DeskModel::figuresChanged);
}

void DeskModel::onLookChanged() {
    if (ofPart_ != workshop_.parts().current()) {
        ofPart_ = workshop_.parts().current();
        edited_ = nullptr;
        chosen_ = nullptr;
    }
    if (workshop_.trial().current())
        Q_EMIT figuresChanged();
    else
        Q_EMIT changed();
}

DeskPage DeskModel::page() const {
    if (workshop_.handingOver().delivered()) return {DeskPage::Delivered};
    if (!workshop_.parts().current()) return {DeskPage::Empty};
    if (chosen_) return {isProposed() ? DeskPage::Step : DeskPage::Judging, chosen_};
    if (!workshop_.looks().kept()) return {DeskPage::Judging};
    if (const auto defect = workshop_.choice().chosenClass()) return {DeskPage::Class, nullptr, defect};
    return {workshop_.picking().pick().everything() ? DeskPage::Overview : DeskPage::Pick};
}

std::vector<const steps::Step*> DeskModel::stepsFor(check::DefectClass defect) {
    std::vector<const steps::Step*> result;
    for (const steps::Step& s : steps::catalogue())
        if (std::find(s.helpsWith.begin(), s.helpsWith.end(), defect) != s.helpsWith.end()) result.push_back(&s);
    return result;
}

void DeskModel::showStep(const steps::Step& step) {
    workshop_.choice().chooseClass(std::nullopt);
    chosen_ = &step;
    // A part that is still being judged can be worked on, too.
    if (workshop_.parts().current()) propose();
    if (isProposed()) edit(step);
    Q_EMIT changed();
    if (isProposed()) trySoon(step);
}

void DeskModel::backToWhole() {
    chosen_ = nullptr;
    workshop_.trial().drop();
    workshop_.choice().chooseClass(std::nullopt);
}

bool DeskModel::isProposed() const {
    const Part* part = workshop_.parts().current();
    return part && (workshop_.looks().kept() || (proposals_ && proposedFor_ == part->track.part()->shared()));
}

void DeskModel::propose() {
    const check::SurveyedPtr& part = workshop_.parts().current()->track.part();
    if (workshop_.looks().kept() || proposedFor_ == part->shared()) return;
    proposals_ = nullptr;
    proposedFor_ = part->shared();
    workshop_.jobs().start<Proposals>(
        "What steps propose", Jobs::Lane::Propose,
        [part](mesh::Progress&) -> mesh::Outcome<Proposals> { return proposalsFor(*part); },
        [this, mesh = part->shared()](mesh::Outcome<Proposals> found) {
            if (proposedFor_ != mesh) return;
            if (!found)
                proposedFor_ = nullptr;  // it was cancelled: asked for again, it is worked out
            else
                proposals_ = std::make_shared<const Proposals>(std::move(*found));
            if (!chosen_ || edited_ == chosen_ || !isProposed()) return;
            edit(*chosen_);
            Q_EMIT changed();
            trySoon(*chosen_);
        });
}

const Proposal& DeskModel::proposal(const steps::Step& step) {
    // What lies on the desk before anything is proposed are the values that hold for any part.
    static const Proposals usual = proposalsFor(check::Surveyed(mesh::Mesh()));
    if (const Look* look = workshop_.looks().kept()) return look->proposals->at(&step);
    return (isProposed() ? *proposals_ : usual).at(&step);
}

void DeskModel::edit(const steps::Step& step) {
    if (edited_ != &step) values_ = valuesFor(step);
    edited_ = &step;
}

steps::Arguments DeskModel::valuesFor(const steps::Step& step) {
    if (edited_ == &step) return values_;
    steps::Arguments values = proposal(step).values;
    const auto place = workshop_.picking().place();
    for (const steps::Parameter& p : step.parameters) {
        if (!p.cautious.empty()) values.insert_or_assign(std::string(p.name), steps::Value(std::string(p.cautious)));
        // What may be left out is not meant by every pick.
        if (place && p.kind == steps::ParameterKind::Place && !p.optional)
            values.insert_or_assign(std::string(p.name), steps::Value(steps::textOfPlace(*place)));
    }
    return values;
}

steps::StepCall DeskModel::callOf(const steps::Step& step) {
    steps::StepCall call{&step};
    const Proposal& proposed = proposal(step);
    call.given.unit = workshop_.parts().current()->unit().known();
    for (const auto& [name, value] : valuesFor(step))
        if (!(proposed.values.find(name)->second == value)) call.given.emplace(name, value);
    return call;
}

std::shared_ptr<const DeskModel::Curve> DeskModel::curve(const steps::Step& step) {
    const check::SurveyedPtr& part = workshop_.parts().current()->track.part();
    if (curveStep_ == &step && curveFor_ == part->shared()) return curve_;
    curveStep_ = &step;
    curveFor_ = part->shared();
    curve_ = nullptr;
    workshop_.jobs().start<Curve>(
        QString("Curve of %1").arg(text(step.name)), Jobs::Lane::Curve,
        [part, &step](mesh::Progress& progress) { return step.curve(*part, progress); },
        [this, mesh = part->shared()](mesh::Outcome<Curve> curve) {
            if (curveFor_ != mesh) return;
            if (curve)
                curve_ = std::make_shared<const Curve>(std::move(*curve));
            else
                curveStep_ = nullptr;  // it was cancelled: asked for again, it is worked out
            Q_EMIT curveChanged();
        });
    return curve_;
}

QString DeskModel::missing(const steps::Step& step) {
    const bool picked = !workshop_.picking().pick().everything();
    if (step.needsPick && !picked) return "Pick triangles first: click on the part, Shift adds.";
    const steps::Arguments values = valuesFor(step);
    for (const steps::Parameter& p : step.parameters)
        if (steps::isText(p.kind) && !p.optional && values.find(p.name)->second.text().empty())
            return p.kind == steps::ParameterKind::File ? "Choose a surface first."
                   : p.kind == steps::ParameterKind::Places
                       ? "Press on the part and draw; each stroke is kept by itself."
                       : "Click on the part where it is, or type the place.";
    return {};
}

QString DeskModel::foreseen(const steps::Step& step) {
    QString said;
    if (step.foresee)
        said = QString::fromStdString(step.foresee(*workshop_.parts().current()->track.part(), valuesFor(step)));
    if (!step.wholeOnly.empty() && !workshop_.picking().pick().everything())
        said += QString("%1Works on the whole part, not on the pick: %2.")
                    .arg(said.isEmpty() ? "" : " ", text(step.wholeOnly));
    return said;
}

void DeskModel::setValue(const steps::Step& step, const std::string& name, const steps::Value& value) {
    edit(step);
    values_.insert_or_assign(name, value);
    // What says the same in another way is taken back.
    bool tookBack = false;
    if (const auto parameter = steps::parameterNamed(step, name))
        for (const std::string_view other : steps::excludedBy(step, **parameter, value)) {
            const steps::Value& usual = proposal(step).values.find(other)->second;
            tookBack |= !(values_.find(other)->second == usual);
            values_.insert_or_assign(std::string(other), usual);
        }
    if (tookBack) Q_EMIT changed();
    Q_EMIT valuesChanged();
    trySoon(step);
}

void DeskModel::setValues(const steps::Step& step, steps::Arguments values) {
    edited_ = &step;
    values_ = std::move(values);
    trySoon(step);
    Q_EMIT changed();
}

void DeskModel::takeFromPick(const steps::Step& step, const std::string& name, const steps::Value& value) {
    steps::Arguments values = valuesFor(step);
    values.insert_or_assign(name, value);
    workshop_.picking().letGo();
    setValues(step, std::move(values));
}

void DeskModel::trySoon(const steps::Step& step) {
    edit(step);
    if (missing(step).isEmpty()) delay_.start();
}

void DeskModel::tryNow(const steps::Step& step) {
    edit(step);
    delay_.stop();
    if (missing(step).isEmpty()) workshop_.trial().start(callOf(step));
}

void DeskModel::keep() {
    edited_ = nullptr;
    chosen_ = nullptr;
    workshop_.trial().keep();
}

void DeskModel::drop() {
    edited_ = nullptr;
    workshop_.trial().drop();
    Q_EMIT changed();
}

const std::vector<QuestionGroup>& DeskModel::questions() {
    const Part* part = workshop_.parts().current();
    const Look* look = workshop_.looks().kept();
    if (!part || !look) {
        questions_.clear();
        questionsFor_ = nullptr;
    } else if (questionsFor_ != look->part) {
        questions_ = questionsOf(*part, *look, workshop_.preferences().numbers(), workshop_.veil().faintPick());
        questionsFor_ = look->part;
    }
    return questions_;
}

void DeskModel::answer(const Answer& answer) {
    // The questions are asked anew while this goes on.
    const Answer a = answer;
    if (a.buried) return workshop_.repairAgain(*a.buried);
    if (!a.pick.everything()) workshop_.picking().set(a.pick);
    showStep(*a.call.step);
    for (const auto& [name, value] : a.call.given) setValue(*a.call.step, name, value);
}

}  // namespace zither::session
