// Finds a command by a few letters of its name: Ctrl+K, type, Enter.
#pragma once

#include <QAction>
#include <QFrame>
#include <QLineEdit>
#include <QListWidget>

namespace zither::desktop {

class CommandFinder : public QFrame {
    Q_OBJECT
public:
    CommandFinder(const QList<QAction*>& commands, QWidget* parent);
    void open();

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void filter(const QString& letters);
    void runChosen();

    QList<QAction*> commands_;
    QLineEdit* input_;
    QListWidget* list_;
};

}  // namespace zither::desktop
