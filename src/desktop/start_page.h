// What is seen where there is no part: how to bring one in, what was open lately, and the sample rig.
#pragma once

#include <QWidget>

#include "session/workshop.h"

class QVBoxLayout;

namespace zither::desktop {

class StartPage : public QWidget {
    Q_OBJECT
public:
    // `sample`: the folder of the sample rig; without it the page does not offer it.
    StartPage(session::Workshop& workshop, const QString& sample);

Q_SIGNALS:
    void openWanted();

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    void rebuild();
    void addLeftBehind();
    void addLink(const QString& name, const QString& text, const QStringList& files);

    session::Workshop& workshop_;
    QString sample_;
    QVBoxLayout* links_;
};

}  // namespace zither::desktop
