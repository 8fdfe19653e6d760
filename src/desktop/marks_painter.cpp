// Glyphs gather by a grid of the screen, so that a million places cost no more than those that are seen.
#include "desktop/marks_painter.h"

#include <algorithm>
#include <cmath>
#include <unordered_set>

#include "desktop/sizes.h"
#include "desktop/theme.h"
#include "session/lens/colours.h"
#include "session/reading/loss_signs.h"
#include "session/reading/number_text.h"

namespace zither::desktop {

using mesh::Point;
namespace {
// Places of a class that are no farther apart on the screen gather in one glyph.
constexpr double gathers = 30;
// Glyphs of what is lost and added lie no closer.
constexpr double closely = 15;
constexpr std::size_t mostGlyphs = 600;
constexpr std::size_t mostRays = 120;
// In one picture: a million places are no more than that many.
constexpr std::size_t mostLookedAt = 200'000;
constexpr double reach = 14;
// The stripe of colours under the counts of a legend.
constexpr double rampHeight = 6;

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
    if (!workshop_.parts().current()) return;
    paintPlaces(painter, size, moving);
    if (workshop_.looks().shown()) paintSectionHandles(painter);
    paintDivider(painter, size);
    paintHints(painter, size);
}

void MarksPainter::paintForPicture(QPainter& painter, const QSize& size) {
    if (workshop_.parts().current()) paintPlaces(painter, size, false);
}

void MarksPainter::paintPlaces(QPainter& painter, const QSize& size, bool moving) {
    painter.setRenderHint(QPainter::Antialiasing);
    collect(QRect(QPoint(0, 0), size), moving);
    paintSpots(painter, moving);
    paintLoss(painter, QRect(QPoint(0, 0), size));
    paintLegend(painter, size);
    paintSizes(painter, camera_, workshop_, size);
}

// Places of failing classes, the chosen class first.
void MarksPainter::collect(const QRect& view, bool moving) {
    spots_.clear();
    cuts_ = sectioning_.seen();
    // Places are those of what is kept, and so are their triangles.
    veil_ = workshop_.looks().shown() == workshop_.looks().kept() ? workshop_.veil().flags() : nullptr;
    if (!workshop_.looks().kept() || workshop_.trial().current() || workshop_.beforeAfter().held()) return;
    const auto chosen = workshop_.choice().chosenClass();
    if (chosen) collectOf(*chosen, view, moving);
    for (const check::DefectClass defect : workshop_.judging().failingClasses())
        if (defect != chosen && !defect->onlyWhenChosen) collectOf(defect, view, moving);
}

bool MarksPainter::isSeen(const check::Finding& f) const {
    const double along = f.position[workshop_.choice().axis()];
    const check::Findings& findings = workshop_.looks().kept()->survey->findings;
    if (const auto triangles = findings.trianglesOf(f); veil_ && !triangles.empty() && veil_->faint[triangles.front()])
        return false;
    // What a section took off takes its places with it.
    for (const session::SeenCut& cut : cuts_)
        if (!cut.leaves(f.position)) return false;
    const auto slab = workshop_.choice().slab();
    return !slab || slab->holds(along);
}

bool MarksPainter::isHidden(const Spot& spot, const check::Finding& f) const {
    const session::Display& display = *workshop_.looks().kept()->display;
    const Point origin = camera_.rayOrigin(spot.at);
    const auto hit = display.met(origin, camera_.direction(), workshop_.veil().faintOf(display));
    const double depth = camera_.direction().dot(f.position - origin);
    return hit && hit->along < depth - std::max(f.size, 0.005 * display.box.diagonal());
}

void MarksPainter::collectOf(check::DefectClass defect, const QRect& view, bool moving) {
    const auto& list = workshop_.looks().kept()->survey->findings.list;
    const auto chosen = workshop_.choice().chosenFinding();
    // The glyph of each cell of the screen.
    std::unordered_map<std::int64_t, std::size_t> cells;
    const auto cellOf = [](double x) { return static_cast<std::int64_t>(std::floor(x / gathers)); };
    const auto consider = [&](std::size_t i) {
        const check::Finding& f = list[i];
        if (f.defect != defect || !isSeen(f)) return;
        const QPointF at = camera_.toScreen(f.position);
        if (!view.contains(at.toPoint())) return;
        // The chosen place keeps a glyph of its own.
        if (chosen != i) {
            const auto [cell, fresh] =
                cells.try_emplace((cellOf(at.x()) << 32) ^ (cellOf(at.y()) & 0xFFFFFFFF), spots_.size());
            if (!fresh) {
                Spot& spot = spots_[cell->second];
                ++spot.count;
                spot.box.add(f.position);
                return;
            }
        }
        if (spots_.size() >= mostGlyphs) return;
        Spot spot{at, i, defect, false, chosen == i, 1, {f.position, f.position}};
        if (spots_.size() < mostRays && !moving) spot.hidden = isHidden(spot, f);
        spots_.push_back(spot);
    };
    if (chosen) consider(*chosen);
    // Of more than can be looked at some everywhere, not all in one corner.
    const std::size_t stride = list.size() / mostLookedAt + 1;
    const std::size_t first = spots_.size();
    for (std::size_t i = 0; i < list.size(); i += stride)
        if (chosen != i) consider(i);
    if (stride == 1) return;
    for (std::size_t k = first; k < spots_.size(); ++k) spots_[k].count *= stride;
}

const MarksPainter::Spot* MarksPainter::spotAt(const QPointF& at) const {
    const Spot* nearest = nullptr;
    for (const Spot& s : spots_)
        if ((s.at - at).manhattanLength() < (nearest ? (nearest->at - at).manhattanLength() : reach)) nearest = &s;
    return nearest;
}

std::optional<std::size_t> MarksPainter::findingAt(const QPointF& at) const {
    const Spot* spot = spotAt(at);
    return spot ? std::optional(spot->finding) : std::nullopt;
}

std::optional<mesh::Box> MarksPainter::gatheredAt(const QPointF& at) const {
    const Spot* spot = spotAt(at);
    return spot && spot->count > 1 ? std::optional(spot->box) : std::nullopt;
}

std::size_t MarksPainter::countAt(const QPointF& at) const {
    const Spot* spot = spotAt(at);
    return spot ? spot->count : 0;
}

// The chosen class strongly, others faintly; all fade while the view turns.
void MarksPainter::paintSpots(QPainter& painter, bool moving) const {
    const auto chosenClass = workshop_.choice().chosenClass();
    for (const Spot& s : spots_) {
        const QColor colour = workshop_.paper().inkOf(s.defect);
        const bool faint = chosenClass && chosenClass != s.defect;
        painter.setOpacity((s.hidden ? 0.4 : faint ? 0.45 : 1) * (moving && !s.chosen ? 0.35 : 1));
        drawGlyph(painter, s.defect->glyph, s.at,
                  {s.chosen ? 22.0
                   : faint  ? 10.0
                            : 14.0,
                   colour, workshop_.paper().raised});
        if (s.count > 1 && !faint) {
            painter.setFont(typeface(10, QFont::Bold));
            const QString count = session::spaced(s.count);
            const double width = painter.fontMetrics().horizontalAdvance(count) + 6;
            const QRectF badge(s.at.x() + 5, s.at.y() - 15, width, 13);
            painter.setPen(Qt::NoPen);
            painter.setBrush(workshop_.paper().sheet);
            painter.drawRoundedRect(badge, 6, 6);
            painter.setPen(colour);
            painter.drawText(badge, Qt::AlignCenter, count);
        }
        if (s.chosen) {
            painter.setPen(QPen(workshop_.paper().wood, 1.5));
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
            drawGlyph(painter, *sign.glyph, at, {14, sign.ink, workshop_.paper().raised});
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
    const double height = (legend.continuous ? 72 + rampHeight : 20) + noteHeight;
    const QRectF box(14, size.height() - heightOfSizes - 6 - height, 250, height);
    painter.setFont(typeface(11));
    const double words = painter.boundingRect(QRectF(0, 0, size.width(), height), Qt::AlignLeft, legend.note).width();
    drawPaper(painter, QRectF(box.left() - 8, box.top() - 4, std::max(box.width(), words) + 16, height),
              workshop_.paper().sheet);
    painter.setPen(workshop_.paper().ink);
    painter.setFont(typeface(12, QFont::DemiBold));
    painter.drawText(box.topLeft() + QPointF(0, 12), legend.title);
    painter.setFont(typeface(11));
    painter.setPen(workshop_.paper().quiet);
    if (!legend.note.isEmpty())
        painter.drawText(QRectF(box.left(), box.top() + 17, size.width() - 28, noteHeight + 4),
                         Qt::AlignLeft | Qt::AlignTop, legend.note);
    if (!legend.continuous || legend.histogram.empty()) return;
    const QRectF bars(box.left(), box.top() + noteHeight + 20, box.width(), 30);
    drawBars(painter, bars, legend.histogram, workshop_.paper().wood);
    // Which colour stands for which value.
    const auto& stops = session::rampStops();
    QLinearGradient ramp(bars.bottomLeft(), bars.bottomRight());
    if (coating_.coat().darkIsLow) ramp = QLinearGradient(bars.bottomRight(), bars.bottomLeft());
    for (std::size_t i = 0; i < stops.size(); ++i)
        ramp.setColorAt(static_cast<double>(i) / static_cast<double>(stops.size() - 1), stops[i]);
    painter.fillRect(QRectF(bars.left(), bars.bottom() + 1, bars.width(), rampHeight), ramp);
    painter.setPen(workshop_.paper().quiet);
    const double below = bars.bottom() + rampHeight + 14;
    painter.drawText(QPointF(bars.left(), below), workshop_.numbers().shortNumber(legend.low) + legend.unit);
    const QString high = workshop_.numbers().shortNumber(legend.high) + legend.unit;
    painter.drawText(QPointF(bars.right() - painter.fontMetrics().horizontalAdvance(high), below), high);
    if (coating_.coat().values.empty()) return;
    histogram_ = bars;
    paintPointed(painter);
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
    painter.setPen(QPen(workshop_.paper().spruce, 2));
    for (const double x : {left, right})
        painter.drawLine(QPointF(x, histogram_.top()), QPointF(x, histogram_.bottom() + 3));
    painter.drawLine(QPointF(left, histogram_.bottom() + 3), QPointF(right, histogram_.bottom() + 3));
    const QString said = workshop_.numbers().shortNumber(stretch_->first) + " \u2013 " +
                         workshop_.numbers().shortNumber(stretch_->second) + legend.unit;
    const double width = painter.fontMetrics().horizontalAdvance(said);
    painter.drawText(QPointF(histogram_.center().x() - width / 2, histogram_.bottom() + rampHeight + 14), said);
}

// The value under the pointer.
void MarksPainter::paintPointed(QPainter& painter) const {
    const session::Legend& legend = coating_.coat().legend;
    if (!pointed_ || stretch_ || *pointed_ >= coating_.coat().values.size() || !(legend.high > legend.low)) return;
    const double value = coating_.coat().values[*pointed_];
    if (std::isnan(value)) return;
    const double share = std::clamp((value - legend.low) / (legend.high - legend.low), 0.0, 1.0);
    const double x = histogram_.left() + share * histogram_.width();
    painter.setPen(QPen(workshop_.paper().ink, 1.4));
    painter.drawLine(QPointF(x, histogram_.top() - 2), QPointF(x, histogram_.bottom() + 2));
    painter.drawText(QPointF(x + 4, histogram_.top() + 6), workshop_.numbers().shortNumber(value) + legend.unit);
}

QRectF MarksPainter::rangeEnd(bool upper) const {
    if (histogram_.isEmpty()) return {};
    constexpr double width = 70;
    return {upper ? histogram_.right() - width : histogram_.left(), histogram_.bottom() + rampHeight + 2, width, 16};
}

double MarksPainter::valueAt(const QPointF& at) const {
    const session::Legend& legend = coating_.coat().legend;
    const double share = std::clamp((at.x() - histogram_.left()) / histogram_.width(), 0.0, 1.0);
    return legend.low + share * (legend.high - legend.low);
}

void MarksPainter::paintHints(QPainter& painter, const QSize& size) const {
    painter.setFont(typeface(11));
    QString hint = "hold Space: the import     S: cut open     N: next place     Ctrl+K: find";
    hint.prepend(workshop_.preferences().middleTurns() ? "turn: middle drag     pan: right drag     "
                                                       : "turn: right drag     pan: middle drag     ");
    if (workshop_.trial().current()) hint = "Preview. Keep it or drop it at the desk.";
    if (overHistogram_)
        hint =
            "drag: pick these     click a number: type another     wheel: narrower, wider     double-click: as it was";
    // Half a view has no room for them.
    const double length = painter.fontMetrics().horizontalAdvance(hint);
    if (besideSizes + length >= size.width()) return;
    drawPaper(painter, QRectF(besideSizes - 8, size.height() - 26, length + 16, 20), workshop_.paper().sheet);
    painter.setPen(workshop_.paper().quiet);
    painter.drawText(QPointF(besideSizes, size.height() - 12), hint);
}

QPointF MarksPainter::sectionHandle(const session::Sectioning::Cut& cut) const {
    const Point middle = workshop_.looks().shown()->display->box.centre();
    return camera_.toScreen(middle + (cut.plane.at - cut.plane.across.dot(middle)) * cut.plane.across);
}

std::optional<std::size_t> MarksPainter::cutAt(const QPointF& at) const {
    if (!workshop_.looks().shown()) return std::nullopt;
    for (std::size_t i = 0; i < sectioning_.cuts().size(); ++i)
        if ((sectionHandle(sectioning_.cuts()[i]) - at).manhattanLength() < reach) return i;
    return std::nullopt;
}

QPointF MarksPainter::alongSection() const {
    const Point p = workshop_.looks().shown()->display->box.centre();
    return camera_.toScreen(p + sectioning_.active()->plane.across) - camera_.toScreen(p);
}

void MarksPainter::paintSectionHandles(QPainter& painter) const {
    for (const session::Sectioning::Cut& cut : sectioning_.cuts()) {
        const bool active = &cut == sectioning_.active();
        const QPointF at = sectionHandle(cut);
        painter.setPen(QPen(workshop_.paper().wood, 2));
        if (active) {
            const QPointF along = alongSection();
            const double length = std::hypot(along.x(), along.y());
            constexpr double endOn = 1e-9;
            const QPointF unit = length > endOn ? along / length : QPointF();
            for (const double side : {-1.0, 1.0}) {
                const QPointF tip = at + side * 24 * unit;
                painter.drawLine(at + side * 10 * unit, tip);
                painter.drawLine(tip, tip - side * 6 * unit + 4 * QPointF(-unit.y(), unit.x()));
                painter.drawLine(tip, tip - side * 6 * unit - 4 * QPointF(-unit.y(), unit.x()));
            }
        }
        painter.setBrush(workshop_.paper().sheet);
        painter.drawEllipse(at, active ? 8 : 6, active ? 8 : 6);
    }
}

// What lies to the left was, what lies to the right is.
void MarksPainter::paintDivider(QPainter& painter, const QSize& size) const {
    const session::BeforeAfter& comparing = workshop_.beforeAfter();
    painter.setFont(typeface(12, QFont::DemiBold));
    const double y = comparing.sideBySide() ? 22 : size.height() - 34;
    if (comparing.held()) {
        painter.setPen(workshop_.paper().wood);
        painter.drawText(QPointF(besideSizes, y), comparing.display() ? "As it came in" : "Showing what it was …");
        return;
    }
    if (!comparing.other()) return;
    const double x = comparing.sideBySide() ? 0.5 : std::round(comparing.divider() * size.width()) + 0.5;
    painter.setPen(QPen(workshop_.paper().wood, 1.5));
    painter.drawLine(QPointF(x, 0), QPointF(x, size.height()));
    if (!comparing.sideBySide()) {
        painter.setBrush(workshop_.paper().raised);
        const QPointF grip(x, size.height() * 0.5);
        painter.drawEllipse(grip, 9, 9);
        for (const double side : {-1.0, 1.0})
            painter.drawPolyline(
                QPolygonF({grip + QPointF(2 * side, -3), grip + QPointF(5 * side, 0), grip + QPointF(2 * side, 3)}));
    }
    const QString was = comparing.nameOfOther();
    painter.drawText(QPointF(x - 12 - painter.fontMetrics().horizontalAdvance(was), y), was);
    painter.drawText(QPointF(x + 12, y), "now");
}

}  // namespace zither::desktop
