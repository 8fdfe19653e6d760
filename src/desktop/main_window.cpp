// Menus, keys and finder are made from one list of commands; lenses and steps come from their catalogues.
#include "desktop/main_window.h"

#include <QApplication>
#include <QClipboard>
#include <QDragEnterEvent>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMenu>
#include <QMenuBar>
#include <QMimeData>
#include <QVBoxLayout>

#include "check/catalogue.h"
#include "desktop/command_finder.h"
#include "desktop/desk_panel.h"
#include "desktop/export_window.h"
#include "desktop/header_bar.h"
#include "desktop/help_window.h"
#include "desktop/lens_bar.h"
#include "desktop/numbers_window.h"
#include "desktop/parts_panel.h"
#include "desktop/preferences_window.h"
#include "desktop/recipe_window.h"
#include "desktop/section_card.h"
#include "desktop/start_page.h"
#include "desktop/status_panel.h"
#include "desktop/steps_window.h"
#include "desktop/strings_panel.h"
#include "desktop/theme.h"
#include "desktop/track_panel.h"
#include "desktop/view_area.h"
#include "desktop/viewport.h"
#include "project/journal.h"
#include "session/reading/part_list.h"
#include "session/reading/word_search.h"
#include "steps/all_steps.h"

namespace zither::desktop {

using session::Camera;
using Panel = session::Preferences::Panel;

namespace {
constexpr double flatDegrees = 5;
constexpr double creaseDegrees = 25;
}  // namespace

MainWindow::MainWindow(session::Workshop& workshop, Dialogs& dialogs, QWidget* parent)
    : QMainWindow(parent), workshop_(workshop), dialogs_(dialogs), model_(workshop) {
    setWindowTitle("Zither");
    resize(1280, 760);  // with its title bar it fits a screen of 1280 x 800
    setAcceptDrops(true);
    buildPanels();
    buildMenus();
    finder_ = new CommandFinder(commands_, this);
    numbers_ = new NumbersWindow(workshop_, this);
    help_ = new HelpWindow(commands_, workshop_.preferences(), this);
    steps_ = new StepsWindow(workshop_, this);
    export_ = new ExportWindow(workshop_, dialogs_, this);
    recipe_ = new RecipeWindow(workshop_, dialogs_, this);
    preferences_ = new PreferencesWindow(workshop_, this);
    desk_->setMeasures(measures_);
    connect(&workshop_.parts(), &session::Parts::changed, this, [this] {
        refreshRecent();
        refreshUndo();
    });
    connect(&workshop_.saving(), &session::Saving::changed, this, &MainWindow::refreshTitle);
    connect(&workshop_.trial(), &session::Trial::changed, this, &MainWindow::refreshUndo);
    connect(&workshop_.picking(), &session::Picking::changed, this, &MainWindow::refreshUndo);
    connect(&workshop_.preferences(), &session::Preferences::changed, this, &MainWindow::refreshLayout);
    connect(header_, &HeaderBar::repairWanted, &workshop_, &session::Workshop::repair);
    connect(header_, &HeaderBar::exportWanted, this, &MainWindow::exportPart);
    connect(desk_, &DeskPanel::reportWanted, this, &MainWindow::reportPart);
    connect(header_, &HeaderBar::otherBriefWanted, this, &MainWindow::openOtherBrief);
    connect(desk_, &DeskPanel::helpWanted, this,
            [this](const steps::Step& step) { help_->open(session::helpKeyOf(step)); });
    refreshRecent();
    refreshUndo();
    refreshLayout();
    viewport_->setFocus();
}

void MainWindow::buildPanels() {
    auto* central = new QWidget;
    central->setObjectName("ground");
    auto* column = new QVBoxLayout(central);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    header_ = new HeaderBar(workshop_);
    column->addWidget(header_);
    auto* row = new QHBoxLayout;
    row->setSpacing(0);
    column->addLayout(row, 1);

    left_ = new QVBoxLayout;
    left_->setSpacing(0);
    row->addLayout(left_, 1);
    parts_ = new PartsPanel(workshop_);
    viewport_ = new Viewport(workshop_, model_);
    // Beside the program where it was built, else where it was installed.
    const QString beside = QApplication::applicationDirPath();
    const QString rig = QFileInfo::exists(beside + "/rig") ? beside + "/rig" : beside + "/../share/zither/rig";
    auto* start = new StartPage(workshop_, rig);
    connect(start, &StartPage::openWanted, this, [this] { workshop_.opening().open(dialogs_.filesToOpen(this)); });
    area_ = new ViewArea(workshop_, {new LensBar(workshop_), viewport_, parts_, new SectionCard(workshop_), start});
    strings_ = new StringsPanel(workshop_);
    track_ = new TrackPanel(workshop_);
    left_->addWidget(area_, 1);
    left_->addWidget(strings_);
    left_->addWidget(track_);

    right_ = new QVBoxLayout;
    right_->setSpacing(0);
    row->addLayout(right_);
    desk_ = new DeskPanel(workshop_, model_, dialogs_);
    status_ = new StatusPanel(workshop_);
    right_->addWidget(desk_, 1);
    right_->addWidget(status_);
    setCentralWidget(central);
}

void MainWindow::refreshLayout() {
    const session::Preferences& wanted = workshop_.preferences();
    const bool desk = wanted.isShown(Panel::Desk);
    desk_->setVisible(desk);
    track_->setVisible(!wanted.viewAlone());
    header_->setVisible(!wanted.viewAlone());
    // What is said has a place also where there is no desk.
    status_->setFixedWidth(desk ? desk_->width() : QWIDGETSIZE_MAX);
    desk ? right_->addWidget(status_) : left_->insertWidget(1, status_);
}

QAction* MainWindow::command(QMenu* menu, const QString& name, const QKeySequence& key, std::function<void()> run,
                             const QStringList& words) {
    auto* action = new QAction(name, this);
    action->setShortcut(key);
    action->setProperty("words", words);
    connect(action, &QAction::triggered, this, std::move(run));
    menu->addAction(action);
    addAction(action);
    commands_ << action;
    return action;
}

QAction* MainWindow::toggle(QMenu* menu, const QString& name, const QKeySequence& key, std::function<void(bool)> set,
                            const QStringList& words) {
    QAction* action = command(
        menu, name, key, [] {}, words);
    action->setCheckable(true);
    connect(action, &QAction::toggled, this, std::move(set));
    return action;
}

void MainWindow::measures(const QString& shortName, QAction* action) {
    action->setProperty("short", shortName);
    measures_ << action;
}

void MainWindow::buildMenus() {
    buildPartMenu();
    buildEditMenu();
    buildFindMenu();
    buildStepsMenu();
    buildViewMenu();
    buildHelpMenu();
}

void MainWindow::buildPartMenu() {
    QMenu* menu = header_->menus().addMenu("&Part");
    command(menu, "Open …", QKeySequence::Open, [this] { workshop_.opening().open(dialogs_.filesToOpen(this)); },
            {"import", "load", "read", "bring in"});
    recent_ = menu->addMenu("Open recent");
    command(menu, "Save the project", QKeySequence::Save, [this] { saveProject(false); },
            {"keep", "store", "save all"});
    command(menu, "Save the project as …", {}, [this] { saveProject(true); }, {"save a copy", "another name"});
    command(menu, "Bring back unsaved work", {}, [this] { bringBack(); }, {"recover", "restore", "crash", "autosave"});
    menu->addSeparator();
    command(menu, "Export …", QKeySequence("Ctrl+E"), [this] { exportPart(); },
            {"save", "write", "hand over", "save as", "all parts", "format"});
    command(menu, "Report …", QKeySequence("Ctrl+Shift+E"), [this] { reportPart(); },
            {"document", "certificate", "proof", "pdf", "html", "quality report", "print"});
    menu->addSeparator();
    command(menu, "Save the steps as a recipe …", QKeySequence("Ctrl+Shift+R"), [this] {
        if (!workshop_.parts().current()) return;
        const QString file = dialogs_.recipeToSave(this, workshop_.parts().current()->name + "-recipe.json");
        if (!file.isEmpty()) workshop_.recipes().saveTrackTo(file);
    });
    command(menu, "Run a recipe …", QKeySequence("Ctrl+Alt+R"), [this] {
        if (!workshop_.parts().current()) return;
        const QString file = dialogs_.recipeToRun(this);
        if (!file.isEmpty()) workshop_.recipes().runFile(file);
    });
    command(menu, "Edit a recipe …", {}, [this] { recipe_->open(); },
            {"macro", "script", "record", "dry run", "condition", "order of steps"});
    menu->addSeparator();
    command(menu, "Take apart by bodies", {}, [this] { workshop_.partMaking().splitByBody(); });
    command(menu, "Take apart by regions", {}, [this] { workshop_.partMaking().splitByRegion(); });
    command(menu, "Make a part of what is picked", {}, [this] { workshop_.partMaking().splitOffPick(); });
    command(menu, "Join all parts into one", {}, [this] { workshop_.partMaking().joinAll(); });
    command(menu, "Copy this part", {}, [this] { workshop_.partMaking().copy(); });
    command(menu, "Do the last step on the other chosen parts", {}, [this] { workshop_.recipes().repeatLastStep(); },
            {"apply to all", "batch", "same step"});
    menu->addSeparator();
    command(menu, "Choose all parts", QKeySequence("Ctrl+Shift+A"), [this] { workshop_.parts().chooseAll(); },
            {"select all parts", "batch"});
    command(menu, "Next part", QKeySequence("Ctrl+Down"), [this] {
        if (workshop_.parts().currentIndex())
            workshop_.parts().choose((*workshop_.parts().currentIndex() + 1) % workshop_.parts().all().size());
    });
    command(menu, "Previous part", QKeySequence("Ctrl+Up"), [this] {
        if (workshop_.parts().currentIndex())
            workshop_.parts().choose((*workshop_.parts().currentIndex() + workshop_.parts().all().size() - 1) %
                                     workshop_.parts().all().size());
    });
    command(menu, "Close this part", QKeySequence("Ctrl+W"), [this] {
        if (workshop_.parts().currentIndex()) workshop_.parts().close(*workshop_.parts().currentIndex());
    });
    menu->addSeparator();
    command(menu, "Quit", QKeySequence("Ctrl+Q"), [this] { close(); });
}

void MainWindow::buildEditMenu() {
    QMenu* menu = header_->menus().addMenu("&Edit");
    undo_ = command(menu, "Undo", QKeySequence::Undo, [this] { workshop_.undo(); }, {"back", "revert"});
    redo_ = command(menu, "Redo", QKeySequence("Ctrl+Shift+Z"), [this] { workshop_.redo(); }, {"forward", "again"});
    menu->addSeparator();
    command(menu, "Keep the preview", QKeySequence("Ctrl+Return"), [this] { workshop_.trial().keep(); },
            {"apply", "accept"});
    command(menu, "Drop the preview", QKeySequence("Ctrl+Backspace"), [this] { workshop_.trial().drop(); },
            {"discard", "reject"});
    menu->addSeparator();
    command(menu, "Pick nothing", QKeySequence("Ctrl+D"), [this] { workshop_.picking().set({}); },
            {"deselect", "clear selection"});
    command(menu, "Grow the pick", QKeySequence("+"), [this] { workshop_.picking().grow(); }, {"expand selection"});
    command(menu, "Shrink the pick", QKeySequence("-"), [this] { workshop_.picking().shrink(); },
            {"contract selection"});
    command(menu, "Pick on as far as it is flat", {}, [this] { workshop_.picking().growFlat(flatDegrees); },
            {"flat region", "planar", "face", "facet", "coplanar"});
    command(menu, "Pick on up to creases", {}, [this] { workshop_.picking().growSmooth(creaseDegrees); },
            {"smooth region", "surface patch", "feature", "face"});
    command(menu, "Pick the shell", {},
            [this] {
                if (const auto& picked = workshop_.picking().pick(); !picked.everything())
                    workshop_.picking().pickShellOf(picked.triangles().back());
            },
            {"connected", "component", "body", "island"});
    command(menu, "Pick all that is not picked", QKeySequence("Ctrl+Shift+I"), [this] { workshop_.picking().invert(); },
            {"invert selection", "complement"});
    toggle(menu, "Drawing around picks what is hidden, too", {},
           [this](bool on) { viewport_->tools().setPicksThrough(on); }, {"through", "select through", "backside"});
    for (const auto& [name, key, times] :
         {std::tuple{"Draw a pick wider", "]", 1.5}, {"Draw a pick narrower", "[", 1 / 1.5}})
        command(menu, name, QKeySequence(key),
                [this, by = times] { viewport_->tools().setPickWidth(by * viewport_->tools().pickWidth()); },
                {"brush size", "selection brush"});
    command(menu, "Pick what came with the last step", {}, [this] { workshop_.pickWhatCameLast(); },
            {"select changed", "new triangles"});
    menu->addSeparator();
    command(menu, "Preferences …", QKeySequence("Ctrl+,"), [this] { preferences_->show(); },
            {"settings", "options", "dark mode", "theme", "units", "digits", "mouse"});
}

void MainWindow::buildFindMenu() {
    QMenu* menu = header_->menus().addMenu("&Find");
    command(menu, "Find a command …", QKeySequence("Ctrl+K"), [this] { finder_->open(); });
    measures("numbers",
             command(menu, "Numbers of the part, or of the pick", QKeySequence("Ctrl+I"), [this] { numbers_->show(); },
                     {"measure", "volume", "area", "mass", "weight", "size", "bounding box", "statistics"}));
    measures("distance",
             toggle(menu, "Measure on the part: points, distances, angles", QKeySequence("M"),
                    [this](bool on) { workshop_.measuring().setOn(on); },
                    {"ruler", "distance", "angle", "radius", "coordinate", "thickness at a point", "dimension"}));
    command(menu, "Take the last measured point away", QKeySequence("Backspace"),
            [this] { workshop_.measuring().takeLast(); });
    command(menu, "Take all measurements away", {}, [this] { workshop_.measuring().clear(); });
    command(menu, "Copy the measurements", QKeySequence::Copy,
            [this] { QGuiApplication::clipboard()->setText(workshop_.measuring().text()); });
    menu->addSeparator();
    command(menu, "Next place", QKeySequence("N"), [this] { workshop_.choice().step(1); });
    command(menu, "Previous place", QKeySequence("B"), [this] { workshop_.choice().step(-1); });
    command(menu, "Whole part", QKeySequence("Esc"), [this] {
        if (workshop_.choice().slab())
            workshop_.choice().setSlab(std::nullopt);
        else if (workshop_.trial().current())
            workshop_.trial().drop();
        else
            workshop_.choice().chooseClass(std::nullopt);
    });
    QMenu* places = menu->addMenu("All places of");
    for (const check::DefectClass defect : check::catalogue())
        command(places, "Show " + session::text(defect->name).toLower(), {},
                [this, defect] { workshop_.choice().chooseClass(defect); },
                {session::text(defect->limited.title), session::text(defect->sentence)});
    menu->addSeparator();
    for (int axis = 0; axis < 3; ++axis)
        command(menu, QString("Built upward along %1").arg(QChar("XYZ"[axis])), {},
                [this, axis] { workshop_.judging().setBuildDirection(mesh::Point::Unit(axis)); });
    command(menu, "Built upward from the picked face", {}, [this] {
        if (const auto faces = workshop_.picking().normal()) workshop_.judging().setBuildDirection(-*faces);
    });
    menu->addSeparator();
    for (int axis = 0; axis < 3; ++axis)
        command(menu, QString("Strings along %1").arg(QChar("XYZ"[axis])),
                QKeySequence(QString("Alt+%1").arg(QChar("XYZ"[axis]))),
                [this, axis] { workshop_.choice().setAxis(axis); });
    command(menu, "Strings along the longest axis", QKeySequence("Alt+A"),
            [this] { workshop_.choice().setAxis(std::nullopt); });
}

void MainWindow::buildStepsMenu() {
    QMenu* menu = header_->menus().addMenu("&Steps");
    command(menu, "Repair by itself", QKeySequence("Ctrl+R"), [this] { workshop_.repair(); },
            {"automatic", "heal", "fix", "autofix", "make watertight"});
    menu->addSeparator();
    for (const steps::Family& family : steps::families()) {
        QMenu* of = menu->addMenu(session::text(family.title));
        for (const steps::Step& step : steps::catalogue())
            if (step.family == &family)
                command(
                    of, session::text(step.title), {}, [this, &step] { model_.showStep(step); },
                    session::wordsOf(step));
    }
    menu->addSeparator();
    command(menu, "Cancel what runs", QKeySequence("Ctrl+."), [this] { workshop_.cancelAll(); });
}

void MainWindow::buildViewMenu() {
    QMenu* menu = header_->menus().addMenu("&View");
    command(menu, "Whole part in view", QKeySequence("F"), [this] { viewport_->fit(); });
    const std::pair<const char*, Camera::View> views[] = {
        {"From the front", Camera::View::Front}, {"From behind", Camera::View::Back},
        {"From the left", Camera::View::Left},   {"From the right", Camera::View::Right},
        {"From above", Camera::View::Top},       {"From below", Camera::View::Bottom},
        {"From a corner", Camera::View::Iso}};
    int key = 1;
    for (const auto& [name, view] : views)
        command(menu, name, QKeySequence(QString("Alt+%1").arg(key++)), [this, v = view] { viewport_->lookFrom(v); });
    toggle(menu, "Up is Y, not Z", QKeySequence("U"), [this](bool on) { viewport_->setYUp(on); },
           {"up axis", "y-up", "z-up", "orientation"});
    buildMoveCommands(menu->addMenu("Turn, move, zoom"));
    menu->addSeparator();
    toggle(menu, "Show triangle edges", QKeySequence("E"), [this](bool on) { viewport_->setEdgesShown(on); }, {})
        ->setChecked(true);
    toggle(menu, "Creases in ink, hollows darker", QKeySequence("R"), [this](bool on) { viewport_->setRelief(on); },
           {"ambient occlusion", "silhouette", "outline", "feature edges", "shading"})
        ->setChecked(true);
    menu->addSeparator();
    measures("section", command(menu, "Cut it open, or close it again", QKeySequence("S"),
                                [this] {
                                    workshop_.sectioning().active() ? workshop_.sectioning().clear()
                                                                    : workshop_.sectioning().begin();
                                },
                                {"section", "cross section", "clip", "slice", "inside"}));
    for (const auto& [name, keys, share] :
         {std::tuple{"Section forwards", "PgUp", 0.02}, {"Section backwards", "PgDown", -0.02}})
        command(menu, name, QKeySequence(keys), [this, by = share] {
            const auto [low, high] = workshop_.sectioning().extent();
            workshop_.sectioning().move(by * (high - low));
        });
    buildCutCommands(menu->addMenu("Cuts"));
    buildVeilCommands(menu->addMenu("Shells"));
    toggle(menu, "See through the part", QKeySequence("X"), [this](bool on) { viewport_->setSeenThrough(on); },
           {"transparent", "x-ray", "translucent", "inside", "ghost"});
    command(menu, "Save a picture of the view …", QKeySequence("Ctrl+Shift+P"), [this] { savePicture(); },
            {"screenshot", "image", "png", "export image"});
    menu->addSeparator();
    toggle(menu, "Loupe at the chosen place", QKeySequence("L"),
           [this](bool on) {
               workshop_.loupe().setOn(on);
               // A loupe without a place shows nothing: the first one will do.
               if (on && !workshop_.loupe().place()) workshop_.choice().step(1);
           },
           {"magnifier", "zoom", "inset", "gap", "close-up"});
    for (const auto& [name, typed, by] :
         {std::tuple{"Spread what the loupe shows", ".", 0.2}, {"Spread it less", ",", -0.2}})
        command(menu, name, QKeySequence(typed),
                [this, more = by] { workshop_.loupe().setSpread(workshop_.loupe().spread() + more); },
                {"explode", "pull apart", "separate"});
    command(menu, "Import beside what it is now", QKeySequence("C"),
            [this] {
                workshop_.beforeAfter().setOther(workshop_.beforeAfter().other() ? std::nullopt
                                                                                 : std::optional<project::StopId>(0));
            },
            {"compare", "before and after", "difference", "original"});
    command(menu, "Import and now in a half each", QKeySequence("Shift+C"),
            [this] {
                const bool on = !workshop_.beforeAfter().sideBySide();
                workshop_.beforeAfter().setSideBySide(on);
                if (!on) workshop_.beforeAfter().setOther(std::nullopt);
            },
            {"side by side", "two views", "linked views", "split view"});
    command(menu, "What each step did …", QKeySequence("Ctrl+J"), [this] { steps_->show(); },
            {"history", "log", "table of steps", "record"});
    buildPanelCommands(menu);
    buildLensCommands(menu);
}

// Lists and fields have the same keys: these are meant where the view is in focus.
void MainWindow::buildMoveCommands(QMenu* menu) {
    const auto ofView = [&](const char* name, const char* keys, std::function<void()> run, const QStringList& words) {
        QAction* action = command(menu, name, QKeySequence(keys), std::move(run), words);
        action->setShortcutContext(Qt::WidgetShortcut);
        viewport_->addAction(action);
    };
    constexpr double degrees = 15;
    for (const auto& [name, keys, right, down] : {std::tuple{"Turn to the left", "Left", -degrees, 0.0},
                                                  {"Turn to the right", "Right", degrees, 0.0},
                                                  {"Turn upwards", "Up", 0.0, -degrees},
                                                  {"Turn downwards", "Down", 0.0, degrees}})
        ofView(name, keys, [this, x = right, y = down] { viewport_->turn(x, y); }, {"rotate", "orbit"});
    constexpr double share = 0.1;
    for (const auto& [name, keys, right, down] : {std::tuple{"Look further left", "Shift+Left", -share, 0.0},
                                                  {"Look further right", "Shift+Right", share, 0.0},
                                                  {"Look further up", "Shift+Up", 0.0, -share},
                                                  {"Look further down", "Shift+Down", 0.0, share}})
        ofView(name, keys, [this, x = right, y = down] { viewport_->pan(x, y); }, {"pan", "move"});
    for (const auto& [name, keys, factor] : {std::tuple{"Nearer", "Ctrl++", 1.25}, {"Farther", "Ctrl+-", 0.8}})
        ofView(name, keys, [this, by = factor] { viewport_->zoom(by); }, {"zoom in", "zoom out"});
}

void MainWindow::buildCutCommands(QMenu* menu) {
    session::Sectioning& cuts = workshop_.sectioning();
    command(menu, "Cut along the picked face", QKeySequence("Shift+S"), [&cuts] { cuts.layOnFace(); },
            {"section by face", "clip plane", "slice along face"});
    command(menu, "Cut through three measured points", {}, [&cuts] { cuts.layThroughMeasured(); },
            {"section by three points", "clip plane", "oblique section"});
    command(menu, "Another cut besides", QKeySequence("Ctrl+Alt+S"), [&cuts] { cuts.add(); },
            {"second section", "several sections", "corner section"});
    command(menu, "The other side of the cut", QKeySequence("Alt+S"), [&cuts] { cuts.turnOver(); },
            {"flip section", "invert clip"});
    command(menu, "Pick what the cut passes through", {}, [&cuts] { cuts.pickCut(); },
            {"select by section", "select cut triangles"});
}

// Of the shell that is chosen, or that was picked in last.
void MainWindow::buildVeilCommands(QMenu* menu) {
    using Shown = session::Veil::Shown;
    const auto withShell = [this](auto run) {
        return [this, run] {
            const auto shell = session::linkedShell(workshop_);
            if (!shell) return workshop_.notice().say("Click the part first: the shell under the pointer is meant.");
            run(workshop_.looks().kept()->survey->shells[*shell]);
        };
    };
    command(menu, "Only this shell, the others as ghosts", QKeySequence("G"),
            withShell([this](const check::Shell& s) { workshop_.veil().only(s, Shown::Ghost); }),
            {"isolate", "ghost", "solo"});
    command(menu, "Hide this shell", QKeySequence("Shift+G"),
            withShell([this](const check::Shell& s) { workshop_.veil().set(s, Shown::Not); }),
            {"invisible", "hide body"});
    command(menu, "Show all shells again", QKeySequence("Ctrl+Shift+G"), [this] { workshop_.veil().showAll(); },
            {"unhide", "visible", "show everything"});
    command(menu, "Take away what is hidden or a ghost", {}, [this] { takeVeiledAway(); },
            {"bring in only these", "keep only chosen bodies", "delete hidden"});
}

void MainWindow::takeVeiledAway() {
    const mesh::Pick faint = workshop_.veil().faintPick();
    if (faint.everything()) return workshop_.notice().say("Nothing is hidden or a ghost: all of it is meant.");
    workshop_.picking().set(faint);
    workshop_.trial().start({&steps::removeStep(), {}});
}

void MainWindow::buildPanelCommands(QMenu* menu) {
    menu->addSeparator();
    const auto fold = [&](const char* name, const char* key, Panel panel) {
        command(menu, name, QKeySequence(key),
                [this, panel] { workshop_.preferences().setShown(panel, !workshop_.preferences().isShown(panel)); },
                {"panel", "hide", "show", "layout"});
    };
    fold("Parts: fold away, or back", "P", Panel::Parts);
    fold("Strings: fold away, or back", "T", Panel::Strings);
    fold("Desk: fold away, or back", "D", Panel::Desk);
    command(menu, "The view alone, or everything again", QKeySequence("W"),
            [this] { workshop_.preferences().setViewAlone(!workshop_.preferences().viewAlone()); },
            {"full screen", "maximise", "hide panels"});
}

void MainWindow::buildLensCommands(QMenu* menu) {
    menu->addSeparator();
    int key = 1;
    for (const session::Lens& lens : session::lenses()) {
        const QString name = session::text(lens.name);
        QAction* action = command(menu, QString("Lens: %1").arg(name), QKeySequence(QString::number(key++ % 10)),
                                  [this, &lens] { workshop_.coating().setLens(lens); }, {session::text(lens.help)});
        // Those with a number for each triangle measure.
        if (lens.measures) measures(name, action);
    }
}

void MainWindow::buildHelpMenu() {
    QMenu* menu = header_->menus().addMenu("&Help");
    command(menu, "Help on what is on the desk", QKeySequence("F1"), [this] { helpOnDesk(); },
            {"manual", "documentation"});
    command(menu, "Mouse and keys", QKeySequence("Shift+F1"), [this] { help_->open(); },
            {"shortcuts", "hotkeys", "keyboard"});
    menu->addSeparator();
    command(menu, "Copy what happened", {},
            [this] {
                QGuiApplication::clipboard()->setText(
                    QString::fromStdString(project::journal::recent("Zither " ZITHER_VERSION ", Qt " QT_VERSION_STR)));
                workshop_.notice().say(
                    "What was done lately, how long it took and what went wrong is on the clipboard, with the names of "
                    "files and nothing of what they hold.");
            },
            {"log", "bug report", "diagnostics", "journal", "support"});
}

void MainWindow::helpOnDesk() {
    const session::DeskPage page = model_.page();
    help_->open(page.step     ? session::helpKeyOf(*page.step)
                : page.defect ? session::helpKeyOf(*page.defect)
                              : QString());
}

void MainWindow::refreshUndo() {
    const auto name = [](QAction* action, const QString& what, const QString& of) {
        action->setText(of.isEmpty() ? what : QString("%1 %2").arg(what, of));
        action->setEnabled(!of.isEmpty());
    };
    name(undo_, "Undo", workshop_.undoes());
    name(redo_, "Redo", workshop_.redoes());
}

void MainWindow::refreshRecent() {
    recent_->clear();
    for (const QString& file : workshop_.opening().recentFiles())
        connect(recent_->addAction(QFileInfo(file).fileName()), &QAction::triggered, this,
                [this, file] { workshop_.opening().open({file}); });
    recent_->setEnabled(!workshop_.opening().recentFiles().isEmpty());
}

// The part and the project; a dot says that something is not in its file yet.
void MainWindow::refreshTitle() {
    QStringList title;
    if (const session::Part* part = workshop_.parts().current()) title << part->name;
    if (const QString& file = workshop_.saving().file(); !file.isEmpty())
        title << QFileInfo(file).fileName() + (workshop_.saving().hasUnsaved() ? " •" : "");
    title << "Zither";
    setWindowTitle(title.join(" – "));
}

void MainWindow::saveProject(bool elsewhere) {
    const session::Part* part = workshop_.parts().current();
    if (!part) return workshop_.notice().say("There is nothing to save yet.");
    if (!elsewhere && !workshop_.saving().file().isEmpty()) return workshop_.saving().save();
    const QString folder = QFileInfo(QString::fromStdString(part->file.string())).absolutePath();
    const QString file = dialogs_.projectToSave(this, folder + "/" + part->name + ".zither");
    if (!file.isEmpty()) workshop_.saving().saveTo(file);
}

void MainWindow::bringBack() {
    if (workshop_.saving().leftBehind().empty())
        workshop_.notice().say("No work was left unsaved.");
    else
        workshop_.saving().bringBack();
}

void MainWindow::exportPart() {
    if (!workshop_.parts().current() || !workshop_.looks().kept()) return;
    export_->show();
    export_->raise();
}

void MainWindow::reportPart() {
    const session::Part* part = workshop_.parts().current();
    if (!part) return;
    const QString folder = QFileInfo(QString::fromStdString(part->file.string())).absolutePath();
    const QString file = dialogs_.reportToSave(this, folder + "/" + part->name + "-report.pdf");
    if (!file.isEmpty()) workshop_.handingOver().report(file);
}

// Twice as fine as the screen: for a report.
void MainWindow::savePicture() {
    const session::Part* part = workshop_.parts().current();
    if (!part || !workshop_.looks().display()) return;
    const QString file = dialogs_.pictureToSave(this, part->name + ".png");
    if (file.isEmpty()) return;
    constexpr double scale = 2;
    if (viewport_->picture(scale).save(file))
        workshop_.notice().say(QString("The view is in %1.").arg(QFileInfo(file).fileName()));
    else
        workshop_.notice().failed({.kind = mesh::ErrorKind::Environment,
                                   .message = file.toStdString() + ": could not write the picture here; choose another "
                                                                   "folder, and a name that ends in .png",
                                   .code = mesh::errorcode::environment});
}

void MainWindow::openOtherBrief() {
    const QString file = dialogs_.briefToOpen(this);
    if (file.isEmpty()) return;
    const auto brief = steps::loadBrief(file.toStdString());
    if (brief) {
        workshop_.judging().setBrief(*brief);
    } else {
        workshop_.notice().failed(brief.error());
    }
}

// The import is seen while the key is down.
void MainWindow::keyPressEvent(QKeyEvent* event) {
    if (event->key() != Qt::Key_Space) return QMainWindow::keyPressEvent(event);
    if (!event->isAutoRepeat()) workshop_.beforeAfter().hold(true);
}

void MainWindow::keyReleaseEvent(QKeyEvent* event) {
    if (event->key() != Qt::Key_Space) return QMainWindow::keyReleaseEvent(event);
    if (!event->isAutoRepeat()) workshop_.beforeAfter().hold(false);
}

// The key may be let go where this window does not hear it.
void MainWindow::changeEvent(QEvent* event) {
    if (event->type() == QEvent::ActivationChange && !isActiveWindow()) workshop_.beforeAfter().hold(false);
    QMainWindow::changeEvent(event);
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
    QStringList files;
    for (const QUrl& url : event->mimeData()->urls())
        if (url.isLocalFile()) files << url.toLocalFile();
    workshop_.opening().open(files);
}

}  // namespace zither::desktop
