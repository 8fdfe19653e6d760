// The top line: the part, its unit and size; the brief and how much of it is in tune; repair and export.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "session/workshop.h"

class QMenuBar;

namespace zither::desktop {

class HeaderBar : public QWidget {
    Q_OBJECT
public:
    explicit HeaderBar(session::Workshop& workshop, QWidget* parent = nullptr);

    // They share a row with the rest: the part has the room.
    [[nodiscard]] QMenuBar& menus() { return *menus_; }

Q_SIGNALS:
    void repairWanted();
    void exportWanted();
    void otherBriefWanted();

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    void refresh();

    session::Workshop& workshop_;
    QMenuBar* menus_;
    QLabel* name_;
    QLabel* facts_;
    QComboBox* unit_;
    QComboBox* brief_;
    QLabel* tune_;
    QPushButton* repair_;
    QPushButton* export_;
};

}  // namespace zither::desktop
