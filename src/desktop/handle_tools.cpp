// Drags become places and directions; what they mean is the step's to say.
#include "desktop/handle_tools.h"

#include <cmath>
#include <numbers>

#include "desktop/theme.h"
#include "measure/section.h"
#include "session/reading/number_text.h"
#include "session/reading/sight.h"
#include "session/reading/strings.h"

namespace zither::desktop {

using mesh::Point;
using steps::Handle;
namespace {
constexpr double reach = 13;  // pixels
constexpr double snapDeg = 15;
constexpr double toRadians = std::numbers::pi / 180;

// It has no direction.
bool isPlace(const Handle& h) {
    return h.kind == Handle::Spot || h.kind == Handle::Free;
}

double snapped(double radians) {
    return std::round(radians / (snapDeg * toRadians)) * snapDeg * toRadians;
}

// To whole multiples of the snap in elevation from the plane of x and y, and about z.
Point snapped(const Point& direction) {
    const double elevation = snapped(std::asin(std::clamp(direction.z(), -1.0, 1.0)));
    const double azimuth = snapped(std::atan2(direction.y(), direction.x()));
    return {std::cos(elevation) * std::cos(azimuth), std::cos(elevation) * std::sin(azimuth), std::sin(elevation)};
}

// For a turn about an axis: angles are told from `first`, as the axis' followers lie.
std::pair<Point, Point> frameAbout(const Point& axis) {
    Eigen::Index most = 0;
    axis.cwiseAbs().maxCoeff(&most);
    const Point first = Point::Unit((most + 1) % 3);
    const Point u = (first - axis.dot(first) * axis).normalized();
    return {u, axis.cross(u)};
}

}  // namespace

QPointF HandleTools::foot(const Handle& handle) const {
    return camera_.toScreen(handle.at);
}

QPointF HandleTools::tip(const Handle& handle) const {
    return camera_.toScreen(handle.at + lengthOf(handle) * handle.direction);
}

double HandleTools::lengthOf(const Handle& handle) const {
    double longest = handle.length;
    for (const Handle& h : dragHandles_.handles()) longest = std::max(longest, h.length);
    const QSizeF view = camera_.viewport();
    constexpr double share = 0.42;  // of the view, from its middle
    const double room = share * std::min(view.width(), view.height()) * camera_.worldPerPixel();
    return longest > room ? handle.length * room / longest : handle.length;
}

std::vector<HandleTools::Grip> HandleTools::grips() const {
    std::vector<Grip> all;
    const auto& handles = dragHandles_.handles();
    for (std::size_t i = 0; i < handles.size(); ++i) {
        const Handle& h = handles[i];
        if (h.turns) all.push_back({i, true, tip(h)});
        if (isPlace(h) || (h.slides && h.turns)) all.push_back({i, false, foot(h)});
        if (h.slides && !h.turns) all.push_back({i, false, tip(h)});
    }
    return all;
}

bool HandleTools::press(const QPointF& at) {
    const Grip* nearest = nullptr;
    const std::vector<Grip> all = grips();
    for (const Grip& g : all)
        if ((g.at - at).manhattanLength() < (nearest ? (nearest->at - at).manhattanLength() : reach)) nearest = &g;
    if (!nearest) return false;
    held_ = *nearest;
    start_ = dragHandles_.handles()[held_.handle];
    pressed_ = at;
    dragHandles_.take(held_.handle);
    return true;
}

void HandleTools::drag(const QPointF& to, bool free) {
    if (!dragHandles_.held()) return;
    Handle now = start_;
    if (held_.turns) {
        now.direction = start_.about ? turnedAbout(*start_.about, to, free) : turned(to, free);
    } else if (start_.kind == Handle::Free) {
        const QPointF way = camera_.worldPerPixel() * (to - pressed_);
        now.at = start_.at + way.x() * camera_.right() - way.y() * camera_.up();
    } else if (start_.kind == Handle::Spot) {
        const session::Display& display = *workshop_.looks().kept()->display;
        const auto pointed = session::pointedAt(display, camera_, to, workshop_.veil().faintOf(display));
        if (!pointed) return;  // beside the part it stays where it was
        now.at = pointed->point;
    } else {
        now.at = slid(to);
    }
    dragHandles_.bring(now);
}

bool HandleTools::release() {
    if (!dragHandles_.held()) return false;
    dragHandles_.letGo();
    return true;
}

// Along its direction, as far as the pointer went along it on the screen.
Point HandleTools::slid(const QPointF& to) const {
    const QPointF along = camera_.toScreen(start_.at + start_.direction) - camera_.toScreen(start_.at);
    const double square = QPointF::dotProduct(along, along);
    // Seen end on, it has no length on the screen to drag along.
    constexpr double endOn = 1e-3;
    if (!(std::sqrt(square) * camera_.worldPerPixel() > endOn)) return start_.at;
    return start_.at + QPointF::dotProduct(to - pressed_, along) / square * start_.direction;
}

// On the sphere that the tip runs on, on the side of it where the drag began.
Point HandleTools::turned(const QPointF& to, bool free) const {
    const QPointF way = to - foot(start_);
    const Point towards = -camera_.direction();
    const Point offset =
        camera_.worldPerPixel() * (way.x() * camera_.right() - way.y() * camera_.up()) / lengthOf(start_);
    const double out = offset.norm();
    const double side = start_.direction.dot(towards) < -1e-6 ? -1 : 1;
    const Point direction = out >= 1 ? Point(offset / out) : Point(offset + side * std::sqrt(1 - out * out) * towards);
    return free ? direction : snapped(direction);
}

Point HandleTools::turnedAbout(const Point& axis, const QPointF& to, bool free) const {
    const Point origin = camera_.rayOrigin(to);
    const double steep = axis.dot(camera_.direction());
    constexpr double edgeOn = 0.05;
    const Point met =
        std::abs(steep) > edgeOn ? Point(origin + axis.dot(start_.at - origin) / steep * camera_.direction()) : origin;
    const auto [u, v] = frameAbout(axis);
    const Point way = met - start_.at;
    double angle = std::atan2(way.dot(v), way.dot(u));
    if (!free) angle = snapped(angle);
    return std::cos(angle) * u + std::sin(angle) * v;
}

// ---- drawing

QString HandleTools::saidOf(const Handle& handle) const {
    const QString unit = workshop_.parts().current()->unit().name;
    const QString name = QString::fromStdString(handle.name);
    const Point& d = handle.direction;
    const auto numberOf = [&](double x) { return workshop_.numbers().shortNumber(std::abs(x) < 1e-9 ? 0.0 : x); };
    if (isPlace(handle))
        return QString("%1 at %2, %3, %4 %5")
            .arg(name, numberOf(handle.at.x()), numberOf(handle.at.y()), numberOf(handle.at.z()), unit);
    if (handle.about) {
        const auto [u, v] = frameAbout(*handle.about);
        return QString("%1: %2°").arg(name, numberOf(std::atan2(d.dot(v), d.dot(u)) / toRadians));
    }
    QString towards = QString("%1 towards %2, %3, %4").arg(name, numberOf(d.x()), numberOf(d.y()), numberOf(d.z()));
    if (handle.kind == Handle::Plane)
        return QString("%1, plane at %2 %3").arg(towards, numberOf(d.dot(handle.at)), unit);
    if (handle.slides) return QString("%1 by %2 %3").arg(name, numberOf(d.dot(handle.at - start_.at)), unit);
    return towards;
}

void HandleTools::paint(QPainter& painter) const {
    const auto& handles = dragHandles_.handles();
    for (const Handle& h : handles) {
        if (h.kind == Handle::Plane) paintPlane(painter, h);
        if (h.about) paintRing(painter, h);
        if (!isPlace(h) && !h.about) paintArrow(painter, h);
    }
    for (const Grip& g : grips()) {
        const Handle& h = handles[g.handle];
        const bool held = dragHandles_.held() == g.handle && held_.turns == g.turns;
        const bool named = g.turns || isPlace(h) || !h.turns;
        paintGrip(painter, g.at,
                  held    ? saidOf(h)
                  : named ? QString::fromStdString(h.name)
                          : QString(),
                  g.handle % 2 == 0);
    }
}

void HandleTools::paintArrow(QPainter& painter, const Handle& h) const {
    const QPointF from = foot(h);
    const QPointF to = tip(h);
    const QPointF way = to - from;
    const double length = std::hypot(way.x(), way.y());
    painter.setPen(QPen(workshop_.paper().wood, 1.6));
    painter.drawLine(from, to);
    constexpr double head = 16;
    if (length < head) return;
    const QPointF unit = way / length;
    const QPointF side(-unit.y(), unit.x());
    for (const double s : {-1.0, 1.0}) painter.drawLine(to - 9 * unit, to - head * unit + s * 5 * side);
}

// A square in the plane, its grain across.
void HandleTools::paintPlane(QPainter& painter, const Handle& h) const {
    const auto [u, v] = measure::frameAcross(h.direction);
    const double half = lengthOf(h);
    const auto at = [&, u = u, v = v](double x, double y) { return camera_.toScreen(h.at + half * (x * u + y * v)); };
    QColor fill = workshop_.paper().wood;
    fill.setAlphaF(0.12F);
    painter.setPen(QPen(workshop_.paper().wood, 1.2));
    painter.setBrush(fill);
    painter.drawPolygon(QPolygonF({at(-1, -1), at(1, -1), at(1, 1), at(-1, 1)}));
    QColor grain = workshop_.paper().wood;
    grain.setAlphaF(0.35F);
    painter.setPen(QPen(grain, 0.8));
    constexpr int strings = 8;
    for (int i = 1; i < strings; ++i) {
        const double x = 2.0 * i / strings - 1;
        painter.drawLine(at(x, -1), at(x, 1));
    }
}

void HandleTools::paintRing(QPainter& painter, const Handle& h) const {
    const auto [u, v] = measure::frameAcross(*h.about);
    QPolygonF ring;
    constexpr int corners = 72;
    for (int i = 0; i <= corners; ++i) {
        const double angle = 2 * std::numbers::pi * i / corners;
        ring << camera_.toScreen(h.at + lengthOf(h) * (std::cos(angle) * u + std::sin(angle) * v));
    }
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(workshop_.paper().wood, 1.2));
    painter.drawPolyline(ring);
}

void HandleTools::paintGrip(QPainter& painter, const QPointF& at, const QString& said, bool above) const {
    painter.setPen(QPen(workshop_.paper().wood, 2));
    painter.setBrush(workshop_.paper().sheet);
    painter.drawEllipse(at, 6, 6);
    if (said.isEmpty()) return;
    painter.setFont(typeface(12, QFont::DemiBold));
    const QRectF room(at + QPointF(12, above ? -22 : -4),
                      QSizeF(painter.fontMetrics().horizontalAdvance(said) + 10, 20));
    QColor ground = workshop_.paper().sheet;
    ground.setAlphaF(0.85F);
    painter.setPen(Qt::NoPen);
    painter.setBrush(ground);
    painter.drawRoundedRect(room, 4, 4);
    painter.setPen(workshop_.paper().ink);
    painter.drawText(room, Qt::AlignCenter, said);
}

}  // namespace zither::desktop
