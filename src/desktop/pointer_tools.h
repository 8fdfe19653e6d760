// The mouse over the view: left picks, right turns, middle pans, the wheel zooms; handles are dragged, the section's
// too; where the brush is on the desk left draws a stroke; a drag over the lens's histogram picks what has such values.
#pragma once

#include <QMouseEvent>
#include <QWheelEvent>

#include "desktop/handle_tools.h"
#include "desktop/marks_painter.h"
#include "session/brushing.h"
#include "session/camera.h"
#include "session/workshop.h"

namespace zither::desktop {

// Keeps references to what it works on. Each event returns whether the camera moved.
class PointerTools {
public:
    struct Tools {
        MarksPainter& marks;
        HandleTools& handles;
        session::Brushing& brush;
    };
    PointerTools(session::Workshop& workshop, session::Camera& camera, const Tools& tools)
        : workshop_(workshop), camera_(camera), marks_(tools.marks), handles_(tools.handles), brush_(tools.brush) {}

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
    // On the part as it is kept; nothing beside it.
    [[nodiscard]] std::optional<mesh::Point> pointOnPart(const QPointF& at) const;

    session::Workshop& workshop_;
    session::Camera& camera_;
    MarksPainter& marks_;
    HandleTools& handles_;
    session::Brushing& brush_;
    QPointF pressed_;
    QPointF last_;
    mesh::Point pivot_ = mesh::Point::Zero();
    bool dragsHandle_ = false;
    bool dragsSection_ = false;
    bool dragsStretch_ = false;
};

}  // namespace zither::desktop
