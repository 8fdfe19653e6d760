// A list that is painted: parts, and the shells of the one in front that matter.
#include "desktop/parts_panel.h"

#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <numeric>

#include "desktop/theme.h"
#include "session/strings.h"

namespace zither::desktop {

namespace paper = session::paper;

namespace {
constexpr double titleHeight = 26;
constexpr double firstY = 30;
constexpr int unfoldedWidth = 190;
constexpr int foldedWidth = 96;
constexpr double partHeight = 36;
constexpr double shellHeight = 33;
constexpr std::size_t mostShells = 6;
// A shell that is smaller than this share of the part, and has less than that share of its area, is a detail.
constexpr double smallAcross = 0.05;
constexpr double smallArea = 0.01;

bool matters(const check::Shell& shell, const check::Survey& survey) {
    return shell.box.diagonal() >= smallAcross * survey.mass.size.diagonal() ||
           shell.area >= smallArea * survey.mass.area;
}
}  // namespace

PartsPanel::PartsPanel(session::Workshop& workshop, QWidget* parent) : QWidget(parent), workshop_(workshop) {
    setObjectName("parts");
    connect(&workshop_.parts(), &session::Parts::changed, this, &PartsPanel::refresh);
    connect(&workshop_.looks(), &session::Looks::changed, this, &PartsPanel::refresh);
    connect(&workshop_.preferences(), &session::Preferences::changed, this, &PartsPanel::refresh);
    refresh();
}

void PartsPanel::refresh() {
    lines_.clear();
    double y = firstY;
    for (std::size_t i = 0; i < workshop_.parts().all().size(); ++i) {
        const session::Part& part = *workshop_.parts().all()[i];
        QString detail = QString("%1 tri").arg(session::spaced(part.track.part()->mesh().triangles.size()));
        if (const auto survey = part.track.part()->known()) {
            const auto& shells = survey->shells;
            const auto mattering =
                std::count_if(shells.begin(), shells.end(), [&](const auto& s) { return matters(s, *survey); });
            detail = QString("%1 %2").arg(session::spaced(shells.size()), shells.size() == 1 ? "shell" : "shells");
            if (static_cast<std::size_t>(mattering) < shells.size())
                detail += QString(" · %1 %2").arg(mattering).arg(mattering == 1 ? "matters" : "matter");
        }
        lines_.push_back({i, std::nullopt, part.name, detail, y, partHeight});
        y += partHeight + 3;
        if (workshop_.parts().currentIndex() == i) addShells(i, y);
    }
    contentHeight_ = y;
    Q_EMIT sizeChanged();
    scroll_ = std::clamp(scroll_, 0.0, std::max(0.0, contentHeight_ - height()));
    update();
}

// The largest shells by name, the rest as one line: a frame of thousands of struts must stay readable.
void PartsPanel::addShells(std::size_t part, double& y) {
    const session::Look* look = workshop_.looks().kept();
    if (!look || look->survey->shells.size() < 2) return;
    const auto& shells = look->survey->shells;
    std::vector<std::size_t> order;
    for (std::size_t i = 0; i < shells.size(); ++i)
        if (matters(shells[i], *look->survey)) order.push_back(i);
    const std::size_t rest = shells.size() - std::min(mostShells, order.size());
    // One that matters is the part itself.
    if (order.size() == 1) order.clear();
    const std::size_t named = std::min(mostShells, order.size());
    std::partial_sort(
        order.begin(), order.begin() + static_cast<std::ptrdiff_t>(named), order.end(),
        [&](std::size_t a, std::size_t b) { return shells[a].box.diagonal() > shells[b].box.diagonal(); });
    for (std::size_t i = 0; i < named; ++i) {
        const check::Shell& shell = shells[order[i]];
        QString detail = session::spaced(shell.triangles) + " tri · ";
        if (shell.inward)
            detail += "faces inward";
        else if (!shell.closed)
            detail += "open";
        else if (shell.depth % 2 == 1)
            detail += "cavity";
        else if (shell.depth > 0)
            detail += "inside another";
        else
            detail += QString("volume %1").arg(session::shortNumber(shell.volume));
        lines_.push_back({part, order[i], QString("shell %1").arg(order[i] + 1), detail, y, shellHeight});
        y += shellHeight;
    }
    if (rest > 0) {
        lines_.push_back({part, std::nullopt,
                          QString("%1 smaller %2").arg(session::spaced(rest), rest == 1 ? "shell" : "shells"),
                          QString(), y, 22});
        lines_.back().shell = shells.size();
        y += 24;
    }
    y += 6;
}

QRectF PartsPanel::partRect(std::size_t part) const {
    for (const Line& line : lines_)
        if (line.part == part && !line.shell) return {6, line.top - scroll_, width() - 12.0, line.height};
    return {};
}

void PartsPanel::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(paper::line);
    painter.setBrush(paper::ground);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    if (folded()) return drawTitle(painter);
    painter.save();
    painter.setClipRect(QRectF(1, titleHeight, width() - 2, height() - titleHeight - 3));
    painter.translate(0, -scroll_);
    for (const Line& line : lines_) drawLine(painter, line);
    painter.restore();
    drawTitle(painter);
}

void PartsPanel::drawTitle(QPainter& painter) const {
    painter.setFont(typeface(11, QFont::DemiBold));
    painter.setPen(paper::quiet);
    const std::size_t count = workshop_.parts().all().size();
    painter.drawText(QPointF(12, 17), folded() && count > 1 ? QString("PARTS %1").arg(count) : QString("PARTS"));
    painter.setPen(QPen(paper::quiet, 1.4, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    const double way = folded() ? 3 : -3;
    const QPointF tip(width() - 15 + way / 2, 13);
    painter.drawPolyline(QPolygonF({tip + QPointF(-way, -4), tip, tip + QPointF(-way, 4)}));
}

bool PartsPanel::folded() const {
    return !workshop_.preferences().isShown(session::Preferences::Panel::Parts);
}

QSize PartsPanel::wantedSize() const {
    if (folded()) return {foldedWidth, static_cast<int>(titleHeight)};
    return {unfoldedWidth, static_cast<int>(contentHeight_) + 4};
}

QRectF PartsPanel::titleRect() const {
    return {0, 0, static_cast<double>(width()), titleHeight};
}

void PartsPanel::drawLine(QPainter& painter, const Line& line) const {
    const bool isPart = !line.shell;
    const bool current = workshop_.parts().currentIndex() == line.part;
    const double left = isPart ? 18 : 32;
    if (isPart && current) {
        painter.setPen(Qt::NoPen);
        painter.setBrush(paper::chosen);
        painter.drawRoundedRect(QRectF(6, line.top, width() - 14, line.height), 4, 4);
    }
    painter.setFont(typeface(12, isPart ? QFont::DemiBold : QFont::Medium));
    painter.setPen(paper::ink);
    const double room = width() - left - 30;
    painter.drawText(QPointF(left, line.top + 15),
                     painter.fontMetrics().elidedText(line.title, Qt::ElideRight, static_cast<int>(room)));
    painter.setFont(typeface(11));
    painter.setPen(paper::quiet);
    painter.drawText(
        QPointF(left, line.top + 29),
        painter.fontMetrics().elidedText(line.detail, Qt::ElideRight, static_cast<int>(width() - left - 12)));
    if (!isPart) return;
    painter.setPen(QPen(paper::spruce, 1.3));
    painter.setBrush(current ? QBrush(paper::spruce) : QBrush(Qt::NoBrush));
    painter.drawEllipse(QPointF(width() - 22, line.top + line.height / 2), 4, 4);
}

void PartsPanel::mousePressEvent(QMouseEvent* event) {
    if (titleRect().contains(event->position()))
        return workshop_.preferences().setShown(session::Preferences::Panel::Parts, folded());
    const double y = event->position().y() + scroll_;
    for (const Line& line : lines_)
        if (!line.shell && y >= line.top && y < line.top + line.height) return workshop_.parts().choose(line.part);
    for (const Line& line : lines_) {
        if (!line.shell || y < line.top || y >= line.top + line.height || !workshop_.looks().kept()) continue;
        return workshop_.choice().chooseShell(*line.shell);
    }
}

void PartsPanel::wheelEvent(QWheelEvent* event) {
    scroll_ = std::clamp(scroll_ - event->angleDelta().y() / 2.0, 0.0, std::max(0.0, contentHeight_ - height()));
    update();
}

}  // namespace zither::desktop
