// The desk: what is chosen, in a sentence; the steps that can help, with their parameters; the preview's figures; the
// places; and the proof of an exported file.
#pragma once

#include <functional>

#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>

#include "desktop/dialogs.h"
#include "session/workshop.h"

class QLabel;
class QListWidget;

namespace zither::desktop {

class DeskPanel : public QScrollArea {
    Q_OBJECT
public:
    DeskPanel(session::Workshop& workshop, Dialogs& dialogs, QWidget* parent = nullptr);
    // Puts a step on the desk whatever is chosen (from the menu or the command finder).
    void showStep(const steps::Step* step);

private:
    void rebuild();
    void refreshFigures();
    void addDelivered();
    void addOverview();
    void addClass(check::DefectClass defect);
    void addStepCard(const steps::Step& step);
    void addPreviewFigures(QVBoxLayout* layout);
    void addListed(QVBoxLayout* layout, steps::Listed::Kind kind, const QString& heading, const QString& name);
    void addPlaces(check::DefectClass defect);
    void addDecisions();
    void addPickHead();
    void addPickSteps();
    void addStepButton(const steps::Step& step);
    void addDecision(const steps::Listed& listed);
    struct Proposal {
        steps::Arguments values;
        std::vector<double> samples;  // of the parameter that has any
    };
    const Proposal& proposal(const steps::Step& step);
    [[nodiscard]] steps::Arguments valuesFor(const steps::Step& step);
    void edit(const steps::Step& step);
    [[nodiscard]] QString missing(const steps::Step& step, const steps::Arguments& values) const;
    void setValue(const steps::Step& step, const std::string& name, const steps::Value& value);
    void previewSoon(const steps::Step& step);
    QLabel* addText(const QString& text, int pixels, bool strong, bool quiet = false);

    session::Workshop& workshop_;
    Dialogs& dialogs_;
    QVBoxLayout* layout_ = nullptr;
    const steps::Step* chosenStep_ = nullptr;  // from a menu
    const steps::Step* editedStep_ = nullptr;  // whose values are being set
    steps::Arguments values_;                  // of editedStep_
    std::map<const steps::Step*, Proposal> proposals_;
    std::shared_ptr<const mesh::Mesh> proposedFor_;
    QTimer previewTimer_;
    QWidget* figures_ = nullptr;
    QListWidget* places_ = nullptr;
    QLabel* foreseen_ = nullptr;  // of the step that is being edited
    const session::Part* ofPart_ = nullptr;
};

}  // namespace zither::desktop
