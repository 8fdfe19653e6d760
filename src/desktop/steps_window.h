// What each step on the way to the current stop did, as a table in a window of its own.
#pragma once

#include <QWidget>

#include "session/workshop.h"

class QTableWidget;

namespace zither::desktop {

class StepsWindow : public QWidget {
    Q_OBJECT
public:
    StepsWindow(session::Workshop& workshop, QWidget* parent);

protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

private:
    void refresh();
    [[nodiscard]] QString asText() const;

    session::Workshop& workshop_;
    QTableWidget* table_;
};

}  // namespace zither::desktop
