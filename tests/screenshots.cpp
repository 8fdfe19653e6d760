// Makes the pictures of docs/screenshots from the Skerry rig: zither-shots RIG-FOLDER OUTPUT-FOLDER
#include <QAbstractButton>
#include <QAction>
#include <QApplication>
#include <QComboBox>
#include <QDir>
#include <QDoubleSpinBox>
#include <QListWidget>
#include <algorithm>
#include <iostream>

#include "check/catalogue.h"
#include "desktop/recipe_window.h"
#include "desktop/theme.h"
#include "desktop/viewport.h"
#include "tests/window_driver.h"

using zither::check::DefectClass;
using zither::tests::WindowDriver;

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    zither::desktop::applyTheme(application);
    if (argc != 3) {
        std::cerr << "usage: zither-shots RIG-FOLDER OUTPUT-FOLDER\n";
        return 2;
    }
    const QDir rig(argv[1]);
    const QDir out(argv[2]);
    bool good = true;
    const auto shot = [&](WindowDriver& d, const char* name) {
        good = d.saveShot(out.filePath(QString(name) + ".png")) && good;
    };
    {
        WindowDriver d;
        shot(d, "empty");
    }
    WindowDriver d;
    QStringList files;
    for (const QString& name : rig.entryList({"*.stl"})) files << rig.filePath(name);
    d.open(files);
    auto& w = d.workshop();
    const auto choose = [&](const QString& name) {
        for (std::size_t i = 0; i < w.parts().all().size(); ++i)
            if (w.parts().all()[i]->name == name) w.parts().choose(i);
        d.settle();
    };
    choose("blade");
    shot(d, "overview");
    w.judging().leaveAsItIs();
    choose("hub");
    w.choice().chooseClass(zither::check::openEdges);
    w.trial().start({zither::steps::findStep("stitch"), {}});
    d.settle();
    shot(d, "preview");
    w.trial().drop();
    w.choice().chooseClass(std::nullopt);
    // The largest shell in full, the others as ghosts.
    const auto& shells = w.looks().kept()->survey->shells;
    const auto largest = std::max_element(
        shells.begin(), shells.end(), [](const auto& a, const auto& b) { return a.box.diagonal() < b.box.diagonal(); });
    w.veil().only(zither::check::Shell(*largest), zither::session::Veil::Shown::Ghost);
    d.settle();
    shot(d, "ghosts");
    w.veil().showAll();
    choose("strainer");
    d.openStep("wrap");
    d.waitFor([&] { return w.trial().current().has_value(); });
    d.settle();
    shot(d, "wrap");
    w.trial().drop();
    choose("nacelle");
    for (auto* b : d.window().findChildren<QAbstractButton*>())
        if (b->isVisible() && b->text() == "Back to the whole part") b->click();
    d.settle();
    auto* view = d.window().findChild<zither::desktop::Viewport*>();
    choose("spinner");
    shot(d, "facing");
    choose("duct-frame");
    w.choice().chooseClass(zither::check::selfIntersections);
    const auto& box = w.looks().kept()->survey->mass.size;
    w.choice().setAxis(std::nullopt);
    w.sectioning().begin();
    w.sectioning().move(0.21 * box.extent()[w.choice().axis()]);
    d.settle();
    w.trial().start({zither::steps::findStep("fuse"), {}});
    d.settle();
    d.settle();
    shot(d, "fuse");
    w.trial().drop();
    w.sectioning().clear();
    w.choice().chooseClass(std::nullopt);
    choose("blade");
    w.repair();
    d.settle();
    d.settle();
    w.coating().setLens(zither::session::changeLens);
    d.settle();
    d.settle();
    w.notice().dismiss();
    shot(d, "change");
    w.coating().setLens(zither::session::plainLens);
    choose("fairing");
    w.repair();
    d.settle();
    d.settle();
    w.notice().dismiss();
    shot(d, "questions");
    choose("hub");
    // A crack under the loupe.
    w.choice().chooseClass(zither::check::openEdges);
    w.loupe().setOn(true);
    for (int i = 0; i < 40 && w.loupe().pieces() < 2; ++i) w.choice().step(1);
    w.loupe().setSpread(0.25);
    shot(d, "loupe");
    w.loupe().setSpread(0);
    w.loupe().setOn(false);
    w.choice().chooseClass(std::nullopt);
    w.repair();
    d.settle();
    d.settle();
    w.notice().dismiss();
    w.beforeAfter().setOther(0);
    d.settle();
    shot(d, "compare");
    w.beforeAfter().setOther(std::nullopt);
    w.undo();
    d.settle();
    w.trial().start({zither::steps::findStep("fill"), {}});
    d.settle();
    w.trial().keep();
    d.settle();
    w.goTo(2);
    d.settle();
    w.handingOver().exportTo(d.folder() + "/hub-mended.stl");
    d.settle();
    shot(d, "proved");
    w.handingOver().dismiss();
    // What was done to it as a recipe, with a condition, tried.
    auto* recipe = d.window().findChild<zither::desktop::RecipeWindow*>();
    recipe->open();
    w.recipes().setOnlyIf(w.recipes().calls().size() - 1, "boundary_edges");
    recipe->findChild<QListWidget*>("recipe-steps")->setCurrentRow(0);
    w.goTo(0);
    d.settle();
    w.recipes().tryOut();
    d.settle();
    good = recipe->grab().save(out.filePath("recipe.png")) && good;
    recipe->hide();
    choose("nacelle");
    d.openStep("decimate");
    d.settle();
    d.waitFor([&] { return w.trial().current().has_value(); });
    d.settle();
    shot(d, "curve");
    w.trial().keep();
    w.coating().setLens(zither::session::deviationLens);
    d.settle();
    d.settle();
    shot(d, "deviation");
    w.coating().setLens(zither::session::plainLens);
    choose("blade");
    d.openStep("trim");
    d.waitFor([&] { return w.trial().current().has_value(); });
    d.settle();
    shot(d, "trim");
    w.trial().drop();
    const auto openStep = [&](const char* name) {
        for (auto* b : d.window().findChildren<QAbstractButton*>())
            if (b->isVisible() && b->text() == "Back to the whole part") b->click();
        d.settle();
        d.openStep(name);
    };
    const auto tried = [&] {
        d.waitFor([&] { return w.trial().current().has_value(); });
        d.settle();
    };
    // A stroke that pushes out, while it is drawn.
    choose("nacelle");
    for (QAction* action : d.window().commands())
        if (action->text() == "Brush over it") action->trigger();
    d.waitFor([&] { return d.find<QComboBox>("brush.way") != nullptr; });
    d.find<QComboBox>("brush.way")->setCurrentText("out");
    Q_EMIT d.find<QComboBox>("brush.way")->activated(d.find<QComboBox>("brush.way")->currentIndex());
    d.settle();
    QPointF at(0.47 * view->width(), 0.35 * view->height());
    d.press(view, at, Qt::LeftButton);
    for (int i = 0; i < 40; ++i) d.move(view, at += QPointF(i % 2, 3), Qt::LeftButton);
    shot(d, "brush");
    d.release(view, at, Qt::LeftButton);
    d.settle();
    w.undo();
    choose("hub");
    openStep("remesh");
    d.waitFor([&] { return d.find<QDoubleSpinBox>("remesh.length") != nullptr; });
    d.find<QDoubleSpinBox>("remesh.length")->setValue(6);
    tried();
    shot(d, "remesh");
    w.trial().drop();
    // Turned and closed, a void behind a wall of 6, cut open.
    choose("spinner");
    for (const char* step : {"orient", "enclose"}) {
        w.trial().start(*zither::steps::parseStepCall(step));
        tried();
        w.trial().keep();
        d.settle();
    }
    openStep("hollow");
    d.waitFor([&] { return d.find<QDoubleSpinBox>("hollow.wall") != nullptr; });
    d.find<QDoubleSpinBox>("hollow.drains")->setValue(2);
    d.find<QDoubleSpinBox>("hollow.wall")->setValue(6);
    tried();
    w.choice().setAxis(1);
    w.sectioning().begin();
    d.settle();
    shot(d, "hollow");
    return good ? 0 : 1;
}
