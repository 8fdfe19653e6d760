// What the user can have otherwise: paper, digits, units, mouse, pace. Each takes effect at once.
#pragma once

#include <QWidget>

#include "session/workshop.h"

namespace zither::desktop {

class PreferencesWindow : public QWidget {
    Q_OBJECT
public:
    explicit PreferencesWindow(session::Workshop& workshop, QWidget* parent = nullptr);
};

}  // namespace zither::desktop
