// Places its pieces by hand: some of them lie over others.
#include "desktop/view_area.h"

#include <QEvent>

#include "desktop/lens_bar.h"
#include "desktop/parts_panel.h"
#include "desktop/section_card.h"
#include "desktop/start_page.h"
#include "desktop/viewport.h"

namespace zither::desktop {

ViewArea::ViewArea(session::Workshop& workshop, const Pieces& pieces) : workshop_(workshop), pieces_(pieces) {
    setMinimumSize(420, 200);
    for (QWidget* w :
         std::initializer_list<QWidget*>{pieces_.lenses, pieces_.view, pieces_.parts, pieces_.section, pieces_.start})
        w->setParent(this);
    pieces_.section->installEventFilter(this);
    connect(&workshop_.preferences(), &session::Preferences::changed, this, &ViewArea::place);
    connect(&workshop_.parts(), &session::Parts::changed, this, &ViewArea::place);
    connect(&workshop_.jobs(), &session::Jobs::changed, this, &ViewArea::place);
    connect(pieces_.parts, &PartsPanel::sizeChanged, this, &ViewArea::place);
    place();
}

void ViewArea::resizeEvent(QResizeEvent*) {
    place();
}

// The card grows with what it says.
bool ViewArea::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::Resize || event->type() == QEvent::Show) place();
    return QWidget::eventFilter(watched, event);
}

void ViewArea::place() {
    const bool empty = !workshop_.parts().current();
    const int lensHeight = empty ? 0 : pieces_.lenses->height();
    pieces_.lenses->setVisible(!empty);
    pieces_.lenses->setGeometry(0, 0, width(), pieces_.lenses->height());
    pieces_.view->setGeometry(0, lensHeight, width(), height() - lensHeight);
    constexpr int margin = 10;
    // What is told at the bottom of the view, a legend as a rule, stays free.
    constexpr int below = 120;
    const QSize parts = pieces_.parts->wantedSize();
    const int room = height() - lensHeight - margin - below;
    pieces_.parts->setVisible(!empty);
    pieces_.parts->setGeometry(margin, lensHeight + margin, parts.width(),
                               std::clamp(parts.height(), 24, std::max(24, room)));
    pieces_.parts->raise();
    pieces_.section->move(width() - margin - pieces_.section->width(), lensHeight + margin);
    pieces_.section->raise();
    // Folded away it is no more than a title.
    constexpr int title = 40;
    pieces_.view->setCovered(!empty && parts.height() > title ? margin + parts.width() : 0);
    pieces_.start->setVisible(empty && !workshop_.jobs().busy());
    pieces_.start->setGeometry(rect());
    pieces_.start->raise();
}

}  // namespace zither::desktop
