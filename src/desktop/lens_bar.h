// The row of lenses over the view: how the part is drawn.
#pragma once

#include <QWidget>

#include "session/workshop.h"

class QComboBox;
class QToolButton;

namespace zither::desktop {

class LensBar : public QWidget {
    Q_OBJECT
public:
    explicit LensBar(session::Workshop& workshop, QWidget* parent = nullptr);

private:
    void refresh();
    session::Workshop& workshop_;
    std::vector<std::pair<const session::Lens*, QToolButton*>> buttons_;
    QComboBox* kinds_ = nullptr;  // of the lens, where it has some
};

}  // namespace zither::desktop
