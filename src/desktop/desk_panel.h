// The desk, in the order of the work: the verdict, what to do next and why, what waits for a decision, all steps in
// their families; or what is chosen, in a sentence, with the steps that can help, their parameters, the preview's
// figures and the places; or the proof of an exported file.
#pragma once

#include <functional>

#include <QLabel>
#include <QPointer>
#include <QScrollArea>
#include <QVBoxLayout>

#include "desktop/dialogs.h"
#include "desktop/steps_list.h"
#include "session/reading/desk_model.h"

class QListWidget;

namespace zither::desktop {

class DeskPanel : public QScrollArea {
    Q_OBJECT
public:
    DeskPanel(session::Workshop& workshop, session::DeskModel& desk, Dialogs& dialogs, QWidget* parent = nullptr);
    [[nodiscard]] session::DeskModel& desk() { return desk_; }
    // Commands that only look, offered beside the steps; before anything is shown.
    void setMeasures(const QList<QAction*>& measures);

Q_SIGNALS:
    void helpWanted(const steps::Step& step);
    void reportWanted();

private:
    void rebuild();
    void addPage(const session::DeskPage& page);
    void refreshFigures();
    void addDelivered();
    void addJudging();
    void addOverview();
    void addVerdict();
    void addUse();
    void addNext();
    void addStepsList();
    void addClass(check::DefectClass defect);
    // `alone`: nothing else stands on the desk.
    void addStepCard(const steps::Step& step, bool alone);
    void sayDeviation();
    void addPreviewFigures(QVBoxLayout* layout);
    void addLoss(QVBoxLayout* layout, const measure::Loss& loss);
    void addListed(QVBoxLayout* layout, steps::Listed::Kind kind, const QString& heading, const QString& name);
    void addPlaces(check::DefectClass defect);
    void addQuestions();
    void addQuestionGroup(const session::QuestionGroup& group);
    void addPickHead();
    void addHeading(const QString& text, const QString& aside = {});
    QLabel* addText(const QString& text, int pixels, bool strong, bool quiet = false);

    session::Workshop& workshop_;
    Dialogs& dialogs_;
    session::DeskModel& desk_;
    QVBoxLayout* layout_ = nullptr;
    QWidget* figures_ = nullptr;
    QPointer<QLabel> deviation_;  // among them
    QListWidget* places_ = nullptr;
    QLabel* foreseen_ = nullptr;  // of the step that is being edited
    QList<QAction*> measures_;
    StepsList::State allSteps_;
};

}  // namespace zither::desktop
