// The track: every step as a stop; branches below each other. A click goes there; with Shift
// the stop is held against what is in front.
#pragma once

#include <QWidget>

#include "session/workshop.h"

namespace zither::desktop {

class TrackPanel : public QWidget {
    Q_OBJECT
public:
    explicit TrackPanel(session::Workshop& workshop, QWidget* parent = nullptr);
    // Where a stop is drawn.
    [[nodiscard]] QPointF stopAt(project::StopId id) const;

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

private:
    struct Place {
        int column = 0;
        int row = 0;
    };
    void layOut();
    void scrollTo(double y);
    void drawStop(QPainter& painter, project::StopId id) const;
    [[nodiscard]] std::optional<project::StopId> idAt(const QPointF& at) const;

    session::Workshop& workshop_;
    std::vector<Place> places_;
    int columns_ = 1;
    int rows_ = 1;
    double scroll_ = 0;  // of branches below the second
};

}  // namespace zither::desktop
