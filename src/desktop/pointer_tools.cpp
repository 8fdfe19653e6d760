// Presses, moves and wheels turned into wishes and camera moves, as the preferences say.
#include "desktop/pointer_tools.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

#include "session/reading/sight.h"
#include "session/state/outline.h"

namespace zither::desktop {

using mesh::Point;

namespace {
// A press that is let go within so many pixels is a click.
constexpr double clickReach = 4;
constexpr double zoomANotch = 1.0015;
}  // namespace

Point PointerTools::pointUnder(const QPointF& at) const {
    const auto display = workshop_.looks().display();
    if (!display) return Point::Zero();
    if (const auto pointed = session::pointedAt(*display, camera_, at, workshop_.veil().faintOf(*display)))
        return pointed->point;
    // Beside the part: the point at the depth of its centre.
    const Point origin = camera_.rayOrigin(at);
    const double depth = camera_.direction().dot(display->box.centre() - origin);
    return origin + depth * camera_.direction();
}

std::optional<Point> PointerTools::pointOnPart(const QPointF& at) const {
    const session::Look* look = workshop_.looks().kept();
    if (!look) return std::nullopt;
    const auto pointed = session::pointedAt(*look->display, camera_, at, workshop_.veil().faintOf(*look->display));
    return pointed ? std::optional<Point>(pointed->point) : std::nullopt;
}

void PointerTools::press(const QMouseEvent& event) {
    pressed_ = last_ = event.position();
    dragsHandle_ = event.button() == Qt::LeftButton && handles_.press(event.position());
    if (dragsHandle_) return;
    if (event.button() == Qt::LeftButton && brush_.ready())
        if (const auto at = pointOnPart(event.position())) return brush_.begin(*at);
    const auto cut = event.button() == Qt::LeftButton ? marks_.cutAt(event.position()) : std::nullopt;
    dragsSection_ = cut.has_value();
    if (cut) workshop_.sectioning().setActive(*cut);
    constexpr double beside = 6;
    dragsStretch_ = event.button() == Qt::LeftButton && !workshop_.trial().current() &&
                    marks_.histogram().adjusted(-beside, -beside, beside, beside).contains(event.position()) &&
                    !marks_.histogram().isEmpty();
    constexpr double besideDivider = 7;
    dragsDivider_ =
        event.button() == Qt::LeftButton && workshop_.beforeAfter().other() && !workshop_.beforeAfter().sideBySide() &&
        std::abs(workshop_.beforeAfter().divider() * camera_.viewport().width() - event.position().x()) < besideDivider;
    if (event.button() != Qt::LeftButton) pivot_ = pointUnder(event.position());
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
    if (dragsDivider_) {
        workshop_.beforeAfter().setDivider(event.position().x() / std::max(1.0, camera_.viewport().width()));
        return false;
    }
    if (dragsSection_ && workshop_.sectioning().active()) {
        dragSection(way);
        return false;
    }
    if (dragsStretch_) {
        dragStretch(event.position());
        return false;
    }
    if (event.buttons() & Qt::LeftButton) {
        if (!workshop_.measuring().on()) outlineTo(event);
        return false;
    }
    const bool swapped = workshop_.preferences().middleTurns();
    if (event.buttons() & (swapped ? Qt::MiddleButton : Qt::RightButton)) {
        camera_.orbit(way, pivot_);
        return true;
    }
    if (!(event.buttons() & (swapped ? Qt::RightButton : Qt::MiddleButton))) return false;
    camera_.pan(way);
    return true;
}

void PointerTools::release(const QMouseEvent& event) {
    if (std::exchange(dragsHandle_, false)) {
        handles_.release();
        return;
    }
    if (brush_.drawing()) return brush_.end();
    if (std::exchange(dragsSection_, false) || std::exchange(dragsDivider_, false)) return;
    if (std::exchange(dragsStretch_, false)) {
        marks_.markStretch({});
        return;
    }
    const bool clicked = (event.position() - pressed_).manhattanLength() < clickReach;
    if (event.button() != Qt::LeftButton) return;
    if (std::exchange(drawsOver_, false)) return;
    if (!outline_.isEmpty()) return pickOutlined(event.modifiers());
    if (!clicked) return;
    if (workshop_.measuring().on()) return measureAt(event.position());
    const bool add = event.modifiers() & Qt::ShiftModifier;
    const auto finding = marks_.findingAt(event.position());
    const auto gathered = marks_.gatheredAt(event.position());
    if (gathered && !add && gathered->diagonal() > 0)
        // Several places: they come apart where one looks closer.
        workshop_.choice().lookAt(gathered->centre(), gathered->diagonal());
    else if (finding && !add)
        workshop_.choice().chooseFinding(*finding);
    else
        pickAt(event.position(), add);
}

// The triangle under the pointer; beside the part nothing stays picked.
void PointerTools::pickAt(const QPointF& at, bool add) {
    const session::Look* look = workshop_.looks().kept();
    if (!look || workshop_.trial().current()) return;
    if (const auto pointed = session::pointedAt(*look->display, camera_, at, workshop_.veil().faintOf(*look->display)))
        workshop_.picking().pickTriangle(pointed->triangle, pointed->point, add);
    else if (!add)
        workshop_.picking().set({});
}

void PointerTools::setPickWidth(double pixels) {
    constexpr double narrowest = 2;
    constexpr double widest = 200;
    pickWidth_ = std::clamp(pixels, narrowest, widest);
}

void PointerTools::measureAt(const QPointF& at) {
    const auto display = workshop_.looks().display();
    if (!display) return;
    const auto pointed = session::pointedAt(*display, camera_, at, workshop_.veil().faintOf(*display));
    if (!pointed) return workshop_.measuring().finish();
    // A corner that looks near is meant.
    Point meant = pointed->point;
    double nearest = 9;  // pixels
    for (unsigned k = 0; k < 3; ++k) {
        const Point& corner = display->mesh().corner(pointed->triangle, k);
        const QPointF way = camera_.toScreen(corner) - at;
        if (const double away = std::hypot(way.x(), way.y()); away < nearest) {
            nearest = away;
            meant = corner;
        }
    }
    workshop_.measuring().add(pointed->triangle, pointed->point, meant);
}

void PointerTools::drawOver(const QPointF& at) {
    const session::Look* look = workshop_.looks().kept();
    if (!look || workshop_.trial().current()) return;
    QPolygonF disc;
    constexpr int corners = 24;
    for (int i = 0; i < corners; ++i) {
        const double angle = 2 * std::numbers::pi * i / corners;
        disc << at + 0.5 * pickWidth_ * QPointF(std::cos(angle), std::sin(angle));
    }
    workshop_.picking().pickThese(session::trianglesWithin(*look->display, camera_, disc, session::Reach::Shown,
                                                           workshop_.veil().faintOf(*look->display)),
                                  session::Picking::Way::Add);
}

void PointerTools::outlineTo(const QMouseEvent& event) {
    const QPointF at = event.position();
    const bool line = event.modifiers() & Qt::ControlModifier;
    if (outline_.isEmpty() && (event.modifiers() & Qt::ShiftModifier) && !line) {
        drawsOver_ = true;
        return drawOver(at);
    }
    if ((at - pressed_).manhattanLength() < clickReach || drawsOver_) return;
    if (line) {
        if (outline_.isEmpty()) outline_ << pressed_;
        outline_ << at;
    } else {
        outline_ = QPolygonF({pressed_, {at.x(), pressed_.y()}, at, {pressed_.x(), at.y()}});
    }
}

void PointerTools::pickOutlined(Qt::KeyboardModifiers modifiers) {
    const QPolygonF outline = std::exchange(outline_, {});
    const session::Look* look = workshop_.looks().kept();
    if (!look || workshop_.trial().current()) return;
    using Way = session::Picking::Way;
    const Way way = modifiers & Qt::AltModifier ? Way::Take : modifiers & Qt::ShiftModifier ? Way::Add : Way::Replace;
    workshop_.picking().pickThese(session::trianglesWithin(*look->display, camera_, outline,
                                                           through_ ? session::Reach::Through : session::Reach::Seen,
                                                           workshop_.veil().faintOf(*look->display)),
                                  way);
}

void PointerTools::paint(QPainter& painter) const {
    if (outline_.isEmpty()) return;
    painter.setPen(QPen(workshop_.paper().picked, 1.3, Qt::DashLine));
    QColor fill = workshop_.paper().picked;
    fill.setAlphaF(0.12F);
    painter.setBrush(fill);
    painter.drawPolygon(outline_);
}

void PointerTools::doubleClick(const QMouseEvent& event) {
    if (event.button() == Qt::LeftButton && !workshop_.picking().pick().everything())
        workshop_.picking().pickShellOf(workshop_.picking().pick().triangles().back());
}

bool PointerTools::wheel(int turned, const QPointF& at) {
    camera_.zoom(std::pow(zoomANotch, workshop_.preferences().wheelPulls() ? -turned : turned), at);
    return true;
}

}  // namespace zither::desktop
