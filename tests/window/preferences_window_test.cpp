// What can be had otherwise, and ranges of lenses: by real clicks and keys.
#include <gtest/gtest.h>
#include <QAbstractButton>
#include <QComboBox>
#include <QLineEdit>
#include <QSettings>
#include <QSpinBox>
#include <QTemporaryDir>

#include "check/catalogue.h"
#include "desktop/theme.h"
#include "desktop/viewport.h"
#include "session/reading/palette.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

void choose(WindowDriver& d, const char* name, int index) {
    auto* box = d.find<QComboBox>(name);
    ASSERT_NE(box, nullptr) << name;
    // There is no window manager under Xvfb to make the window the active one.
    QApplication::setActiveWindow(box->window());
    box->setFocus();
    for (int i = 0; i < 10 && box->currentIndex() != index; ++i)
        QTest::keyClick(box, box->currentIndex() < index ? Qt::Key_Down : Qt::Key_Up);
    QApplication::setActiveWindow(&d.window());
    EXPECT_EQ(box->currentIndex(), index);
}

TEST(Preferences, TakeEffectAtOnceAndAreKept) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    d.key(Qt::Key_Comma, Qt::ControlModifier);
    ASSERT_TRUE(d.waitFor([&] { return d.find("preferences")->isVisible(); }));
    session::Preferences& wanted = d.workshop().preferences();
    EXPECT_EQ(wanted.numbers().shortNumber(1.23456789), "1.23");
    auto* digits = d.find<QSpinBox>("preferences.digits");
    QApplication::setActiveWindow(digits->window());
    digits->setFocus();
    QTest::keyClick(digits, Qt::Key_Up);
    QTest::keyClick(digits, Qt::Key_Up);
    EXPECT_EQ(wanted.numbers().digits(), 5);
    EXPECT_EQ(wanted.numbers().shortNumber(1.23456789), "1.2346");
    EXPECT_EQ(wanted.numbers().shortNumber(12345.678), "12346");
    // The middle button turns.
    choose(d, "preferences.turn", 1);
    desktop::Viewport* view = &d.window().viewport();
    const Point before = view->camera().direction();
    d.drag(view, QPointF(300, 200), QPointF(340, 220), Qt::RightButton);
    EXPECT_EQ(view->camera().direction(), before);
    d.drag(view, QPointF(300, 200), QPointF(340, 220), Qt::MiddleButton);
    EXPECT_NE(view->camera().direction(), before);
    choose(d, "preferences.wheel", 1);
    const double seen = view->camera().worldPerPixel();
    QWheelEvent roll(QPointF(300, 200), view->mapToGlobal(QPointF(300, 200)), {}, {0, 120}, Qt::NoButton,
                     Qt::NoModifier, Qt::NoScrollPhase, false);
    QApplication::sendEvent(view, &roll);
    EXPECT_GT(view->camera().worldPerPixel(), seen);
    auto* pace = d.find<QSpinBox>("preferences.pace");
    pace->setValue(25);
    EXPECT_EQ(view->rays().pace().frame, 25);
    // The next file without a unit has this one.
    choose(d, "preferences.unit", 1);
    ASSERT_TRUE(openMesh(d, "more.stl", unitBox()));
    for (const auto& part : d.workshop().parts().all())
        EXPECT_EQ(part->unit().name, part->name == "more" ? "cm" : "mm");
    wanted.setDigits(3);
}

TEST(Preferences, PaperIsLightOrDark) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    session::Preferences& wanted = d.workshop().preferences();
    const QColor light = wanted.paper().sheet;
    int told = 0;
    QObject::connect(&wanted, &session::Preferences::paperChanged, &d.window(), [&] { ++told; });
    d.key(Qt::Key_Comma, Qt::ControlModifier);
    ASSERT_TRUE(d.waitFor([&] { return d.find("preferences")->isVisible(); }));
    choose(d, "preferences.paper", 1);
    EXPECT_EQ(told, 1);
    EXPECT_TRUE(wanted.paper().isDark);
    EXPECT_LT(wanted.paper().sheet.lightness(), 60);
    EXPECT_GT(wanted.paper().ink.lightness(), 180);
    // Every ink of a class can be read on it.
    for (const check::DefectClass defect : check::catalogue())
        EXPECT_GT(wanted.paper().inkOf(defect).lightness() - wanted.paper().sheet.lightness(), 100)
            << std::string(std::string_view(defect->name));
    // The picture stands on it as well.
    d.window().viewport().fit();
    QTest::qWait(600);
    const QImage picture = d.window().viewport().picture(1);
    EXPECT_EQ(picture.pixelColor(picture.width() - 2, 2), wanted.paper().sheet);
    choose(d, "preferences.paper", 0);
    EXPECT_EQ(wanted.paper().sheet, light);
}

// ---- ranges

TEST(LensRange, IsTypedRolledAndPutBack) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "ball.stl", sphere(10, 60, 30)));
    ASSERT_TRUE(keepStep(d, "decimate"));
    d.workshop().coating().setLens(session::deviationLens);
    ASSERT_TRUE(d.settle());
    const auto legend = [&] { return d.workshop().coating().coat().legend; };
    const double high = legend().high;
    ASSERT_GT(high, 0);
    // Smooth: values at vertices, drawn blended.
    ASSERT_NE(d.workshop().coating().tint(), nullptr);
    EXPECT_EQ(d.workshop().coating().tint()->values.size(), d.workshop().looks().kept()->mesh().positions.size());
    desktop::Viewport* view = &d.window().viewport();
    QTest::qWait(300);
    // The upper end, typed over.
    d.click(view, view->rangeEnd(true).center());
    auto* typed = d.find<QLineEdit>("range");
    ASSERT_NE(typed, nullptr);
    QTest::keyClicks(typed, QString::number(high / 2, 'g', 6));
    QTest::keyClick(typed, Qt::Key_Return);
    EXPECT_NEAR(legend().high, high / 2, 1e-4 * high);
    EXPECT_NEAR(d.workshop().coating().tint()->high, high / 2, 1e-4 * high);
    EXPECT_TRUE(d.workshop().coating().hasOwnRange());
    // Nonsense changes nothing.
    d.click(view, view->rangeEnd(false).center());
    QTest::qWait(50);
    for (QLineEdit* field : view->findChildren<QLineEdit*>("range")) {
        QTest::keyClicks(field, "much");
        QTest::keyClick(field, Qt::Key_Return);
    }
    EXPECT_EQ(legend().low, 0);
    // Rolled over the bars it is narrower; the view stays.
    QTest::qWait(50);
    const double scale = view->camera().worldPerPixel();
    const QPointF at = view->histogram().center();
    const double width = legend().high - legend().low;
    QWheelEvent roll(at, view->mapToGlobal(at), {}, {0, 120}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
    QApplication::sendEvent(view, &roll);
    EXPECT_LT(legend().high - legend().low, width);
    EXPECT_EQ(view->camera().worldPerPixel(), scale);
    QTest::mouseDClick(view, Qt::LeftButton, {}, at.toPoint());
    EXPECT_EQ(legend().high, high);
    EXPECT_FALSE(d.workshop().coating().hasOwnRange());
}

TEST(Preferences, OfASiteHoldUntilAUserSetsTheirs) {
    const QTemporaryDir folder;
    for (const auto& [scope, name] : {std::pair{QSettings::UserScope, "user"}, {QSettings::SystemScope, "site"}})
        QSettings::setPath(QSettings::IniFormat, scope, folder.filePath(name));
    {
        QSettings site(QSettings::IniFormat, QSettings::SystemScope, "zither", "zither");
        site.setValue("numbers/digits", 5);
        site.setValue("numbers/unit", "in");
        site.setValue("brief", "volume-mesh");
    }
    const auto fresh = [] {
        return std::make_unique<QSettings>(QSettings::IniFormat, QSettings::UserScope, "zither", "zither");
    };
    {
        const auto settings = fresh();
        session::Workshop workshop(*settings);
        EXPECT_EQ(workshop.preferences().numbers().digits(), 5);
        EXPECT_EQ(workshop.preferences().unitOfOthers(), "in");
        EXPECT_EQ(workshop.judging().chosen().id, "volume-mesh");
        workshop.preferences().setDigits(4);
    }
    const auto settings = fresh();
    session::Workshop workshop(*settings);
    EXPECT_EQ(workshop.preferences().numbers().digits(), 4);
    EXPECT_EQ(workshop.preferences().unitOfOthers(), "in");
    workshop.preferences().setDigits(3);
}

}  // namespace
}  // namespace zither::tests
