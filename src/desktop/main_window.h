// The window: panels put together, and every command with its place in the menus, its key, and its entry in the finder.
#pragma once

#include <QMainWindow>
#include <QTimer>
#include <functional>
#include <memory>

#include "desktop/dialogs.h"
#include "session/desk_model.h"
#include "session/workshop.h"

class QFrame;
class QLabel;
class QMenu;

namespace zither::desktop {

class CommandFinder;
class NumbersWindow;
class DeskPanel;
class HeaderBar;
class StringsPanel;
class TrackPanel;
class PartsPanel;
class Viewport;

class MainWindow : public QMainWindow {
    Q_OBJECT
public:
    MainWindow(session::Workshop& workshop, Dialogs& dialogs, QWidget* parent = nullptr);

    [[nodiscard]] Viewport& viewport() { return *viewport_; }
    [[nodiscard]] const QList<QAction*>& commands() const { return commands_; }

protected:
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

private:
    QAction* command(QMenu* menu, const QString& name, const QKeySequence& key, std::function<void()> run);
    void buildPanels();
    void buildMenus();
    void buildPartMenu();
    void buildViewMenu();
    void buildFindMenu();
    void buildStepsMenu();
    void refreshRecent();
    void refreshNotice();
    void placeNotice();
    void exportPart();
    void openOtherBrief();

    session::Workshop& workshop_;
    Dialogs& dialogs_;
    session::DeskModel model_;  // of the desk
    QList<QAction*> commands_;
    HeaderBar* header_ = nullptr;
    PartsPanel* parts_ = nullptr;
    Viewport* viewport_ = nullptr;
    DeskPanel* desk_ = nullptr;
    StringsPanel* strings_ = nullptr;
    TrackPanel* track_ = nullptr;
    CommandFinder* finder_ = nullptr;
    NumbersWindow* numbers_ = nullptr;
    QMenu* recent_ = nullptr;
    QFrame* notice_ = nullptr;
    QTimer noticeTimer_;
    QLabel* noticeText_ = nullptr;
};

}  // namespace zither::desktop
