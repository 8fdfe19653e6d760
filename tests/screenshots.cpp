// Makes the pictures of docs/screenshots from the Skerry rig: zither-shots RIG-FOLDER OUTPUT-FOLDER [NAME...]
// Each has a scene of its own, and what must be true when it is taken; the program fails where that is not so.
#include <QAbstractButton>
#include <QAction>
#include <QApplication>
#include <QComboBox>
#include <QDir>
#include <QDoubleSpinBox>
#include <QListWidget>
#include <QRegularExpression>
#include <algorithm>
#include <iostream>

#include "check/catalogue.h"
#include "desktop/recipe_window.h"
#include "desktop/theme.h"
#include "desktop/viewport.h"
#include "session/reading/questions.h"
#include "session/state/brushing.h"
#include "tests/window_driver.h"

namespace {

using zither::desktop::RecipeWindow;
using zither::desktop::Viewport;
using zither::tests::WindowDriver;
using Driver = WindowDriver&;

void tried(Driver d) {
    d.waitFor([&] { return d.workshop().trial().current().has_value(); });
    d.settle();
}

void tryStep(Driver d, const char* call) {
    d.workshop().trial().start(*zither::steps::parseStepCall(call));
    tried(d);
}

void keep(Driver d, const char* call) {
    tryStep(d, call);
    d.workshop().trial().keep();
    d.settle();
}

void repaired(Driver d) {
    d.workshop().repair();
    d.settle();
    d.settle();
    d.workshop().notice().dismiss();
}

void throughLens(Driver d, const zither::session::Lens& lens) {
    d.workshop().coating().setLens(lens);
    d.settle();
    d.settle();
}

// Puts a step on the desk and sets a value of it.
void openStep(Driver d, const char* step, std::initializer_list<std::pair<const char*, double>> values = {}) {
    d.openStep(step);
    d.waitFor([&] { return d.workshop().trial().current().has_value(); });
    d.settle();
    for (const auto& [name, value] : values) d.find<QDoubleSpinBox>(name)->setValue(value);
    d.settle();
    tried(d);
}

bool shows(Driver d, const char* step) {
    const auto& preview = d.workshop().trial().current();
    return preview && preview->call.step == zither::steps::findStep(step);
}

void largestShellAmongGhosts(Driver d) {
    auto& w = d.workshop();
    const auto& shells = w.looks().kept()->survey->shells;
    const auto largest = std::max_element(
        shells.begin(), shells.end(), [](const auto& a, const auto& b) { return a.box.diagonal() < b.box.diagonal(); });
    w.veil().only(zither::check::Shell(*largest), zither::session::Veil::Shown::Ghost);
    d.settle();
}

void fusedAndCutOpen(Driver d) {
    auto& w = d.workshop();
    w.choice().chooseClass(zither::check::selfIntersections);
    const auto& box = w.looks().kept()->survey->mass.size;
    w.choice().setAxis(std::nullopt);
    w.sectioning().begin();
    w.sectioning().move(0.21 * box.extent()[w.choice().axis()]);
    d.settle();
    tryStep(d, "fuse");
}

void crackUnderTheLoupe(Driver d) {
    auto& w = d.workshop();
    w.choice().chooseClass(zither::check::openEdges);
    w.loupe().setOn(true);
    for (int i = 0; i < 40 && w.loupe().pieces() < 2; ++i) w.choice().step(1);
    w.loupe().setSpread(0.25);
}

void besideTheImport(Driver d) {
    repaired(d);
    d.workshop().beforeAfter().setOther(0);
    d.settle();
}

void handedOver(Driver d) {
    repaired(d);
    d.workshop().handingOver().exportTo(d.folder() + "/hub-mended.stl");
    d.waitFor([&] { return d.workshop().handingOver().delivered().has_value(); });
    d.settle();
}

// What was done to a part as a recipe, with a condition, tried on the import.
void triedRecipe(Driver d) {
    auto& w = d.workshop();
    keep(d, "stitch");
    keep(d, "fill");
    auto* recipe = d.window().findChild<RecipeWindow*>();
    recipe->open();
    w.recipes().setOnlyIf(w.recipes().calls().size() - 1, "boundary_edges");
    recipe->findChild<QListWidget*>("recipe-steps")->setCurrentRow(0);
    w.goTo(0);
    d.settle();
    w.recipes().tryOut();
    d.settle();
}

// A stroke that pushes out, while it is drawn.
void stroke(Driver d) {
    d.openStep("brush");
    d.waitFor([&] { return d.find<QComboBox>("brush.way") != nullptr; });
    auto* way = d.find<QComboBox>("brush.way");
    way->setCurrentText("out");
    Q_EMIT way->activated(way->currentIndex());
    d.settle();
    for (QAction* action : d.window().commands())
        if (action->text() == "Brush over it") action->trigger();
    d.settle();
    auto* view = d.window().findChild<Viewport*>();
    QPointF at(0.60 * view->width(), 0.35 * view->height());
    d.press(view, at, Qt::LeftButton);
    for (int i = 0; i < 40; ++i) d.move(view, at += QPointF(i % 2, 3), Qt::LeftButton);
    // Held still, it is drawn in all pixels.
    d.settle();
    QTest::qWait(600);
}

bool isDrawn(Driver d) {
    const zither::session::Brushing& brushing = d.window().viewport().brushing();
    return brushing.drawing() && brushing.moved();
}

// Turned and closed, a void behind a wall of 6 with two drains, cut open.
void hollowedAndCutOpen(Driver d) {
    keep(d, "orient");
    keep(d, "enclose");
    openStep(d, "hollow", {{"hollow.drains", 2}, {"hollow.wall", 6}});
    d.workshop().choice().setAxis(1);
    d.workshop().sectioning().begin();
    d.settle();
}

struct Picture {
    const char* name;
    const char* part;  // in front, among all of the rig; nullptr: nothing is open
    void (*setUp)(Driver);
    bool (*holds)(Driver);
    // What is pictured; nullptr: the window.
    QWidget* (*of)(Driver) = nullptr;
};

bool isPlain(Driver d) {
    return d.workshop().looks().kept() != nullptr && !d.workshop().trial().current();
}

const Picture pictures[] = {
    {"empty", nullptr, [](Driver) {}, [](Driver d) { return d.workshop().parts().all().empty(); }},
    {"overview", "blade", [](Driver) {}, isPlain},
    {"facing", "spinner", [](Driver) {},
     [](Driver d) { return isPlain(d) && !d.workshop().judging().verdictOf(*d.workshop().looks().kept()).allMet(); }},
    {"preview", "hub",
     [](Driver d) {
         d.workshop().choice().chooseClass(zither::check::openEdges);
         tryStep(d, "stitch");
     },
     [](Driver d) { return shows(d, "stitch") && d.workshop().choice().chosenClass().has_value(); }},
    {"ghosts", "hub", largestShellAmongGhosts, [](Driver d) { return !d.workshop().veil().faintPick().everything(); }},
    {"wrap", "strainer", [](Driver d) { openStep(d, "wrap"); }, [](Driver d) { return shows(d, "wrap"); }},
    {"fuse", "duct-frame", fusedAndCutOpen,
     [](Driver d) { return shows(d, "fuse") && d.workshop().sectioning().active() != nullptr; }},
    {"change", "blade",
     [](Driver d) {
         repaired(d);
         throughLens(d, zither::session::changeLens);
     },
     [](Driver d) { return d.workshop().parts().current()->track.current() > 0 && d.workshop().looks().kept(); }},
    {"questions", "fairing", repaired,
     [](Driver d) {
         const auto lists = d.window().findChildren<QListWidget*>(QRegularExpression("^questions-"));
         return std::any_of(lists.begin(), lists.end(), [](const auto* l) { return l->isVisible() && l->count() > 0; });
     }},
    {"loupe", "hub", crackUnderTheLoupe, [](Driver d) { return d.workshop().loupe().pieces() >= 2; }},
    {"compare", "hub", besideTheImport, [](Driver d) { return d.workshop().beforeAfter().display() != nullptr; }},
    {"proved", "hub", handedOver,
     [](Driver d) {
         const auto& delivered = d.workshop().handingOver().delivered();
         return delivered && delivered->survey->solid;
     }},
    {"recipe", "hub", triedRecipe, [](Driver d) { return d.workshop().recipes().calls().size() == 2; },
     [](Driver d) -> QWidget* { return d.window().findChild<RecipeWindow*>(); }},
    {"curve", "nacelle", [](Driver d) { openStep(d, "decimate"); },
     [](Driver d) { return shows(d, "decimate") && d.window().findChild<QWidget*>("decimate.curve") != nullptr; }},
    {"deviation", "nacelle",
     [](Driver d) {
         keep(d, "decimate");
         throughLens(d, zither::session::deviationLens);
     },
     [](Driver d) { return d.workshop().parts().current()->track.current() == 1; }},
    {"trim", "blade", [](Driver d) { openStep(d, "trim"); }, [](Driver d) { return shows(d, "trim"); }},
    {"brush", "nacelle", stroke, isDrawn},
    {"remesh", "hub",
     [](Driver d) {
         openStep(d, "remesh", {{"remesh.length", 6}});
     },
     [](Driver d) { return shows(d, "remesh"); }},
    {"hollow", "spinner", hollowedAndCutOpen,
     [](Driver d) { return shows(d, "hollow") && d.workshop().sectioning().active() != nullptr; }},
};

bool take(const Picture& picture, const QStringList& rig, const QDir& out) {
    WindowDriver d;
    if (picture.part) {
        d.workshop().judging().leaveAsItIs();
        d.open(rig);
        auto& parts = d.workshop().parts();
        for (std::size_t i = 0; i < parts.all().size(); ++i)
            if (parts.all()[i]->name == picture.part) parts.choose(i);
        d.settle();
    }
    picture.setUp(d);
    const QString file = out.filePath(QString(picture.name) + ".png");
    if (!(picture.of ? picture.of(d)->grab().save(file) : d.saveShot(file))) {
        std::cerr << picture.name << ": cannot be written\n";
        return false;
    }
    if (!picture.holds(d)) {
        std::cerr << picture.name << ": does not show what it should\n";
        return false;
    }
    return true;
}

}  // namespace

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    zither::desktop::applyTheme(application, zither::session::lightPaper());
    if (argc < 3) {
        std::cerr << "usage: zither-shots RIG-FOLDER OUTPUT-FOLDER [NAME...]\n";
        return 2;
    }
    const QDir folder(argv[1]);
    QStringList rig;
    for (const QString& name : folder.entryList({"*.stl"})) rig << folder.filePath(name);
    const std::vector<std::string> wanted(argv + 3, argv + argc);
    bool good = true;
    for (const Picture& picture : pictures)
        if (wanted.empty() || std::find(wanted.begin(), wanted.end(), picture.name) != wanted.end())
            good = take(picture, rig, QDir(argv[2])) && good;
    return good ? 0 : 1;
}
