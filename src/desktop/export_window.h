// What is exported, as what, where to and under which names; what will be lost by it, and whether it is in tune, before
// anything is written.
#pragma once

#include <QWidget>

#include "desktop/dialogs.h"
#include "session/workshop.h"

class QCheckBox;
class QComboBox;
class QFormLayout;
class QLabel;
class QLineEdit;
class QPushButton;
class QVBoxLayout;

namespace zither::desktop {

class ExportWindow : public QWidget {
    Q_OBJECT
public:
    ExportWindow(session::Workshop& workshop, Dialogs& dialogs, QWidget* parent);

protected:
    void showEvent(QShowEvent* event) override;

private:
    void buildWhat(QFormLayout* form);
    void buildWhere(QFormLayout* form);
    void buildButtons(QVBoxLayout* column);
    void refresh();
    void write();
    [[nodiscard]] session::Exporting& plan() { return workshop_.exporting(); }

    session::Workshop& workshop_;
    Dialogs& dialogs_;
    QComboBox* which_ = nullptr;
    QComboBox* format_ = nullptr;
    QCheckBox* together_ = nullptr;
    QLineEdit* folder_ = nullptr;
    QLineEdit* name_ = nullptr;
    QLabel* files_ = nullptr;
    QLabel* remarks_ = nullptr;
    QLabel* verdict_ = nullptr;
    QPushButton* mend_ = nullptr;
    QPushButton* write_ = nullptr;
};

}  // namespace zither::desktop
