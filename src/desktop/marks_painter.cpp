// Glyphs are thinned by a grid of the screen, so that a million places cost no more than those that are seen.
#include "desktop/marks_painter.h"

#include <algorithm>
#include <cmath>
#include <unordered_set>

#include "desktop/theme.h"
#include "io/format.h"
#include "session/loss_signs.h"
#include "session/numbers.h"

namespace zither::desktop {

using mesh::Point;
namespace paper = session::paper;

namespace {
// Pixels between glyphs of one class; the larger one where the smaller would leave more than so many of them, which
// would hide the part.
constexpr double closely = 15;
constexpr double widely = 44;
constexpr std::size_t mostClose = 120;
constexpr std::size_t mostGlyphs = 500;
constexpr std::size_t mostRays = 120;
// In one picture: a million places are no more than that many.
constexpr std::size_t mostLookedAt = 200'000;
constexpr double reach = 14;

// Places on the screen that are taken, in cells of half the distance that glyphs keep: no cell holds two.
class Taken {
public:
    explicit Taken(double apart) : apart_(apart) {}
    [[nodiscard]] bool isFree(const QPointF& at) const {
        for (int dx = -2; dx <= 2; ++dx)
            for (int dy = -2; dy <= 2; ++dy)
                if (const auto it = cells_.find(keyOf(cellOf(at.x()) + dx, cellOf(at.y()) + dy)); it != cells_.end())
                    if ((it->second - at).manhattanLength() < apart_) return false;
        return true;
    }
    void take(const QPointF& at) { cells_.emplace(keyOf(cellOf(at.x()), cellOf(at.y())), at); }

private:
    [[nodiscard]] int cellOf(double x) const { return static_cast<int>(std::floor(2 * x / apart_)); }
    static std::int64_t keyOf(int x, int y) {
        return (static_cast<std::int64_t>(x) << 32) ^ static_cast<std::uint32_t>(y);
    }
    double apart_;
    std::unordered_map<std::int64_t, QPointF> cells_;
};

}  // namespace

void MarksPainter::paint(QPainter& painter, const QSize& size, bool moving) {
    painter.setRenderHint(QPainter::Antialiasing);
    if (!workshop_.parts().current() && !workshop_.jobs().busy()) return paintEmpty(painter, size);
    collect(QRect(QPoint(0, 0), size), moving);
    paintSpots(painter);
    paintLoss(painter, QRect(QPoint(0, 0), size));
    if (sectioning_.position() && workshop_.looks().shown()) paintSectionHandle(painter);
    paintLegend(painter, size);
    paintHints(painter, size);
}

// Places of failing classes, the chosen class first, thinned so that glyphs do not pile up.
void MarksPainter::collect(const QRect& view, bool moving) {
    spots_.clear();
    if (!workshop_.looks().kept() || workshop_.trial().current()) return;
    const auto chosen = workshop_.choice().chosenClass();
    if (chosen) collectOf(*chosen, view, moving);
    for (const check::DefectClass defect : workshop_.judging().failingClasses())
        if (defect != chosen && !defect->onlyWhenChosen) collectOf(defect, view, moving);
}

void MarksPainter::collectOf(check::DefectClass defect, const QRect& view, bool moving) {
    const std::size_t others = spots_.size();
    collectApart(closely, defect, view, moving);
    if (spots_.size() - others <= mostClose) return;
    spots_.erase(spots_.begin() + static_cast<std::ptrdiff_t>(others), spots_.end());
    collectApart(widely, defect, view, moving);
}

bool MarksPainter::isSeen(const check::Finding& f) const {
    const double along = f.position[workshop_.choice().axis()];
    // What a section took off takes its places with it.
    if (const auto at = sectioning_.position(); at && (along > *at) == sectionLeavesLow()) return false;
    const auto slab = workshop_.choice().slab();
    return !slab || slab->holds(along);
}

bool MarksPainter::isHidden(const Spot& spot, const check::Finding& f) const {
    const session::Display& display = *workshop_.looks().kept()->display;
    const Point origin = camera_.rayOrigin(spot.at);
    const auto hit = display.met(origin, camera_.direction());
    const double depth = camera_.direction().dot(f.position - origin);
    return hit && hit->along < depth - std::max(f.size, 0.005 * display.box.diagonal());
}

void MarksPainter::collectApart(double apart, check::DefectClass defect, const QRect& view, bool moving) {
    const auto& list = workshop_.looks().kept()->survey->findings.list;
    const auto chosen = workshop_.choice().chosenFinding();
    Taken taken(apart);
    const auto consider = [&](std::size_t i) {
        const check::Finding& f = list[i];
        if (f.defect != defect || !isSeen(f)) return;
        Spot spot{camera_.toScreen(f.position), i, defect, false, chosen == i};
        if (!view.contains(spot.at.toPoint()) || !taken.isFree(spot.at)) return;
        taken.take(spot.at);
        if (spots_.size() < mostRays && !moving) spot.hidden = isHidden(spot, f);
        spots_.push_back(spot);
    };
    if (chosen) consider(*chosen);
    // Of more than can be looked at some everywhere, not all in one corner.
    const std::size_t stride = list.size() / mostLookedAt + 1;
    for (std::size_t i = 0; i < list.size() && spots_.size() < mostGlyphs; i += stride)
        if (chosen != i) consider(i);
}

std::optional<std::size_t> MarksPainter::findingAt(const QPointF& at) const {
    const Spot* nearest = nullptr;
    for (const Spot& s : spots_)
        if ((s.at - at).manhattanLength() < (nearest ? (nearest->at - at).manhattanLength() : reach)) nearest = &s;
    return nearest ? std::optional(nearest->finding) : std::nullopt;
}

void MarksPainter::paintSpots(QPainter& painter) const {
    for (const Spot& s : spots_) {
        QColor colour = session::inkOf(s.defect);
        const bool faint = workshop_.choice().chosenClass() && workshop_.choice().chosenClass() != s.defect;
        colour.setAlphaF(s.hidden ? 0.35F : faint ? 0.55F : 1.0F);
        painter.setOpacity(s.hidden ? 0.5 : 1);
        drawGlyph(painter, s.defect->glyph, s.at, {s.chosen ? 22.0 : 14.0, colour});
        if (s.chosen) {
            painter.setPen(QPen(paper::wood, 1.5));
            painter.setBrush(Qt::NoBrush);
            painter.drawEllipse(s.at, 19, 19);
        }
    }
    painter.setOpacity(1);
}

// What is lost and added since the import, over what is shown: a preview's before it is kept. Largest first.
void MarksPainter::paintLoss(QPainter& painter, const QRect& view) const {
    const session::Look* look = workshop_.looks().shown();
    if (!look || !look->loss) return;
    constexpr std::size_t most = 200;
    Taken taken(closely);
    const auto paint = [&](const std::vector<measure::LossPlace>& places, const session::Sign& sign) {
        for (std::size_t i = 0; i < std::min(most, places.size()); ++i) {
            const QPointF at = camera_.toScreen(places[i].position);
            if (!view.contains(at.toPoint()) || !taken.isFree(at)) continue;
            taken.take(at);
            drawGlyph(painter, *sign.glyph, at, {14, sign.ink});
        }
    };
    paint(look->loss->lostPlaces, session::sign::lost);
    paint(look->loss->addedPlaces, session::sign::added);
}

void MarksPainter::paintLegend(QPainter& painter, const QSize& size) {
    const session::Legend& legend = coating_.coat().legend;
    histogram_ = QRectF();
    if (legend.title.isEmpty()) return;
    const auto lines = static_cast<double>(legend.note.isEmpty() ? 0 : 1 + legend.note.count('\n'));
    const double noteHeight = 16 * lines;
    const QRectF box(14, size.height() - (legend.continuous ? 92 : 46) - noteHeight, 250, 66);
    painter.setPen(paper::ink);
    painter.setFont(typeface(12, QFont::DemiBold));
    painter.drawText(box.topLeft() + QPointF(0, 12), legend.title);
    painter.setFont(typeface(11));
    painter.setPen(paper::quiet);
    if (!legend.note.isEmpty())
        painter.drawText(QRectF(box.left(), box.top() + 17, size.width() - 28, noteHeight + 4),
                         Qt::AlignLeft | Qt::AlignTop, legend.note);
    if (!legend.continuous || legend.histogram.empty()) return;
    const QRectF bars(box.left(), box.top() + noteHeight + 20, box.width(), 30);
    drawBars(painter, bars, legend.histogram);
    painter.drawText(QPointF(bars.left(), bars.bottom() + 14), session::shortNumber(legend.low) + legend.unit);
    const QString high = session::shortNumber(legend.high) + legend.unit;
    painter.drawText(QPointF(bars.right() - painter.fontMetrics().horizontalAdvance(high), bars.bottom() + 14), high);
    if (coating_.coat().values.empty()) return;
    histogram_ = bars;
    paintStretch(painter);
}

void MarksPainter::paintStretch(QPainter& painter) const {
    const session::Legend& legend = coating_.coat().legend;
    if (!stretch_ || !(legend.high > legend.low)) return;
    const auto xOf = [&](double value) {
        return histogram_.left() + histogram_.width() * (value - legend.low) / (legend.high - legend.low);
    };
    const double left = xOf(stretch_->first);
    const double right = xOf(stretch_->second);
    painter.setPen(QPen(paper::spruce, 2));
    for (const double x : {left, right})
        painter.drawLine(QPointF(x, histogram_.top()), QPointF(x, histogram_.bottom() + 3));
    painter.drawLine(QPointF(left, histogram_.bottom() + 3), QPointF(right, histogram_.bottom() + 3));
    const QString said =
        session::shortNumber(stretch_->first) + " \u2013 " + session::shortNumber(stretch_->second) + legend.unit;
    const double width = painter.fontMetrics().horizontalAdvance(said);
    painter.drawText(QPointF(histogram_.center().x() - width / 2, histogram_.bottom() + 14), said);
}

double MarksPainter::valueAt(const QPointF& at) const {
    const session::Legend& legend = coating_.coat().legend;
    const double share = std::clamp((at.x() - histogram_.left()) / histogram_.width(), 0.0, 1.0);
    return legend.low + share * (legend.high - legend.low);
}

void MarksPainter::paintHints(QPainter& painter, const QSize& size) const {
    painter.setFont(typeface(11));
    painter.setPen(paper::quiet);
    QString hint =
        "pick: click, Shift adds     turn: right drag     pan: middle drag     zoom: wheel     next place: N     "
        "commands: Ctrl+K";
    if (workshop_.trial().current()) hint = "Preview. Keep it or drop it at the desk.";
    painter.drawText(QPointF(14, size.height() - 12), hint);
}

// What is nearer to the eye is taken off.
bool MarksPainter::sectionLeavesLow() const {
    return camera_.direction()[workshop_.choice().axis()] < 0;
}

QPointF MarksPainter::sectionHandle() const {
    Point p = workshop_.looks().shown()->display->box.centre();
    p[workshop_.choice().axis()] = *sectioning_.position();
    return camera_.toScreen(p);
}

QPointF MarksPainter::alongSection() const {
    const Point p = workshop_.looks().shown()->display->box.centre();
    return camera_.toScreen(p + Point::Unit(workshop_.choice().axis())) - camera_.toScreen(p);
}

void MarksPainter::paintSectionHandle(QPainter& painter) const {
    const QPointF at = sectionHandle();
    const QPointF along = alongSection();
    const double length = std::hypot(along.x(), along.y());
    if (length > 1e-9) {
        const QPointF unit = along / length;
        painter.setPen(QPen(paper::wood, 2));
        for (const double side : {-1.0, 1.0}) {
            const QPointF tip = at + side * 24 * unit;
            painter.drawLine(at + side * 10 * unit, tip);
            painter.drawLine(tip, tip - side * 6 * unit + 4 * QPointF(-unit.y(), unit.x()));
            painter.drawLine(tip, tip - side * 6 * unit - 4 * QPointF(-unit.y(), unit.x()));
        }
    }
    painter.setPen(QPen(paper::wood, 2));
    painter.setBrush(paper::sheet);
    painter.drawEllipse(at, 8, 8);
    const auto section = sectioning_.section();
    const QString unit = workshop_.parts().current()->unit.name;
    QString text =
        QString("Section across %1 at %2 %3")
            .arg(QChar("XYZ"[workshop_.choice().axis()]), session::shortNumber(*sectioning_.position()), unit);
    QString figures;
    if (section && section->position == *sectioning_.position()) {
        figures = QString("%1 %2² enclosed").arg(session::shortNumber(section->area), unit);
        if (section->areaTwice > 0)
            figures += QString(", %1 %2² of it more than once").arg(session::shortNumber(section->areaTwice), unit);
        if (section->openEnds > 0) figures += QString(", open at %1 places").arg(section->openEnds);
    }
    painter.setPen(paper::ink);
    painter.setFont(typeface(12, QFont::DemiBold));
    painter.drawText(QPointF(14, 24), text);
    painter.setFont(typeface(11));
    painter.setPen(paper::quiet);
    painter.drawText(QPointF(14, 42), figures);
}

void MarksPainter::paintEmpty(QPainter& painter, const QSize& size) const {
    const QPointF c(size.width() / 2.0, size.height() / 2.0);
    painter.setPen(QPen(paper::wood, 1.2));
    for (int i = 0; i < 7; ++i)
        painter.drawLine(c + QPointF(-110 + 6 * i, -92 + 9 * i), c + QPointF(110 - 6 * i, -92 + 9 * i));
    painter.setPen(paper::ink);
    painter.setFont(typeface(19, QFont::DemiBold));
    painter.drawText(QRectF(c.x() - 260, c.y() - 12, 520, 30), Qt::AlignCenter, "Drop surface files here");
    painter.setFont(typeface(13));
    painter.setPen(paper::quiet);
    painter.drawText(
        QRectF(c.x() - 260, c.y() + 22, 520, 80), Qt::AlignHCenter | Qt::TextWordWrap,
        QString("or open them with Ctrl+O: %1, one or many.\nNothing is changed on reading; every check runs at "
                "once,\nand each finding becomes a mark on the strings below.")
            .arg(QString::fromStdString(io::formatTitles())));
}

}  // namespace zither::desktop
