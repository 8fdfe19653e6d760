// Stops in columns by depth and rows by branch; further branches are scrolled to.
#include "desktop/track_panel.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>
#include <QWheelEvent>
#include <algorithm>

#include "desktop/theme.h"
#include "session/reading/strings.h"

namespace zither::desktop {

using project::StopId;

namespace {
constexpr double firstX = 96;
constexpr double firstY = 16;
constexpr double widestColumn = 132;
constexpr double branchHeight = 47;
constexpr double radius = 6;
constexpr double rowHeight = 51;
// Further branches are scrolled to: the view keeps its room.
constexpr int mostRows = 2;
}  // namespace

TrackPanel::TrackPanel(session::Workshop& workshop, QWidget* parent) : QWidget(parent), workshop_(workshop) {
    setObjectName("track");
    setMouseTracking(true);
    connect(&workshop_.parts(), &session::Parts::changed, this, &TrackPanel::layOut);
    connect(&workshop_.looks(), &session::Looks::changed, this, &TrackPanel::layOut);
    connect(&workshop_.trial(), &session::Trial::changed, this, &TrackPanel::layOut);
    layOut();
}

// The first child goes straight on; each further one opens a row of its own.
void TrackPanel::layOut() {
    places_.clear();
    columns_ = 1;
    int rows = 1;
    if (const session::Part* part = workshop_.parts().current()) {
        const auto& stops = part->track.stops();
        places_.resize(stops.size());
        for (StopId id = 0; id < stops.size(); ++id) {
            for (std::size_t i = 0; i < stops[id].children.size(); ++i)
                places_[stops[id].children[i]] = {places_[id].column + 1, i == 0 ? places_[id].row : rows++};
            columns_ = std::max(columns_, places_[id].column + 1);
        }
    }
    if (workshop_.trial().current()) ++columns_;
    rows_ = rows;
    setFixedHeight(static_cast<int>(rowHeight + branchHeight * (std::min(rows, mostRows) - 1)));
    scrollTo(scroll_);
}

QPointF TrackPanel::stopAt(StopId id) const {
    const double column = std::min(widestColumn, (width() - firstX - 90) / std::max(1, columns_ - 1));
    return {firstX + column * places_[id].column, firstY + branchHeight * places_[id].row - scroll_};
}

void TrackPanel::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), workshop_.paper().ground);
    painter.setPen(workshop_.paper().line);
    painter.drawLine(0, 0, width(), 0);
    painter.setFont(typeface(11, QFont::DemiBold));
    painter.setPen(workshop_.paper().quiet);
    if (scroll_ == 0) painter.drawText(QPointF(14, 17), "TRACK");
    const session::Part* part = workshop_.parts().current();
    if (!part) {
        painter.setFont(typeface(11));
        painter.drawText(QPointF(74, 17), "every step becomes a stop here; go back to any of them");
        return;
    }
    // It is painted before it has heard of another track: the next picture comes at once.
    if (places_.size() != part->track.stops().size()) return;
    painter.setPen(QPen(workshop_.paper().quiet, 1.3));
    for (StopId id = 1; id < part->track.stops().size(); ++id) {
        const QPointF from = stopAt(part->track.stop(id).parent);
        const QPointF to = stopAt(id);
        QPainterPath path(from);
        if (from.y() == to.y()) {
            path.lineTo(to);
        } else {
            // Leaves on the right of the stop's name and comes in from the left.
            const double turn = from.x() + 0.62 * (to.x() - from.x());
            path.cubicTo(QPointF(turn, from.y()), QPointF(turn - 12, to.y()), to);
        }
        painter.drawPath(path);
    }
    for (StopId id = 0; id < part->track.stops().size(); ++id) drawStop(painter, id);
    if (!workshop_.trial().current()) return;
    const QPointF from = stopAt(part->track.current());
    const QPointF to = from + QPointF(std::min(widestColumn, (width() - firstX - 90) / std::max(1, columns_ - 1)), 0);
    painter.setPen(QPen(workshop_.paper().wood, 1.3, Qt::DashLine));
    painter.drawLine(from + QPointF(radius, 0), to - QPointF(radius, 0));
    painter.setBrush(workshop_.paper().raised);
    painter.drawEllipse(to, radius, radius);
    painter.setPen(workshop_.paper().wood);
    painter.setFont(typeface(11, QFont::DemiBold));
    painter.drawText(QRectF(to.x() - 60, to.y() + 9, 120, 16), Qt::AlignCenter, "preview");
}

void TrackPanel::drawStop(QPainter& painter, StopId id) const {
    const project::Stop& stop = workshop_.parts().current()->track.stop(id);
    const bool here = workshop_.parts().current()->track.current() == id;
    const QPointF at = stopAt(id);
    painter.setPen(QPen(here ? workshop_.paper().spruce : workshop_.paper().ink, 1.4));
    painter.setBrush(here ? workshop_.paper().spruce : workshop_.paper().raised);
    painter.drawEllipse(at, radius, radius);
    painter.setFont(typeface(11, QFont::DemiBold));
    painter.setPen(here ? workshop_.paper().spruce : workshop_.paper().ink);
    painter.drawText(QRectF(at.x() - 64, at.y() + 8, 128, 15), Qt::AlignCenter, QString::fromStdString(stop.label));
    const auto count = static_cast<std::int64_t>(stop.part->mesh().triangles.size());
    QString change = session::spaced(static_cast<std::uint64_t>(count));
    if (id != 0) {
        const std::int64_t difference =
            count - static_cast<std::int64_t>(
                        workshop_.parts().current()->track.stop(stop.parent).part->mesh().triangles.size());
        change = difference == 0
                     ? QString("±0")
                     : (difference > 0 ? "+" : "−") + session::spaced(static_cast<std::uint64_t>(std::abs(difference)));
        if (difference == 0 && !stop.record.headline.empty()) change = QString::fromStdString(stop.record.headline);
    }
    painter.setFont(typeface(10));
    painter.setPen(workshop_.paper().quiet);
    painter.drawText(QRectF(at.x() - 64, at.y() + 22, 128, 14), Qt::AlignCenter, change);
}

void TrackPanel::scrollTo(double y) {
    scroll_ = std::clamp(y, 0.0, branchHeight * std::max(0, rows_ - mostRows));
    update();
}

void TrackPanel::wheelEvent(QWheelEvent* event) {
    scrollTo(scroll_ - event->angleDelta().y() / 2.0);
}

std::optional<StopId> TrackPanel::idAt(const QPointF& at) const {
    for (StopId id = 0; id < places_.size(); ++id)
        if (std::abs(stopAt(id).x() - at.x()) < 34 && at.y() > stopAt(id).y() - 12 && at.y() < stopAt(id).y() + 30)
            return id;
    return std::nullopt;
}

void TrackPanel::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    const auto id = idAt(event->position());
    if (!id) return;
    // With Shift it is held against what is in front; once more lets it go.
    if (event->modifiers() & Qt::ShiftModifier)
        workshop_.beforeAfter().setOther(workshop_.beforeAfter().other() == id ? std::nullopt : id);
    else
        workshop_.goTo(*id);
}

void TrackPanel::mouseMoveEvent(QMouseEvent* event) {
    const auto id = idAt(event->position());
    setCursor(id ? Qt::PointingHandCursor : Qt::ArrowCursor);
    if (!id) return;
    const project::Stop& stop = workshop_.parts().current()->track.stop(*id);
    QString text = QString::fromStdString(stop.why);
    for (std::size_t i = 0; i < std::min<std::size_t>(8, stop.record.sentences.size()); ++i)
        text += (text.isEmpty() ? "" : "\n") + QString::fromStdString(stop.record.sentences[i]);
    QToolTip::showText(event->globalPosition().toPoint(), text, this);
}

}  // namespace zither::desktop
