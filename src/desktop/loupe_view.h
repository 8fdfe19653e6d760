// The loupe: a round inset over the view.
#pragma once

#include <QWidget>

#include "session/state/loupe.h"
#include "session/workshop.h"

namespace zither::desktop {

class LoupeView : public QWidget {
    Q_OBJECT
public:
    LoupeView(session::Workshop& workshop, QWidget* parent);
    static constexpr int across = 236;

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

private:
    void refresh();
    void paintRings(QPainter& painter) const;
    void paintWords(QPainter& painter) const;

    session::Workshop& workshop_;
    session::CloseUps closeUps_;
    QImage picture_;
    QPointF last_;
};

}  // namespace zither::desktop
