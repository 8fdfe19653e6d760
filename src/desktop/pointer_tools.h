// The mouse over the view: left picks - what is clicked, what a rectangle or (Ctrl) a line drawn around holds, what is
// drawn over (Shift) - right turns, middle pans, the wheel zooms; handles are dragged, the section's
// too; where the brush is on the desk left draws a stroke; a drag over the lens's histogram picks what has such values;
// the line between what was and what is follows a drag.
#pragma once

#include <QMouseEvent>
#include <QPainter>
#include <QPolygonF>

#include "desktop/handle_tools.h"
#include "desktop/marks_painter.h"
#include "session/state/brushing.h"
#include "session/state/camera.h"
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
    // So far, in eighths of a degree.
    bool wheel(int turned, const QPointF& at);
    // Something is being drawn around; it is painted over the view.
    [[nodiscard]] bool outlines() const { return !outline_.isEmpty(); }
    void paint(QPainter& painter) const;
    // Also what is hidden belongs to what is drawn around.
    void setPicksThrough(bool through) { through_ = through; }
    void setPickWidth(double pixels);
    [[nodiscard]] double pickWidth() const { return pickWidth_; }

private:
    void pickAt(const QPointF& at, bool add);
    void measureAt(const QPointF& at);
    void drawOver(const QPointF& at);
    void outlineTo(const QMouseEvent& event);
    void pickOutlined(Qt::KeyboardModifiers modifiers);
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
    bool dragsDivider_ = false;
    bool drawsOver_ = false;
    QPolygonF outline_;  // on the screen; empty: nothing is drawn around
    bool through_ = false;
    double pickWidth_ = 16;
};

}  // namespace zither::desktop
