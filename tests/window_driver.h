// Drives the real window as a person would: clicks, keys, waiting for what is shown.
#pragma once

#include <QSettings>
#include <QTemporaryDir>
#include <QTest>
#include <functional>
#include <memory>

#include "desktop/dialogs.h"
#include "desktop/main_window.h"

class QAbstractButton;

namespace zither::tests {

// Answers the system's questions from values set beforehand.
class ScriptedDialogs final : public desktop::Dialogs {
public:
    QStringList toOpen;
    QString toExport;
    QString recipe;
    QString brief;
    QString picture;
    QString project;
    QString report;
    QStringList filesToOpen(QWidget*) override { return toOpen; }
    QString fileToExport(QWidget*, const QString&) override { return toExport; }
    QString recipeToSave(QWidget*, const QString&) override { return recipe; }
    QString recipeToRun(QWidget*) override { return recipe; }
    QString pictureToSave(QWidget*, const QString&) override { return picture; }
    QString briefToOpen(QWidget*) override { return brief; }
    QString projectToSave(QWidget*, const QString&) override { return project; }
    QString reportToSave(QWidget*, const QString&) override { return report; }
};

class WindowDriver {
public:
    // `keepIn`: as session::Workshop.
    explicit WindowDriver(const QString& keepIn = {});
    ~WindowDriver();

    [[nodiscard]] session::Workshop& workshop() { return *workshop_; }
    [[nodiscard]] desktop::MainWindow& window() { return *window_; }
    [[nodiscard]] ScriptedDialogs& dialogs() { return dialogs_; }
    [[nodiscard]] QString folder() const { return folder_.path(); }

    // Runs the event loop until nothing is at work and the current part is judged; false after ten seconds a call.
    bool settle(int milliseconds = 20000);
    bool waitFor(const std::function<bool()>& condition, int milliseconds = 20000);
    bool open(const QStringList& files);

    template <class Widget = QWidget>
    Widget* find(const QString& name) {
        return window_->findChild<Widget*>(name);
    }
    // The visible button with this text.
    QAbstractButton* button(const QString& text);
    bool clickButton(const QString& text);
    // The same once it can be clicked.
    bool clickWhenReady(const QString& text);
    // Puts a step on the desk: its name typed where the desk finds steps, and what is found clicked.
    bool openStep(const QString& name);
    void click(QWidget* widget, const QPointF& at, Qt::MouseButton button = Qt::LeftButton);
    void press(QWidget* widget, const QPointF& at, Qt::MouseButton button);
    void move(QWidget* widget, const QPointF& at, Qt::MouseButton held,
              Qt::KeyboardModifiers modifiers = Qt::NoModifier);
    void release(QWidget* widget, const QPointF& at, Qt::MouseButton button);
    void drag(QWidget* widget, const QPointF& from, const QPointF& to, Qt::MouseButton button);
    void key(Qt::Key key, Qt::KeyboardModifiers modifiers = Qt::NoModifier);
    bool saveShot(const QString& file);

private:
    QTemporaryDir folder_;
    std::unique_ptr<QSettings> settings_;
    ScriptedDialogs dialogs_;
    std::unique_ptr<session::Workshop> workshop_;
    std::unique_ptr<desktop::MainWindow> window_;
};

}  // namespace zither::tests
