// What the desk offers, in what order and with what values: the steps that help with what is chosen, what is proposed
// for this part, what is missing before a step can be tried, and what waits for a person's decision.
#pragma once

#include <QObject>
#include <QString>
#include <QTimer>
#include <memory>
#include <vector>

#include "session/reading/questions.h"
#include "session/state/proposals.h"
#include "session/workshop.h"

namespace zither::session {

// What stands on the desk.
struct DeskPage {
    enum Kind { Empty, Judging, Delivered, Step, Class, Pick, Overview } kind = Empty;
    const steps::Step* step = nullptr;              // of Step
    std::optional<check::DefectClass> defect = {};  // of Class
};

class DeskModel : public QObject {
    Q_OBJECT
public:
    explicit DeskModel(Workshop& workshop, QObject* parent = nullptr);

    [[nodiscard]] const Preferences& preferences() const { return workshop_.preferences(); }
    [[nodiscard]] DeskPage page() const;
    // Every step that helps with the class, in catalogue order.
    [[nodiscard]] static std::vector<const steps::Step*> stepsFor(check::DefectClass defect);

    // Puts a step on the desk whatever is chosen, and tries it.
    void showStep(const steps::Step& step);
    void backToWhole();

    // Its values hold for any part until those of the part in front are known.
    const Proposal& proposal(const steps::Step& step);
    // What is set, or proposed, with the picked place where one is asked for.
    [[nodiscard]] steps::Arguments valuesFor(const steps::Step& step);
    // Sets one value, and tries the step a moment later.
    void setValue(const steps::Step& step, const std::string& name, const steps::Value& value);
    // Sets a value to what the pick said, and lets the pick go: it was meant for that.
    void takeFromPick(const steps::Step& step, const std::string& name, const steps::Value& value);
    // Sets all values, from elsewhere than the desk, and tries the step a moment later.
    void setValues(const steps::Step& step, steps::Arguments values);
    // Tries the step at once.
    void tryNow(const steps::Step& step);
    // The step whose values are being set; nullptr: none.
    [[nodiscard]] const steps::Step* edited() const { return edited_; }
    // What the values of its parameter would lead to; worked out beside the window, nullptr until it is there.
    using Curve = std::vector<steps::Step::CurvePoint>;
    [[nodiscard]] std::shared_ptr<const Curve> curve(const steps::Step& step);
    // What has to be there before the step can be tried; empty where nothing is missing.
    [[nodiscard]] QString missing(const steps::Step& step);
    // What is to be expected of it; empty where the step cannot say.
    [[nodiscard]] QString foreseen(const steps::Step& step);
    void keep();
    void drop();

    // What waits for a person at the current stop; worked out once for each.
    [[nodiscard]] const std::vector<QuestionGroup>& questions();
    // Puts the answer's step on the desk, on its pick, and tries it.
    void answer(const Answer& answer);

Q_SIGNALS:
    void changed();         // the page, or what it offers
    void valuesChanged();   // a value was set
    void figuresChanged();  // what is tried out
    void curveChanged();    // it is there

private:
    // What steps propose for the part in front is known.
    [[nodiscard]] bool isProposed() const;
    // Of a part that was not looked at yet, it is worked out beside the window; then the chosen step is tried.
    void propose();
    void edit(const steps::Step& step);
    // Only what differs from the proposal is said: the rest is proposed anew where a recipe runs.
    [[nodiscard]] steps::StepCall callOf(const steps::Step& step);
    void trySoon(const steps::Step& step);
    void onLookChanged();

    Workshop& workshop_;
    const steps::Step* chosen_ = nullptr;  // from a menu
    const steps::Step* edited_ = nullptr;
    steps::Arguments values_;  // of edited_
    std::vector<QuestionGroup> questions_;
    check::SurveyedPtr questionsFor_;
    std::shared_ptr<const Proposals> proposals_;     // of a part that was not looked at yet
    std::shared_ptr<const mesh::Mesh> proposedFor_;  // its surface
    std::shared_ptr<const Curve> curve_;
    const steps::Step* curveStep_ = nullptr;  // that it is of, or is being worked out for
    std::shared_ptr<const mesh::Mesh> curveFor_;
    QTimer delay_;
    const Part* ofPart_ = nullptr;
};

}  // namespace zither::session
