// The window: panels put together, and every command with its place in the menus, its key, its words, and its entry in
// the finder.
#pragma once

#include <QMainWindow>
#include <functional>
#include <memory>

#include "desktop/dialogs.h"
#include "session/reading/desk_model.h"
#include "session/workshop.h"

class QMenu;
class QVBoxLayout;

namespace zither::desktop {

class CommandFinder;
class HelpWindow;
class NumbersWindow;
class ExportWindow;
class RecipeWindow;
class StepsWindow;
class DeskPanel;
class HeaderBar;
class StatusPanel;
class StringsPanel;
class TrackPanel;
class PartsPanel;
class PreferencesWindow;
class ViewArea;
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
    void keyPressEvent(QKeyEvent* event) override;
    void keyReleaseEvent(QKeyEvent* event) override;
    void changeEvent(QEvent* event) override;

private:
    // `words`: what people call it, besides.
    QAction* command(QMenu* menu, const QString& name, const QKeySequence& key, std::function<void()> run,
                     const QStringList& words = {});
    // One that stays on or off; off at first.
    QAction* toggle(QMenu* menu, const QString& name, const QKeySequence& key, std::function<void(bool)> set,
                    const QStringList& words = {});
    // Offers a command at the desk, among those that only look.
    void measures(const QString& shortName, QAction* action);
    void buildPanels();
    void buildMenus();
    void buildPartMenu();
    void buildEditMenu();
    void buildFindMenu();
    void buildStepsMenu();
    void buildViewMenu();
    void buildMoveCommands(QMenu* menu);
    void buildCutCommands(QMenu* menu);
    void buildVeilCommands(QMenu* menu);
    // As a step that can be looked at first.
    void takeVeiledAway();
    void buildPanelCommands(QMenu* menu);
    void buildLensCommands(QMenu* menu);
    void buildHelpMenu();
    // Of panels that are folded away.
    void refreshLayout();
    void refreshRecent();
    void refreshUndo();
    void refreshTitle();
    void saveProject(bool elsewhere);
    void bringBack();
    void helpOnDesk();
    void exportPart();
    void reportPart();
    void savePicture();
    void openOtherBrief();

    session::Workshop& workshop_;
    Dialogs& dialogs_;
    session::DeskModel model_;  // of the desk
    QList<QAction*> commands_;
    QList<QAction*> measures_;  // those that only look, for the desk
    HeaderBar* header_ = nullptr;
    PartsPanel* parts_ = nullptr;
    Viewport* viewport_ = nullptr;
    ViewArea* area_ = nullptr;
    DeskPanel* desk_ = nullptr;
    StringsPanel* strings_ = nullptr;
    TrackPanel* track_ = nullptr;
    StatusPanel* status_ = nullptr;
    QVBoxLayout* left_ = nullptr;   // the view, strings, track
    QVBoxLayout* right_ = nullptr;  // the desk
    CommandFinder* finder_ = nullptr;
    NumbersWindow* numbers_ = nullptr;
    HelpWindow* help_ = nullptr;
    StepsWindow* steps_ = nullptr;
    ExportWindow* export_ = nullptr;
    RecipeWindow* recipe_ = nullptr;
    PreferencesWindow* preferences_ = nullptr;
    QMenu* recent_ = nullptr;
    QAction* undo_ = nullptr;
    QAction* redo_ = nullptr;
};

}  // namespace zither::desktop
