// The numbers of the part, or of the pick, in a window of their own that stays while work goes on.
#pragma once

#include <QWidget>

#include "session/workshop.h"

class QVBoxLayout;

namespace zither::desktop {

class NumbersWindow : public QWidget {
    Q_OBJECT
public:
    NumbersWindow(session::Workshop& workshop, QWidget* parent);

protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

private:
    void refresh();

    session::Workshop& workshop_;
    QVBoxLayout* lines_;
};

}  // namespace zither::desktop
