// A recipe edited in its window, tried and run; exports planned and made, and a report of them: by real clicks and
// keys.
#include <gtest/gtest.h>
#include <QCheckBox>
#include <QComboBox>
#include <QFile>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>

#include "desktop/recipe_window.h"
#include "project/report.h"
#include "steps/all_steps.h"
#include "steps/recipe.h"
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
    EXPECT_EQ(saved->steps.size(), 2U);
    EXPECT_FALSE(saved->repair);
    // The repair first, with answers that were given to it elsewhere: kept while it is off, told, saved.
    steps::Recipe answered = *saved;
    answered.repair = steps::RepairAsked();
    answered.repair->answers = {{"00aa", "keep"}};
    recipes.take("answered", answered);
    auto* first = window->findChild<QCheckBox*>("recipe-repair-first");
    ASSERT_NE(first, nullptr);
    EXPECT_TRUE(first->isChecked());
    EXPECT_EQ(first->text(), "Repair first, with 1 answer");
    first->click();
    EXPECT_FALSE(recipes.recipe().repair);
    first->click();
    ASSERT_TRUE(recipes.recipe().repair);
    EXPECT_EQ(recipes.recipe().repair->answers.size(), 1U);
    recipes.take("edited", *saved);
    // A stretch of the track: what was done since the first of its two steps.
    auto* since = window->findChild<QComboBox*>("recipe-since");
    ASSERT_EQ(since->count(), 2);
    EXPECT_EQ(since->itemText(1), "since fill (1)");
    since->setCurrentIndex(1);
    press("From the track");
    ASSERT_EQ(recipes.calls().size(), 1U);
    EXPECT_EQ(recipes.calls().front().step, &steps::cleanStep());
    since->setCurrentIndex(0);
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
    ASSERT_TRUE(exportTo(d, d.folder() + "/mended.stl"));
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

// ---- exports

TEST(Export, AsksForWhatAndWhereAndSaysWhatItWillCost) {
    WindowDriver d;
    Mesh named = unitBox();
    named.regionNames = {"wall", "lid"};
    named.regions.assign(named.triangles.size(), 0);
    named.regions[3] = 1;
    ASSERT_TRUE(d.open({write(d, "box.obj", named), write(d, "open.stl", openBall(3))}));
    d.workshop().parts().choose(0);
    ASSERT_TRUE(d.settle());
    d.key(Qt::Key_E, Qt::ControlModifier);
    auto& plan = d.workshop().exporting();
    EXPECT_EQ(plan.files().size(), 1U);
    EXPECT_EQ(plan.files()[0].path, d.folder() + "/box-mended.stl");
    EXPECT_TRUE(labelText(d, "export.remarks").startsWith("box: the file will not hold the names of its 2 regions"));
    const auto choose = [&](const char* name, int index) {
        auto* box = d.find<QComboBox>(name);
        box->setCurrentIndex(index);
        Q_EMIT box->activated(index);
        return d.settle();
    };
    // As text it keeps them; a name may say the step.
    ASSERT_TRUE(choose("export.format", d.find<QComboBox>("export.format")->findData("stl-ascii")));
    EXPECT_EQ(labelText(d, "export.remarks"), QString());
    auto* name = d.find<QLineEdit>("export.name");
    name->setText("{name} {step}");
    EXPECT_EQ(plan.files()[0].path, d.folder() + "/box import.stl");
    name->clear();
    EXPECT_FALSE(d.button("Write it") && d.button("Write it")->isEnabled());
    d.find<QLineEdit>("export.folder")->setText(d.folder() + "/nowhere");
    name->setText("{name}");
    EXPECT_TRUE(labelText(d, "export.files").startsWith("There is no folder"));
    d.find<QLineEdit>("export.folder")->clear();
    ASSERT_TRUE(d.clickWhenReady("Write it"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().handingOver().delivered().has_value(); }));
    ASSERT_TRUE(d.settle());
    const auto text = io::readSurface(std::filesystem::path((d.folder() + "/box.stl").toStdString()), silent());
    ASSERT_TRUE(text);
    EXPECT_EQ(text->format, &io::stlAscii);
    EXPECT_EQ(text->mesh.regionNames, named.regionNames);
    EXPECT_EQ(d.workshop().handingOver().delivered()->bytes, QFile(d.folder() + "/box.stl").size());
    EXPECT_EQ(d.workshop().handingOver().delivered()->bytesBefore, QFile(d.folder() + "/box.obj").size());
    d.workshop().handingOver().dismiss();
    // Both: one of them is not in tune, which is said first; one name for both is refused.
    d.key(Qt::Key_E, Qt::ControlModifier);
    ASSERT_TRUE(choose("export.which", 2));
    EXPECT_TRUE(labelText(d, "export.remarks").contains("box.stl is there already"));
    EXPECT_TRUE(labelText(d, "export.verdict").contains("open – open edges: 7, limit 0"))
        << labelText(d, "export.verdict").toStdString();
    EXPECT_NE(d.button("Mend first"), nullptr);
    d.find<QLineEdit>("export.name")->setText("both");
    EXPECT_TRUE(labelText(d, "export.files").startsWith("Two parts would be written to both.stl"));
    // In one file, each under its name.
    ASSERT_TRUE(choose("export.format", d.find<QComboBox>("export.format")->findData("3mf")));
    d.find<QCheckBox>("export.together")->click();
    EXPECT_EQ(plan.files().size(), 1U);
    // Of one unit, though.
    const QString unit = d.workshop().parts().current()->unit().name;
    d.workshop().parts().setUnit("in");
    ASSERT_TRUE(d.settle());
    EXPECT_TRUE(labelText(d, "export.files").startsWith("One file has one unit"));
    EXPECT_FALSE(d.button("Write it as it is")->isEnabled());
    d.workshop().parts().setUnit(unit);
    ASSERT_TRUE(d.settle());
    ASSERT_TRUE(d.clickWhenReady("Write it as it is"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().handingOver().delivered().has_value(); }));
    ASSERT_TRUE(d.settle());
    const auto both = io::readSurface(std::filesystem::path((d.folder() + "/both.3mf").toStdString()), silent());
    ASSERT_TRUE(both);
    EXPECT_EQ(both->mesh.triangles.size(), 12 + openBall(3).triangles.size());
    EXPECT_EQ(both->mesh.regionNames.back(), "open");
    // Each in a file of its own; mending first repairs what is in front.
    d.key(Qt::Key_E, Qt::ControlModifier);
    d.find<QCheckBox>("export.together")->click();
    d.find<QLineEdit>("export.name")->setText("{name}-out");
    ASSERT_TRUE(d.clickWhenReady("Write it as it is"));
    ASSERT_TRUE(d.waitFor([&] { return QFile::exists(d.folder() + "/open-out.3mf"); }));
    ASSERT_TRUE(d.settle());
    EXPECT_TRUE(QFile::exists(d.folder() + "/box-out.3mf"));
    EXPECT_EQ(d.workshop().handingOver().delivered()->others.size(), 1);
    d.workshop().parts().choose(1);
    ASSERT_TRUE(d.settle());
    d.key(Qt::Key_E, Qt::ControlModifier);
    ASSERT_TRUE(d.clickWhenReady("Mend first"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().current()->track.stops().size() > 1; }));
    ASSERT_TRUE(d.settle());
}

}  // namespace
}  // namespace zither::tests
