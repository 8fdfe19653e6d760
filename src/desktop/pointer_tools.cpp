// Presses, moves and wheels turned into wishes and camera moves.
#include "desktop/pointer_tools.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace zither::desktop {

using mesh::Point;

namespace {
constexpr double handleReach = 14;
// A press that is let go within so many pixels is a click.
constexpr double clickReach = 4;
constexpr double zoomANotch = 1.0015;
}  // namespace

Point PointerTools::pointUnder(const QPointF& at) const {
    const session::Look* look = workshop_.looks().shown();
    if (!look) return Point::Zero();
    const Point origin = camera_.rayOrigin(at);
    if (const auto hit = look->display->met(origin, camera_.direction()))
        return origin + hit->along * camera_.direction();
    // Beside the part: the point at the depth of its centre.
    const double depth = camera_.direction().dot(look->display->box.centre() - origin);
    return origin + depth * camera_.direction();
}

std::optional<Point> PointerTools::pointOnPart(const QPointF& at) const {
    const session::Look* look = workshop_.looks().kept();
    if (!look) return std::nullopt;
    const Point origin = camera_.rayOrigin(at);
    const auto hit = look->display->met(origin, camera_.direction());
    return hit ? std::optional<Point>(origin + hit->along * camera_.direction()) : std::nullopt;
}

void PointerTools::press(const QMouseEvent& event) {
    pressed_ = last_ = event.position();
    dragsHandle_ = event.button() == Qt::LeftButton && handles_.press(event.position());
    if (dragsHandle_) return;
    if (event.button() == Qt::LeftButton && brush_.ready())
        if (const auto at = pointOnPart(event.position())) return brush_.begin(*at);
    dragsSection_ = event.button() == Qt::LeftButton && workshop_.sectioning().position() &&
                    workshop_.looks().shown() &&
                    (marks_.sectionHandle() - event.position()).manhattanLength() < handleReach;
    constexpr double beside = 6;
    dragsStretch_ = event.button() == Qt::LeftButton && !workshop_.trial().current() &&
                    marks_.histogram().adjusted(-beside, -beside, beside, beside).contains(event.position()) &&
                    !marks_.histogram().isEmpty();
    if (event.button() == Qt::RightButton) pivot_ = pointUnder(event.position());
}

void PointerTools::dragStretch(const QPointF& to) {
    const std::pair<double, double> ends = std::minmax(marks_.valueAt(pressed_), marks_.valueAt(to));
    marks_.markStretch(ends);
    workshop_.picking().set(mesh::Pick(workshop_.coating().trianglesWithin(ends.first, ends.second)));
}

void PointerTools::dragSection(const QPointF& way) {
    const QPointF along = marks_.alongSection();
    const double square = QPointF::dotProduct(along, along);
    // Seen end on, the axis has no length on the screen to drag along.
    if (square > 0 && std::isfinite(1 / square)) workshop_.sectioning().move(QPointF::dotProduct(way, along) / square);
}

bool PointerTools::move(const QMouseEvent& event) {
    const QPointF way = event.position() - last_;
    last_ = event.position();
    if (dragsHandle_) {
        handles_.drag(event.position(), event.modifiers() & Qt::ShiftModifier);
        return false;
    }
    if (brush_.drawing()) {
        if (const auto at = pointOnPart(event.position())) brush_.go(*at);
        return false;
    }
    if (dragsSection_ && workshop_.sectioning().position()) {
        dragSection(way);
        return false;
    }
    if (dragsStretch_) {
        dragStretch(event.position());
        return false;
    }
    if ((event.buttons() & Qt::LeftButton) && (event.modifiers() & Qt::ShiftModifier)) pickAt(event.position(), true);
    if (event.buttons() & Qt::LeftButton) return false;
    if (event.buttons() & Qt::RightButton) {
        camera_.orbit(way, pivot_);
        return true;
    }
    if (!(event.buttons() & Qt::MiddleButton)) return false;
    camera_.pan(way);
    return true;
}

void PointerTools::release(const QMouseEvent& event) {
    if (std::exchange(dragsHandle_, false)) {
        handles_.release();
        return;
    }
    if (brush_.drawing()) return brush_.end();
    if (std::exchange(dragsSection_, false)) return;
    if (std::exchange(dragsStretch_, false)) {
        marks_.markStretch({});
        return;
    }
    const bool clicked = (event.position() - pressed_).manhattanLength() < clickReach;
    if (event.button() != Qt::LeftButton || !clicked) return;
    const bool add = event.modifiers() & Qt::ShiftModifier;
    const auto finding = marks_.findingAt(event.position());
    if (finding && !add)
        workshop_.choice().chooseFinding(*finding);
    else
        pickAt(event.position(), add);
}

// The triangle under the pointer; beside the part nothing stays picked.
void PointerTools::pickAt(const QPointF& at, bool add) {
    const session::Look* look = workshop_.looks().kept();
    if (!look || workshop_.trial().current()) return;
    const Point origin = camera_.rayOrigin(at);
    if (const auto hit = look->display->met(origin, camera_.direction()))
        workshop_.picking().pickTriangle(hit->triangle, origin + hit->along * camera_.direction(), add);
    else if (!add)
        workshop_.picking().set({});
}

void PointerTools::doubleClick(const QMouseEvent& event) {
    if (event.button() == Qt::LeftButton && !workshop_.picking().pick().everything())
        workshop_.picking().pickShellOf(workshop_.picking().pick().triangles().back());
}

bool PointerTools::wheel(const QWheelEvent& event) {
    camera_.zoom(std::pow(zoomANotch, event.angleDelta().y()), event.position());
    return true;
}

}  // namespace zither::desktop
