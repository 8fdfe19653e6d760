// Each one under a key of its own in the settings.
#include "session/preferences.h"

#include <QSettings>

namespace zither::session {
namespace {

QString keyOf(Preferences::Panel panel) {
    using Panel = Preferences::Panel;
    return panel == Panel::Parts ? "layout/parts" : panel == Panel::Strings ? "layout/strings" : "layout/desk";
}

}  // namespace

Preferences::Preferences(QSettings& settings, QObject* parent) : QObject(parent), settings_(settings) {}

bool Preferences::isShown(Panel panel) const {
    return !viewAlone_ && settings_.value(keyOf(panel), true).toBool();
}

void Preferences::setShown(Panel panel, bool shown) {
    viewAlone_ = false;
    settings_.setValue(keyOf(panel), shown);
    Q_EMIT changed();
}

void Preferences::setViewAlone(bool alone) {
    viewAlone_ = alone;
    Q_EMIT changed();
}

}  // namespace zither::session
