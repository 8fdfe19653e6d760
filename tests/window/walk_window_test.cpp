// The window as a whole: a repair by keys alone, one by the mouse alone, and a random walk that must not bring it down.
#include <gtest/gtest.h>

#include <QAbstractButton>
#include <QLineEdit>
#include <QWheelEvent>

#include "demo/shapes.h"
#include "desktop/strings_panel.h"
#include "desktop/track_panel.h"
#include "desktop/viewport.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

// Opened, repaired, looked at, exported: no mouse.
TEST(Whole, ARepairByKeysAlone) {
    WindowDriver d;
    d.dialogs().toOpen = {rig("spinner")};
    d.key(Qt::Key_O, Qt::ControlModifier);
    ASSERT_TRUE(d.settle());
    d.key(Qt::Key_N);
    EXPECT_TRUE(d.workshop().choice().chosenFinding());
    d.key(Qt::Key_Escape);
    d.key(Qt::Key_R, Qt::ControlModifier);
    ASSERT_TRUE(d.settle(60000));
    EXPECT_EQ(labelText(d, "soundness"), "Solid");
    // A step found by a word, tried and kept.
    d.key(Qt::Key_K, Qt::ControlModifier);
    auto* finder = d.find<QLineEdit>("find-command");
    QTest::keyClicks(finder, "reduce");
    QTest::keyClick(finder, Qt::Key_Return);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    d.key(Qt::Key_Return, Qt::ControlModifier);
    ASSERT_TRUE(d.settle());
    d.key(Qt::Key_E, Qt::ControlModifier);
    auto* folder = d.find<QLineEdit>("export.folder");
    ASSERT_NE(folder, nullptr);
    QApplication::setActiveWindow(folder->window());
    folder->setFocus();
    QTest::keyClicks(folder, d.folder());
    QTest::keyClick(folder, Qt::Key_Return);
    QApplication::setActiveWindow(&d.window());
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().handingOver().delivered().has_value(); }));
    EXPECT_TRUE(d.workshop().handingOver().delivered()->survey->solid);
}

// By what the desk says is next, until nothing is.
TEST(Whole, ARepairByTheMouseAlone) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    for (int round = 0; round < 8 && !d.workshop().looks().kept()->survey->solid; ++round) {
        QAbstractButton* next = nullptr;
        for (auto* b : d.window().findChildren<QAbstractButton*>())
            if (!next && b->objectName().startsWith("next-") && b->isVisible()) next = b;
        ASSERT_NE(next, nullptr) << round;
        d.click(next, next->rect().center());
        ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current() && d.button("Keep"); }));
        ASSERT_TRUE(d.clickButton("Keep"));
        ASSERT_TRUE(d.settle());
    }
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
    // Nothing that mattered went.
    EXPECT_TRUE(row(d, "lost").met);
}

TEST(Whole, ClosingWhileWorkRuns) {
    {
        WindowDriver d;
        d.workshop().opening().open({rig("hub"), rig("blade"), rig("strainer")});
        QTest::qWait(5);
    }
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    d.workshop().repair();
    QTest::qWait(20);
}

TEST(Whole, AnySizeOfTheWindow) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    for (const QSize size : {QSize(700, 420), QSize(1280, 720), QSize(900, 1100), QSize(1279, 799), QSize(640, 400)}) {
        d.window().resize(size);
        QTest::qWait(30);
        EXPECT_GT(d.window().viewport().width(), 100);
        EXPECT_GT(d.window().viewport().height(), 100);
    }
}

// Keys, clicks, drags and wheels wherever it leads.
TEST(Whole, ARandomWalkDoesNotBringItDown) {
    const std::uint64_t events = seedsOf(150, 3000);
    rig::Random random(20261128);
    WindowDriver d;
    d.dialogs().toOpen = {rig("spinner")};
    d.dialogs().toExport = d.folder() + "/walk.stl";
    d.workshop().exporting().setFolder(d.folder());
    d.dialogs().recipe = d.folder() + "/walk.json";
    d.dialogs().picture = d.folder() + "/walk.png";
    ASSERT_TRUE(d.open({rig("spinner"), rig("hub")}));
    QList<QAction*> commands;
    for (QAction* a : d.window().commands())
        if (a->text() != "Quit") commands << a;
    const auto somewhere = [&](const QWidget* w) {
        return QPointF(static_cast<double>(random.below(static_cast<std::size_t>(std::max(1, w->width())))),
                       static_cast<double>(random.below(static_cast<std::size_t>(std::max(1, w->height())))));
    };
    for (std::uint64_t i = 0; i < events; ++i) {
        const std::size_t kind = random.below(10);
        QWidget* view = &d.window().viewport();
        QWidget* on = random.below(3) == 0 ? static_cast<QWidget*>(&strings(d)) : view;
        if (kind < 3) {
            QAction* command =
                commands[static_cast<qsizetype>(random.below(static_cast<std::size_t>(commands.size())))];
            if (command->isEnabled()) command->trigger();
        } else if (kind < 5) {
            d.click(on, somewhere(on));
        } else if (kind < 7) {
            d.drag(on, somewhere(on), somewhere(on), random.below(2) == 0 ? Qt::LeftButton : Qt::RightButton);
        } else if (kind == 7) {
            const QPointF at = somewhere(view);
            QWheelEvent wheel(at, view->mapToGlobal(at), {}, QPoint(0, random.below(2) == 0 ? 240 : -240), Qt::NoButton,
                              Qt::NoModifier, Qt::NoScrollPhase, false);
            QApplication::sendEvent(view, &wheel);
        } else {
            // Some button that is seen.
            QList<QAbstractButton*> seen;
            for (auto* b : d.window().findChildren<QAbstractButton*>())
                if (b->isVisible() && b->isEnabled()) seen << b;
            if (!seen.isEmpty())
                QTest::mouseClick(seen[static_cast<qsizetype>(random.below(static_cast<std::size_t>(seen.size())))],
                                  Qt::LeftButton);
        }
        QTest::qWait(random.below(20) == 0 ? 120 : 1);
    }
    d.workshop().cancelAll();
    d.workshop().trial().drop();
    // It still does its work.
    ASSERT_TRUE(d.waitFor([&] { return !d.workshop().jobs().busy(); }, 120000));
    ASSERT_TRUE(d.open({rig("nacelle")}));
}

}  // namespace
}  // namespace zither::tests
