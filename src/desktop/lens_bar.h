// The row of lenses over the view: how the part is drawn.
#pragma once

#include <QWidget>

#include "session/workshop.h"

class QToolButton;

namespace zither::desktop {

class LensBar : public QWidget {
    Q_OBJECT
public:
    explicit LensBar(session::Workshop& workshop, QWidget* parent = nullptr);

private:
    void refresh();
    session::Workshop& workshop_;
    std::vector<std::pair<session::Lens, QToolButton*>> buttons_;
};

// Every lens with its name, in order.
struct LensName {
    session::Lens lens;
    const char* name;
};
inline constexpr LensName lensNames[] = {{session::Lens::Plain, "plain"},    {session::Lens::Facing, "facing"},
                                         {session::Lens::Shells, "shells"},  {session::Lens::Nesting, "nesting"},
                                         {session::Lens::Change, "change"},  {session::Lens::Deviation, "deviation"},
                                         {session::Lens::Quality, "quality"}};

}  // namespace zither::desktop
