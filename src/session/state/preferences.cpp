// Each one under a key of its own in the settings.
#include "session/state/preferences.h"

#include <QSettings>
#include <algorithm>

namespace zither::session {
namespace {

QString keyOf(Preferences::Panel panel) {
    using Panel = Preferences::Panel;
    return panel == Panel::Parts ? "layout/parts" : panel == Panel::Strings ? "layout/strings" : "layout/desk";
}

constexpr auto darkPaperKey = "paper/dark";
constexpr auto digitsKey = "numbers/digits";
constexpr auto unitKey = "numbers/unit";
constexpr auto middleTurnsKey = "view/middle-turns";
constexpr auto wheelPullsKey = "view/wheel-pulls";
constexpr auto frameKey = "view/frame-ms";

const Paper& paperOf(const QSettings& settings) {
    return settings.value(darkPaperKey, false).toBool() ? darkPaper() : lightPaper();
}

Numbers numbersOf(const QSettings& settings) {
    return Numbers(settings.value(digitsKey, Numbers::fewestDigits).toInt());
}

}  // namespace

Preferences::Preferences(QSettings& settings, QObject* parent)
    : QObject(parent), settings_(settings), paper_(&paperOf(settings)), numbers_(numbersOf(settings)) {}

void Preferences::set(const char* key, const QVariant& value) {
    settings_.setValue(key, value);
    Q_EMIT changed();
}

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

void Preferences::setDarkPaper(bool dark) {
    if (dark == paper().isDark) return;
    settings_.setValue(darkPaperKey, dark);
    paper_ = &paperOf(settings_);
    Q_EMIT paperChanged();
}

void Preferences::setDigits(int digits) {
    settings_.setValue(digitsKey, digits);
    numbers_ = numbersOf(settings_);
    Q_EMIT changed();
}

QString Preferences::unitOfOthers() const {
    return settings_.value(unitKey, "mm").toString();
}

void Preferences::setUnitOfOthers(const QString& unit) {
    set(unitKey, unit);
}

bool Preferences::middleTurns() const {
    return settings_.value(middleTurnsKey, false).toBool();
}

void Preferences::setMiddleTurns(bool turns) {
    set(middleTurnsKey, turns);
}

bool Preferences::wheelPulls() const {
    return settings_.value(wheelPullsKey, false).toBool();
}

void Preferences::setWheelPulls(bool pulls) {
    set(wheelPullsKey, pulls);
}

int Preferences::frameMs() const {
    constexpr int usual = 60;
    return std::clamp(settings_.value(frameKey, usual).toInt(), 10, 1000);
}

void Preferences::setFrameMs(int milliseconds) {
    set(frameKey, milliseconds);
}

}  // namespace zither::session
