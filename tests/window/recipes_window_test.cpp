// A recipe edited in its window, tried and run; a report of a file that was exported: by real clicks and keys.
#include <gtest/gtest.h>
#include <QCheckBox>
#include <QComboBox>
#include <QFile>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>

#include "desktop/recipe_window.h"
#include "project/report.h"
#include "steps/recipe.h"
#include "steps/steps_list.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

Mesh openBall(double radius) {
    return without(sphere(radius, 24, 12), {40, 41, 42});
}

// By clicks: taken from the track, put in another order, a value fixed and let go, a condition, tried, run, saved.
TEST(RecipeWindow, IsEditedTriedAndRun) {
    WindowDriver d;
    ASSERT_TRUE(d.open({write(d, "first.stl", openBall(3)), write(d, "second.stl", sphere(5, 24, 12))}));
    d.workshop().parts().choose(0);
    ASSERT_TRUE(d.settle());
    ASSERT_TRUE(keepStep(d, "orient"));
    ASSERT_TRUE(keepStep(d, "fill"));
    ASSERT_TRUE(runCommand(d, "Edit a recipe …"));
    auto* window = d.window().findChild<desktop::RecipeWindow*>();
    ASSERT_NE(window, nullptr);
    EXPECT_TRUE(window->isVisible());
    auto& recipes = d.workshop().recipes();
    auto* list = window->findChild<QListWidget*>("recipe-steps");
    ASSERT_EQ(list->count(), 2);
    EXPECT_TRUE(list->item(0)->text().endsWith("\nas the part asks")) << list->item(0)->text().toStdString();
    const auto press = [&](const QString& name) {
        for (auto* button : window->findChildren<QPushButton*>())
            if (button->text() == name) QTest::mouseClick(button, Qt::LeftButton);
        ASSERT_TRUE(d.settle());
    };
    list->setCurrentRow(1);
    press("Earlier");
    EXPECT_EQ(recipes.calls().front().step, &steps::fillStep());
    EXPECT_EQ(list->currentRow(), 0);
    const bool wasFixed = recipes.calls().front().given.contains("way");
    for (const bool isFixed : {!wasFixed, wasFixed}) {
        auto* fixed = window->findChild<QCheckBox*>("recipe-fixed-way");
        ASSERT_NE(fixed, nullptr);
        fixed->click();
        ASSERT_TRUE(d.settle());
        EXPECT_EQ(recipes.calls().front().given.contains("way"), isFixed);
    }
    auto* onlyIf = window->findChild<QComboBox*>("recipe-only-if");
    Q_EMIT onlyIf->activated(onlyIf->findData("boundary_edges"));
    ASSERT_TRUE(d.waitFor([&] { return recipes.calls().front().onlyIf == "boundary_edges"; }));
    EXPECT_TRUE(list->item(0)->text().endsWith("only if there are open edges"));
    // A condition that cannot be read changes nothing, and says why.
    EXPECT_FALSE(recipes.setOnlyIf(0, "rust"));
    EXPECT_NE(d.workshop().notice().text().indexOf("names no requirement"), -1);
    EXPECT_EQ(recipes.calls().front().onlyIf, "boundary_edges");
    auto* more = window->findChild<QComboBox*>("recipe-add");
    Q_EMIT more->activated(more->findData("clean"));
    ASSERT_TRUE(d.settle());
    ASSERT_EQ(recipes.calls().size(), 3U);
    list->setCurrentRow(1);
    press("Take out");
    EXPECT_EQ(recipes.calls().size(), 2U);
    // On both parts: the second has nothing to fill. Nothing is kept.
    d.workshop().parts().goTo(0);
    d.workshop().parts().chooseAll();
    ASSERT_TRUE(d.settle());
    press("Say what it would do");
    ASSERT_TRUE(d.waitFor([&] { return recipes.would().size() == 2; }));
    EXPECT_TRUE(recipes.would()[1].sentences[0].contains("Left out: it runs only if there are open edges."));
    EXPECT_FALSE(recipes.would()[0].sentences[0].contains("Left out"));
    EXPECT_TRUE(window->findChild<QPlainTextEdit*>("recipe-would")->toPlainText().contains("second\n"));
    EXPECT_EQ(d.workshop().parts().all()[0]->track.stops().size(), 3U);
    press("Run it");
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().all()[1]->track.stops().size() == 3; }));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(openEdges(d), 0U);
    d.dialogs().recipe = d.folder() + "/edited.json";
    press("Save …");
    const auto saved = steps::loadRecipe(d.dialogs().recipe.toStdString());
    ASSERT_TRUE(saved);
    EXPECT_EQ(saved->size(), 2U);
    press("From the track");
    EXPECT_EQ(recipes.calls().size(), 2U);
    press("Open …");
    EXPECT_EQ(recipes.calls().front().onlyIf, "boundary_edges");
    EXPECT_EQ(recipes.name(), "edited.json");
}

TEST(Report, IsOfTheFileThatWasExported) {
    WindowDriver d;
    ASSERT_TRUE(d.open({write(d, "ball.stl", openBall(3))}));
    ASSERT_TRUE(d.settle());
    d.dialogs().report = d.folder() + "/report.html";
    // Nothing lies on disk yet that it could be of.
    d.key(Qt::Key_E, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_TRUE(d.workshop().notice().text().startsWith("Export it first"));
    ASSERT_TRUE(keepStep(d, "fill"));
    d.dialogs().toExport = d.folder() + "/mended.stl";
    d.key(Qt::Key_E, Qt::ControlModifier);
    ASSERT_TRUE(d.clickWhenReady("Report …"));
    ASSERT_TRUE(d.waitFor([&] { return QFile::exists(d.dialogs().report); }));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().notice().text(), "Report written to report.html.");
    QFile file(d.dialogs().report);
    ASSERT_TRUE(file.open(QIODevice::ReadOnly));
    const QString html = QString::fromUtf8(file.readAll());
    EXPECT_TRUE(html.contains(QString::fromStdString(*project::digestOf((d.folder() + "/mended.stl").toStdString()))));
    EXPECT_TRUE(html.contains("<strong>fill</strong>"));
    EXPECT_TRUE(html.contains("Made by Zither "));
    d.dialogs().report = d.folder() + "/report.pdf";
    d.key(Qt::Key_E, Qt::ControlModifier | Qt::ShiftModifier);
    ASSERT_TRUE(d.waitFor([&] { return QFile::exists(d.dialogs().report); }));
    // What came in is not what it was: then no report can speak of it.
    ASSERT_TRUE(d.settle());
    write(d, "ball.stl", openBall(4));
    d.dialogs().report = d.folder() + "/untrue.pdf";
    d.key(Qt::Key_E, Qt::ControlModifier | Qt::ShiftModifier);
    ASSERT_TRUE(d.settle());
    EXPECT_TRUE(d.workshop().notice().text().contains("holds another surface than when it was opened"));
    EXPECT_FALSE(QFile::exists(d.dialogs().report));
}

}  // namespace
}  // namespace zither::tests
