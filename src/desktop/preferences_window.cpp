// A form whose fields write straight through.
#include "desktop/preferences_window.h"

#include <QComboBox>
#include <QFormLayout>
#include <QLabel>
#include <QSpinBox>

#include "session/reading/number_text.h"

namespace zither::desktop {

using session::Preferences;

PreferencesWindow::PreferencesWindow(session::Workshop& workshop, QWidget* parent) : QWidget(parent, Qt::Tool) {
    setObjectName("preferences");
    setWindowTitle("Preferences");
    Preferences& wanted = workshop.preferences();
    auto* form = new QFormLayout(this);
    form->setContentsMargins(18, 16, 18, 16);
    form->setVerticalSpacing(10);

    const auto choice = [&](const QString& title, const QString& name, const QStringList& choices, int now, auto set) {
        auto* box = new QComboBox;
        box->setObjectName("preferences." + name);
        box->addItems(choices);
        box->setCurrentIndex(now);
        box->setAccessibleName(title);
        connect(box, &QComboBox::activated, this, set);
        form->addRow(title, box);
    };
    choice("Paper", "paper", {"light", "dark"}, wanted.paper().isDark ? 1 : 0,
           [&wanted](int i) { wanted.setDarkPaper(i == 1); });
    const QStringList& units = session::unitNames();
    choice("Unit of files that do not say it", "unit", units,
           static_cast<int>(std::max<qsizetype>(0, units.indexOf(wanted.unitOfOthers()))),
           [&wanted, units](int i) { wanted.setUnitOfOthers(units[i]); });
    choice("Turn the part with", "turn", {"the right button", "the middle button"}, wanted.middleTurns() ? 1 : 0,
           [&wanted](int i) { wanted.setMiddleTurns(i == 1); });
    choice("Roll the wheel away to", "wheel", {"come nearer", "go farther"}, wanted.wheelPulls() ? 1 : 0,
           [&wanted](int i) { wanted.setWheelPulls(i == 1); });

    const auto number = [&](const QString& title, const QString& name, int least, int most, int now, auto set) {
        auto* box = new QSpinBox;
        box->setObjectName("preferences." + name);
        box->setButtonSymbols(QAbstractSpinBox::NoButtons);
        box->setRange(least, most);
        box->setValue(now);
        box->setAccessibleName(title);
        connect(box, &QSpinBox::valueChanged, this, set);
        form->addRow(title, box);
        return box;
    };
    number("Digits of a number", "digits", session::Numbers::fewestDigits, session::Numbers::mostDigits,
           wanted.numbers().digits(), [&wanted](int digits) { wanted.setDigits(digits); });
    auto* pace = number("Milliseconds for a picture while turning", "pace", 10, 1000, wanted.frameMs(),
                        [&wanted](int ms) { wanted.setFrameMs(ms); });
    pace->setToolTip("Where a picture would take longer it is drawn more coarsely until the part rests.");
    auto* said = new QLabel("Each takes effect at once, and is kept.");
    said->setObjectName("quiet");
    form->addRow(said);
}

}  // namespace zither::desktop
