// The view with what lies around and over it: the row of lenses above, parts folded over its edge, the numbers of a
// cut, and the start page where there is no part.
#pragma once

#include <QWidget>

#include "session/workshop.h"

namespace zither::desktop {

class LensBar;
class PartsPanel;
class SectionCard;
class StartPage;
class Viewport;

class ViewArea : public QWidget {
    Q_OBJECT
public:
    struct Pieces {
        LensBar* lenses;
        Viewport* view;
        PartsPanel* parts;
        SectionCard* section;
        StartPage* start;
    };
    ViewArea(session::Workshop& workshop, const Pieces& pieces);

protected:
    void resizeEvent(QResizeEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void place();

    session::Workshop& workshop_;
    Pieces pieces_;
};

}  // namespace zither::desktop
