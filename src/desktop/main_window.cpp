// Menus, keys and finder are made from one list of commands; lenses and steps come from their catalogues.
#include "desktop/main_window.h"

#include "desktop/numbers_window.h"

#include <QApplication>
#include <QDragEnterEvent>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenuBar>
#include <QMimeData>
#include <QPushButton>
#include <QVBoxLayout>

#include "desktop/command_finder.h"
#include "desktop/desk_panel.h"
#include "desktop/header_bar.h"
#include "desktop/lens_bar.h"
#include "desktop/parts_panel.h"
#include "desktop/strings_panel.h"
#include "desktop/theme.h"
#include "desktop/track_panel.h"
#include "desktop/viewport.h"

namespace zither::desktop {

using session::Camera;

MainWindow::MainWindow(session::Workshop& workshop, Dialogs& dialogs, QWidget* parent)
    : QMainWindow(parent), workshop_(workshop), dialogs_(dialogs), model_(workshop) {
    setWindowTitle("Zither");
    resize(1280, 760);  // with its title bar it fits a screen of 1280 x 800
    setAcceptDrops(true);
    buildPanels();
    buildMenus();
    finder_ = new CommandFinder(commands_, this);
    numbers_ = new NumbersWindow(workshop_, this);
    connect(&workshop_.notice(), &session::Notice::changed, this, &MainWindow::refreshNotice);
    connect(&workshop_.parts(), &session::Parts::changed, this, [this] {
        setWindowTitle(workshop_.parts().current() ? workshop_.parts().current()->name + " – Zither"
                                                   : QString("Zither"));
        refreshRecent();
    });
    connect(header_, &HeaderBar::repairWanted, &workshop_, &session::Workshop::repair);
    connect(header_, &HeaderBar::exportWanted, this, &MainWindow::exportPart);
    connect(header_, &HeaderBar::otherBriefWanted, this, &MainWindow::openOtherBrief);
    refreshRecent();
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
    auto* middle = new QHBoxLayout;
    middle->setSpacing(0);
    parts_ = new PartsPanel(workshop_);
    viewport_ = new Viewport(workshop_, model_);
    desk_ = new DeskPanel(workshop_, model_, dialogs_);
    auto* view = new QVBoxLayout;
    view->setSpacing(0);
    view->addWidget(new LensBar(workshop_));
    view->addWidget(viewport_, 1);
    middle->addWidget(parts_);
    middle->addLayout(view, 1);
    middle->addWidget(desk_);
    column->addLayout(middle, 1);
    strings_ = new StringsPanel(workshop_);
    track_ = new TrackPanel(workshop_);
    column->addWidget(strings_);
    column->addWidget(track_);
    setCentralWidget(central);

    notice_ = new QFrame(this);
    notice_->setObjectName("card");
    auto* row = new QHBoxLayout(notice_);
    row->setContentsMargins(12, 7, 8, 7);
    noticeText_ = new QLabel;
    noticeText_->setObjectName("notice");
    noticeText_->setWordWrap(true);
    noticeText_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    auto* dismiss = new QPushButton("Dismiss");
    dismiss->setStyleSheet("padding: 3px 9px;");
    connect(dismiss, &QPushButton::clicked, &workshop_.notice(), &session::Notice::dismiss);
    row->addWidget(noticeText_, 1);
    row->addWidget(dismiss);
    notice_->hide();
    noticeTimer_.setSingleShot(true);
    connect(&noticeTimer_, &QTimer::timeout, &workshop_.notice(), &session::Notice::dismiss);
}

QAction* MainWindow::command(QMenu* menu, const QString& name, const QKeySequence& key, std::function<void()> run) {
    auto* action = new QAction(name, this);
    action->setShortcut(key);
    connect(action, &QAction::triggered, this, std::move(run));
    menu->addAction(action);
    addAction(action);
    commands_ << action;
    return action;
}

void MainWindow::buildMenus() {
    buildPartMenu();
    buildFindMenu();
    buildStepsMenu();
    buildViewMenu();
}

void MainWindow::buildPartMenu() {
    QMenu* menu = menuBar()->addMenu("&Part");
    command(menu, "Open …", QKeySequence::Open, [this] { workshop_.opening().open(dialogs_.filesToOpen(this)); });
    recent_ = menu->addMenu("Open recent");
    command(menu, "Export …", QKeySequence("Ctrl+E"), [this] { exportPart(); });
    command(menu, "Save the steps as a recipe …", QKeySequence("Ctrl+Shift+R"), [this] {
        if (!workshop_.parts().current()) return;
        const QString file = dialogs_.recipeToSave(this, workshop_.parts().current()->name + "-recipe.json");
        if (!file.isEmpty()) workshop_.handingOver().saveRecipe(file);
    });
    command(menu, "Run a recipe …", QKeySequence("Ctrl+Alt+R"), [this] {
        if (!workshop_.parts().current()) return;
        const QString file = dialogs_.recipeToRun(this);
        if (!file.isEmpty()) workshop_.handingOver().runRecipe(file);
    });
    menu->addSeparator();
    command(menu, "Take apart by bodies", {}, [this] { workshop_.parting().splitByBody(); });
    command(menu, "Take apart by regions", {}, [this] { workshop_.parting().splitByRegion(); });
    command(menu, "Make a part of what is picked", {}, [this] { workshop_.parting().splitOffPick(); });
    command(menu, "Join all parts into one", {}, [this] { workshop_.parting().joinAll(); });
    command(menu, "Copy this part", {}, [this] { workshop_.parting().copy(); });
    menu->addSeparator();
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

void MainWindow::buildFindMenu() {
    QMenu* menu = menuBar()->addMenu("&Find");
    command(menu, "Find a command …", QKeySequence("Ctrl+K"), [this] { finder_->open(); });
    command(menu, "Numbers of the part, or of the pick", QKeySequence("Ctrl+I"), [this] { numbers_->show(); });
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
    command(menu, "Pick what came with the last step", {}, [this] { workshop_.pickWhatCameLast(); });
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
    QMenu* menu = menuBar()->addMenu("&Steps");
    command(menu, "Repair by itself", QKeySequence("Ctrl+R"), [this] { workshop_.repair(); });
    menu->addSeparator();
    for (const steps::Step& step : steps::catalogue())
        command(menu, session::text(step.title), {}, [this, &step] { model_.showStep(step); });
    menu->addSeparator();
    command(menu, "Keep the preview", QKeySequence("Ctrl+Return"), [this] { workshop_.trial().keep(); });
    command(menu, "Undo", QKeySequence::Undo, [this] { workshop_.undo(); });
    command(menu, "Redo", QKeySequence("Ctrl+Shift+Z"), [this] { workshop_.redo(); });
    command(menu, "Cancel what runs", QKeySequence("Ctrl+."), [this] { workshop_.cancelAll(); });
}

void MainWindow::buildViewMenu() {
    QMenu* menu = menuBar()->addMenu("&View");
    command(menu, "Whole part in view", QKeySequence("F"), [this] { viewport_->fit(); });
    const std::pair<const char*, Camera::View> views[] = {
        {"From the front", Camera::View::Front}, {"From behind", Camera::View::Back},
        {"From the left", Camera::View::Left},   {"From the right", Camera::View::Right},
        {"From above", Camera::View::Top},       {"From below", Camera::View::Bottom},
        {"From a corner", Camera::View::Iso}};
    int key = 1;
    for (const auto& [name, view] : views)
        command(menu, name, QKeySequence(QString("Alt+%1").arg(key++)), [this, v = view] { viewport_->lookFrom(v); });
    menu->addSeparator();
    QAction* edges = command(menu, "Show triangle edges", QKeySequence("E"), [] {});
    edges->setCheckable(true);
    edges->setChecked(true);
    connect(edges, &QAction::toggled, this, [this](bool on) { viewport_->setEdgesShown(on); });
    menu->addSeparator();
    command(menu, "Cut it open, or close it again", QKeySequence("S"), [this] {
        const session::Look* look = workshop_.looks().shown();
        if (!look) return;
        workshop_.sectioning().set(workshop_.sectioning().position()
                                       ? std::nullopt
                                       : std::optional(look->display->box.centre()[workshop_.choice().axis()]));
    });
    for (const auto& [name, keys, share] :
         {std::tuple{"Section forwards", "PgUp", 0.02}, {"Section backwards", "PgDown", -0.02}})
        command(menu, name, QKeySequence(keys), [this, by = share] {
            if (const session::Look* look = workshop_.looks().shown())
                workshop_.sectioning().move(by * look->display->box.extent()[workshop_.choice().axis()]);
        });
    menu->addSeparator();
    key = 1;
    for (const session::Lens& lens : session::lenses())
        command(menu, QString("Lens: %1").arg(session::text(lens.name)), QKeySequence(QString::number(key++)),
                [this, &lens] { workshop_.coating().setLens(lens); });
}

void MainWindow::refreshRecent() {
    recent_->clear();
    for (const QString& file : workshop_.opening().recentFiles())
        connect(recent_->addAction(QFileInfo(file).fileName()), &QAction::triggered, this,
                [this, file] { workshop_.opening().open({file}); });
    recent_->setEnabled(!workshop_.opening().recentFiles().isEmpty());
}

void MainWindow::exportPart() {
    if (!workshop_.parts().current() || !workshop_.looks().kept()) return;
    const QString folder = QFileInfo(QString::fromStdString(workshop_.parts().current()->file.string())).absolutePath();
    const QString file = dialogs_.fileToExport(this, folder + "/" + workshop_.parts().current()->name + "-mended.stl");
    if (!file.isEmpty()) workshop_.handingOver().exportTo(file);
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

void MainWindow::refreshNotice() {
    noticeText_->setText(workshop_.notice().text());
    noticeText_->setStyleSheet(workshop_.notice().isError() ? QString("color: %1;").arg(session::paper::fails.name())
                                                            : QString());
    notice_->setVisible(!workshop_.notice().text().isEmpty());
    placeNotice();
    notice_->raise();
    // Good news goes by itself; an error stays until it has been read.
    constexpr int readingMs = 6000;
    noticeTimer_.stop();
    if (!workshop_.notice().isError() && notice_->isVisible()) noticeTimer_.start(readingMs);
}

void MainWindow::placeNotice() {
    const int room = viewport_->width() - 40;
    const int text = noticeText_->fontMetrics().horizontalAdvance(noticeText_->text()) + 130;
    const int width = std::clamp(text, 220, std::max(220, room));
    // A label that wraps asks for more height than its text needs until its width is known.
    noticeText_->setFixedWidth(width - 116);
    notice_->setFixedSize(width, std::max(40, noticeText_->heightForWidth(width - 116) + 18));
    notice_->move(viewport_->mapTo(
        this, QPoint((viewport_->width() - notice_->width()) / 2, viewport_->height() - notice_->height() - 34)));
}

void MainWindow::resizeEvent(QResizeEvent*) {
    placeNotice();
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
