// What runs, with its share done, the seconds left and a way to cancel it; and the last thing to tell the user. It
// covers nothing: it has a place of its own, and none where there is nothing to say.
#pragma once

#include <QElapsedTimer>
#include <QFrame>
#include <QTimer>

#include "session/workshop.h"

class QLabel;
class QProgressBar;
class QPushButton;

namespace zither::desktop {

class StatusPanel : public QFrame {
    Q_OBJECT
public:
    explicit StatusPanel(session::Workshop& workshop, QWidget* parent = nullptr);

private:
    void refreshNotice();
    void refreshJobs();
    [[nodiscard]] QString jobText();

    session::Workshop& workshop_;
    QWidget* job_;
    QLabel* jobTitle_;
    QPushButton* takeBest_;  // where a job has something that can be taken already
    QProgressBar* jobBar_;
    QWidget* notice_;
    QLabel* noticeText_;
    QTimer noticeTimer_;
    QString timed_;  // the title of the work that is being timed
    QElapsedTimer since_;
};

}  // namespace zither::desktop
