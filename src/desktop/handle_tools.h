// Handles in the view: drawn over the part, taken hold of and dragged. Arrows slide or turn, planes do both, spots move
// on the surface. Turning snaps to 15 degrees; with Shift it does not.
#pragma once

#include <QPainter>
#include <QPointF>
#include <optional>
#include <vector>

#include "session/state/camera.h"
#include "session/state/drag_handles.h"

namespace zither::desktop {

// Keeps references to what it works on.
class HandleTools {
public:
    HandleTools(session::Workshop& workshop, session::DragHandles& handling, const session::Camera& camera)
        : workshop_(workshop), dragHandles_(handling), camera_(camera) {}

    void paint(QPainter& painter) const;

    // Whether a grip is there, and is taken hold of.
    bool press(const QPointF& at);
    void drag(const QPointF& to, bool free);
    // Whether one was held.
    bool release();

    // Where a handle can be taken to slide or move it, and to turn it, on the screen: in the view, however near the eye
    // is.
    [[nodiscard]] QPointF foot(const steps::Handle& handle) const;
    [[nodiscard]] QPointF tip(const steps::Handle& handle) const;

private:
    struct Grip {
        std::size_t handle = 0;
        bool turns = false;
        QPointF at;
    };
    [[nodiscard]] std::vector<Grip> grips() const;
    // How long it is drawn.
    [[nodiscard]] double lengthOf(const steps::Handle& handle) const;
    [[nodiscard]] mesh::Point slid(const QPointF& to) const;
    [[nodiscard]] mesh::Point turned(const QPointF& to, bool free) const;
    [[nodiscard]] mesh::Point turnedAbout(const mesh::Point& axis, const QPointF& to, bool free) const;
    void paintArrow(QPainter& painter, const steps::Handle& handle) const;
    void paintPlane(QPainter& painter, const steps::Handle& handle) const;
    void paintRing(QPainter& painter, const steps::Handle& handle) const;
    void paintGrip(QPainter& painter, const QPointF& at, const QString& said, bool above) const;
    [[nodiscard]] QString saidOf(const steps::Handle& handle) const;

    session::Workshop& workshop_;
    session::DragHandles& dragHandles_;
    const session::Camera& camera_;
    Grip held_;
    steps::Handle start_;  // of what is held
    QPointF pressed_;
};

}  // namespace zither::desktop
