// A recipe as a list of its steps, with the values, the condition and the place in the order of each; what it would do
// is told before it is run.
#pragma once

#include <QWidget>

#include "desktop/dialogs.h"
#include "session/workshop.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QListWidget;
class QPlainTextEdit;
class QVBoxLayout;

namespace zither::desktop {

class RecipeWindow : public QWidget {
    Q_OBJECT
public:
    RecipeWindow(session::Workshop& workshop, Dialogs& dialogs, QWidget* parent);

    // With what was done to the part in front, where nothing is edited yet.
    void open();

private:
    void buildHead(QVBoxLayout* column);
    void buildSteps(QVBoxLayout* column);
    void buildFoot(QVBoxLayout* column);
    void refresh();
    void refreshChosen();
    void refreshWould();
    void refreshSince();
    void addValue(std::size_t i, const steps::Parameter& parameter);
    void addCondition(std::size_t i);
    [[nodiscard]] session::Recipes& recipes() { return workshop_.recipes(); }

    session::Workshop& workshop_;
    Dialogs& dialogs_;
    QLabel* head_ = nullptr;
    QComboBox* since_ = nullptr;  // which stop of the track is left before the stretch that is taken
    QCheckBox* repairFirst_ = nullptr;
    QListWidget* list_ = nullptr;
    QWidget* chosen_ = nullptr;  // the values of the chosen step
    QVBoxLayout* values_ = nullptr;
    QPlainTextEdit* would_ = nullptr;
};

}  // namespace zither::desktop
