// The mouse over the view: left picks, right turns, middle pans, the wheel zooms; a drag of its handle moves the
// section, one over the lens's histogram picks what has such values.
#pragma once

#include <QMouseEvent>
#include <QWheelEvent>

#include "desktop/marks_painter.h"
#include "session/camera.h"
#include "session/workshop.h"

namespace zither::desktop {

// Keeps references to what it works on. Each event returns whether the camera moved.
class PointerTools {
public:
    PointerTools(session::Workshop& workshop, session::Camera& camera, MarksPainter& marks)
        : workshop_(workshop), camera_(camera), marks_(marks) {}

    void press(const QMouseEvent& event);
    bool move(const QMouseEvent& event);
    void release(const QMouseEvent& event);
    void doubleClick(const QMouseEvent& event);
    bool wheel(const QWheelEvent& event);

private:
    void pickAt(const QPointF& at, bool add);
    void dragSection(const QPointF& way);
    void dragStretch(const QPointF& to);
    [[nodiscard]] mesh::Point pointUnder(const QPointF& at) const;

    session::Workshop& workshop_;
    session::Camera& camera_;
    MarksPainter& marks_;
    QPointF pressed_;
    QPointF last_;
    mesh::Point pivot_ = mesh::Point::Zero();
    bool dragsSection_ = false;
    bool dragsStretch_ = false;
};

}  // namespace zither::desktop
