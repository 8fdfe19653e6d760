// Numbers of the part's own unit; the wall is asked of the part's rays.
#include "session/state/measuring.h"

#include <cmath>
#include <numbers>

#include "session/state/preferences.h"

namespace zither::session {

using mesh::Point;

namespace {

// How far straight in from a point of a triangle the surface is left again.
std::optional<double> wallAt(const Display& display, mesh::TriangleId triangle, const Point& at) {
    const Point across = mesh::areaVector(display.mesh(), triangle);
    if (!(across.norm() > 0)) return std::nullopt;
    const Point inward = -across.normalized();
    const double hair = 1e-6 * display.box.diagonal();
    const auto met = display.met(at + hair * inward, inward);
    return met ? std::optional(met->along + hair) : std::nullopt;
}

}  // namespace

Measuring::Measuring(const Bench& bench) : parts_(bench.parts), looks_(bench.looks), preferences_(bench.preferences) {}

void Measuring::setOn(bool on) {
    on_ = on;
    open_ = false;
    Q_EMIT changed();
}

void Measuring::add(mesh::TriangleId triangle, const Point& at, const Point& meant) {
    const auto display = looks_.display();
    if (!parts_.current() || !display) return;
    std::vector<Measured>& all = ofPart_[parts_.current()->id];
    if (!open_ || all.empty()) all.push_back({{}, wallAt(*display, triangle, at)});
    all.back().points.push_back(meant);
    open_ = all.back().points.size() < 3;
    Q_EMIT changed();
}

void Measuring::finish() {
    open_ = false;
    Q_EMIT changed();
}

void Measuring::takeLast() {
    if (!parts_.current()) return;
    std::vector<Measured>& all = ofPart_[parts_.current()->id];
    if (all.empty()) return;
    all.back().points.pop_back();
    open_ = !all.back().points.empty();
    if (!open_) all.pop_back();
    Q_EMIT changed();
}

void Measuring::clear() {
    if (parts_.current()) ofPart_.erase(parts_.current()->id);
    open_ = false;
    Q_EMIT changed();
}

const std::vector<Measured>& Measuring::all() const {
    return of(parts_.current() ? parts_.current()->id : 0);
}

const std::vector<Measured>& Measuring::of(std::uint64_t part) const {
    static const std::vector<Measured> none;
    const auto it = ofPart_.find(part);
    return it == ofPart_.end() ? none : it->second;
}

void Measuring::restore(std::uint64_t part, std::vector<Measured> measured) {
    if (measured.empty()) return;
    ofPart_[part] = std::move(measured);
    Q_EMIT changed();
}

QString Measuring::text(const Measured& measured) const {
    const Numbers numbers = preferences_.numbers();
    const QString unit = parts_.current()->unit().name;
    const std::vector<Point>& p = measured.points;
    if (p.size() == 1)
        return numbers.placeText(p[0]) +
               (measured.wall ? QString("  wall %1 %2").arg(numbers.shortNumber(*measured.wall), unit) : QString());
    const Point way = p[1] - p[0];
    if (p.size() == 2)
        return QString("%1 %2  (x %3, y %4, z %5)")
            .arg(numbers.shortNumber(way.norm()), unit, numbers.shortNumber(way.x()), numbers.shortNumber(way.y()),
                 numbers.shortNumber(way.z()));
    const Point back = p[0] - p[1];
    const Point on = p[2] - p[1];
    const double cross = back.cross(on).norm();
    const double angle = std::atan2(cross, back.dot(on)) * 180 / std::numbers::pi;
    QString said = QString("%1°").arg(numbers.shortNumber(angle));
    // Of the circle through all three.
    const double twiceArea = cross;
    if (twiceArea > 0)
        said += QString("  radius %1 %2")
                    .arg(numbers.shortNumber(back.norm() * on.norm() * (p[2] - p[0]).norm() / (2 * twiceArea)), unit);
    return said;
}

QString Measuring::text() const {
    QStringList lines;
    for (const Measured& m : all()) lines << text(m);
    return lines.join('\n');
}

}  // namespace zither::session
