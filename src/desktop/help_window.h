// Help in a window of its own that stays while work goes on: all keys, and a page for each check, step, lens and brief.
#pragma once

#include <QAction>
#include <QWidget>
#include <vector>

#include "session/reading/help_topics.h"
#include "session/state/preferences.h"

class QLineEdit;
class QListWidget;
class QTextBrowser;

namespace zither::desktop {

class HelpWindow : public QWidget {
    Q_OBJECT
public:
    HelpWindow(const QList<QAction*>& commands, const session::Preferences& preferences, QWidget* parent);
    // The page of a key; the keys and the mouse where there is none.
    void open(const QString& key = {});

private:
    void list();
    void showPage(const QString& key);

    const QList<QAction*>& commands_;
    std::vector<session::HelpTopic> topics_;
    QLineEdit* find_;
    QListWidget* list_;
    QTextBrowser* page_;
};

}  // namespace zither::desktop
