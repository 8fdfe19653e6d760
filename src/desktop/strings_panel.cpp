// Paints the rows of the model; drags become slabs, clicks become places.
#include "desktop/strings_panel.h"

#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "desktop/theme.h"

namespace zither::desktop {

namespace paper = session::paper;
using session::Mark;
using session::MarkState;
using session::StringRow;

namespace {
constexpr double titleHeight = 26;
// A string without marks is only read, and lower than others: the part has more room. So many others have their full
// height; the panel is as high however many there are, so that the view does not jump.
constexpr double rowHeight = 18;
constexpr double calmHeight = 13;
constexpr double roomForMarked = 6;
constexpr double nameWidth = 178;
constexpr double valueWidth = 172;
constexpr double dragStarts = 5;

bool isCalm(const StringRow& row) {
    return row.met && row.marks.empty();
}

}  // namespace

StringsPanel::StringsPanel(session::Workshop& workshop, QWidget* parent) : QWidget(parent), workshop_(workshop) {
    setObjectName("strings");
    setMouseTracking(true);
    connect(&workshop_.looks(), &session::Looks::changed, this, &StringsPanel::refresh);
    connect(&workshop_.judging(), &session::Judging::changed, this, &StringsPanel::refresh);
    connect(&workshop_.trial(), &session::Trial::changed, this, &StringsPanel::refresh);
    connect(&workshop_.choice(), &session::Choice::changed, this, &StringsPanel::refresh);
    refresh();
}

void StringsPanel::refresh() {
    rows_ = session::stringRows(workshop_);
    const auto count = static_cast<double>(rows_.size());
    const auto marked =
        static_cast<double>(rows_.size()) - static_cast<double>(std::count_if(rows_.begin(), rows_.end(), isCalm));
    const double room = (rowHeight - calmHeight) * std::min(roomForMarked, count);
    const double more = marked > 0 ? std::min(rowHeight - calmHeight, room / marked) : 0;
    const double rest = count > marked ? (room - more * marked) / (count - marked) : 0;
    tops_.assign(1, titleHeight);
    for (const StringRow& row : rows_) tops_.push_back(tops_.back() + calmHeight + (isCalm(row) ? rest : more));
    setFixedHeight(static_cast<int>(std::ceil(titleHeight + calmHeight * count + room + 8)));
    update();
}

QRectF StringsPanel::rowRect(std::size_t row) const {
    return {nameWidth, tops_[row], stringWidth(), tops_[row + 1] - tops_[row]};
}

double StringsPanel::stringWidth() const {
    return std::max(60.0, width() - nameWidth - valueWidth);
}

double StringsPanel::xOf(double along) const {
    return nameWidth + along * stringWidth();
}

double StringsPanel::alongAt(double x) const {
    return std::clamp((x - nameWidth) / stringWidth(), 0.0, 1.0);
}

double StringsPanel::worldAt(double along) const {
    const mesh::Box& box = workshop_.looks().kept()->survey->mass.size;
    const int axis = workshop_.choice().axis();
    return box.min[axis] + along * box.extent()[axis];
}

// ---- drawing

void StringsPanel::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), paper::ground);
    painter.setPen(paper::line);
    painter.drawLine(0, 0, width(), 0);
    painter.setFont(typeface(11, QFont::DemiBold));
    painter.setPen(paper::quiet);
    painter.drawText(QPointF(14, 17), "STRINGS");
    painter.setFont(typeface(11));
    if (workshop_.looks().kept()) {
        const int axis = workshop_.choice().axis();
        const double length = workshop_.looks().kept()->survey->mass.size.extent()[axis];
        painter.drawText(QPointF(74, 17),
                         QString("along %1 · %2 %3")
                             .arg(QChar("XYZ"[axis]))
                             .arg(session::shortNumber(length), workshop_.parts().current()->unit.name));
    }
    drawSlab(painter);
    for (std::size_t i = 0; i < rows_.size(); ++i) drawRow(painter, i);
}

void StringsPanel::drawSlab(QPainter& painter) const {
    if (!workshop_.looks().kept()) return;
    double from = 0;
    double to = 0;
    const mesh::Box& box = workshop_.looks().kept()->survey->mass.size;
    const int axis = workshop_.choice().axis();
    if (dragFrom_ && std::abs(*dragFrom_ - dragTo_) > dragStarts) {
        from = alongAt(std::min(*dragFrom_, dragTo_));
        to = alongAt(std::max(*dragFrom_, dragTo_));
    } else if (workshop_.choice().slab()) {
        from = (workshop_.choice().slab()->low - box.min[axis]) / box.extent()[axis];
        to = (workshop_.choice().slab()->high - box.min[axis]) / box.extent()[axis];
    } else {
        return;
    }
    const QRectF slab(QPointF(xOf(from), titleHeight - 4), QPointF(xOf(to), height() - 6));
    QColor fill = paper::spruce;
    fill.setAlphaF(0.16F);
    painter.fillRect(slab, fill);
    painter.setPen(QPen(paper::spruce, 1.5));
    painter.drawLine(slab.topLeft(), slab.bottomLeft());
    painter.drawLine(slab.topRight(), slab.bottomRight());
    painter.setFont(typeface(11, QFont::DemiBold));
    const QString text = QString("slab %1–%2 %3   Esc: whole part")
                             .arg(session::shortNumber(worldAt(from)), session::shortNumber(worldAt(to)),
                                  workshop_.parts().current()->unit.name);
    const double textWidth = painter.fontMetrics().horizontalAdvance(text);
    painter.drawText(QPointF(std::clamp(slab.center().x() - textWidth / 2, nameWidth, width() - textWidth - 10), 16),
                     text);
}

void StringsPanel::drawRow(QPainter& painter, std::size_t index) const {
    const StringRow& row = rows_[index];
    const QRectF rect = rowRect(index);
    const bool fails = !row.met;
    const bool chosen = row.defect && workshop_.choice().chosenClass() == row.defect;
    const QColor ink = row.sign ? row.sign->ink : paper::quiet;
    const double high = rect.height();
    const int size = isCalm(row) ? 11 : 12;
    if (chosen) painter.fillRect(QRectF(4, rect.top(), width() - 8, high), paper::chosen);
    if (row.sign)
        drawGlyph(painter, *row.sign->glyph, QPointF(20, rect.center().y()), {isCalm(row) ? 8.0 : 9.0, ink, fails});
    painter.setFont(typeface(size, fails || chosen ? QFont::DemiBold : QFont::Normal));
    painter.setPen(fails ? paper::ink : paper::quiet);
    painter.drawText(QRectF(34, rect.top(), nameWidth - 40, high), Qt::AlignVCenter, row.title);
    // The string itself: thick where it is out of tune.
    QColor line = fails ? ink : paper::line.darker(112);
    painter.setPen(QPen(line, fails ? 1.6 : 1));
    const double below = isCalm(row) ? std::floor(high / 2) + 0.5 : 4.5;
    painter.drawLine(QPointF(rect.left(), rect.bottom() - below), QPointF(rect.right(), rect.bottom() - below));
    drawMarks(painter, row, rect);
    painter.setFont(typeface(size, QFont::DemiBold));
    painter.setPen(fails ? ink : paper::spruce);
    painter.drawText(QRectF(rect.right() + 8, rect.top(), 62, high), Qt::AlignVCenter | Qt::AlignRight, row.value);
    painter.setFont(typeface(11));
    painter.setPen(paper::quiet);
    painter.drawText(QRectF(rect.right() + 78, rect.top(), 66, high), Qt::AlignVCenter, row.limit);
    painter.setPen(QPen(fails ? ink : paper::spruce, 1.6, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    const QPointF tick(width() - 20, rect.center().y());
    if (row.value.isEmpty() || row.noted) return;
    if (fails)
        painter.drawLine(tick + QPointF(-4, 0), tick + QPointF(4, 0));
    else
        painter.drawPolyline(QPolygonF({tick + QPointF(-4, 0), tick + QPointF(-1, 3), tick + QPointF(4, -4)}));
}

// Marks as tall as their size; dense places pile up into a denser, taller block.
void StringsPanel::drawMarks(QPainter& painter, const StringRow& row, const QRectF& rect) const {
    if (row.marks.empty() || !row.sign) return;
    const double base = rect.bottom() - 5;
    constexpr double lowest = 5;
    const double tallest = rect.height() - 5;
    std::vector<std::uint16_t> pile(static_cast<std::size_t>(std::max(1.0, rect.width() / 3)) + 1, 0);
    // Drawing more than one bar a pixel a few times over shows nothing more.
    constexpr std::uint16_t mostInPile = 6;
    for (const Mark& m : row.marks) {
        std::uint16_t& count = pile[static_cast<std::size_t>(m.at * (static_cast<double>(pile.size()) - 1))];
        if (count >= mostInPile) continue;
        ++count;
        const double h = std::min(tallest, lowest + 26 * std::sqrt(m.size) + 1.2 * (count - 1));
        const QRectF bar(xOf(m.at) - 1.5, base - h, 3, h);
        const bool chosen =
            row.defect && workshop_.choice().chosenFinding() == m.finding && m.state != MarkState::Comes;
        const QColor ink = !row.defect && m.state == MarkState::Comes ? session::sign::added.ink : row.sign->ink;
        if (m.state == MarkState::Goes) {
            painter.setPen(QPen(ink, 1));
            painter.setBrush(paper::ground);
            painter.drawRect(bar);
        } else {
            painter.fillRect(bar, ink);
        }
        if (m.state == MarkState::Comes) painter.fillRect(QRectF(bar.left() - 2, bar.top() - 2, 7, 2), ink);
        if (chosen) {
            painter.setPen(QPen(paper::wood, 1.5));
            painter.setBrush(Qt::NoBrush);
            painter.drawRect(bar.adjusted(-3, -2, 3, 2));
        }
    }
}

// ---- mouse

std::optional<std::size_t> StringsPanel::rowAt(double y) const {
    if (y < titleHeight) return std::nullopt;
    const auto after = std::upper_bound(tops_.begin(), tops_.end(), y);
    if (after == tops_.end()) return std::nullopt;
    return static_cast<std::size_t>(after - tops_.begin()) - 1;
}

std::optional<StringsPanel::Hit> StringsPanel::markAt(const QPointF& at) const {
    const auto row = rowAt(at.y());
    if (!row) return std::nullopt;
    std::optional<Hit> best;
    double nearest = 6;
    for (std::size_t i = 0; i < rows_[*row].marks.size(); ++i) {
        const Mark& m = rows_[*row].marks[i];
        const double d = std::abs(xOf(m.at) - at.x());
        if (d < nearest && (m.state != MarkState::Comes || !rows_[*row].defect)) {
            nearest = d;
            best = Hit{*row, i};
        }
    }
    return best;
}

const measure::LossPlace& StringsPanel::lossPlaceOf(const Hit& hit) const {
    const Mark& m = rows_[hit.row].marks[hit.mark];
    const measure::Loss& loss = *workshop_.looks().shown()->loss;
    return m.state == MarkState::Goes ? loss.lostPlaces[m.finding] : loss.addedPlaces[m.finding];
}

QString StringsPanel::tipOf(const Hit& hit) const {
    const Mark& m = rows_[hit.row].marks[hit.mark];
    const auto say = [&](const QString& what, double size, const mesh::Point& at) {
        return QString("%1, %2 %3 across, at %4, %5, %6")
            .arg(what, session::shortNumber(size), workshop_.parts().current()->unit.name, session::shortNumber(at.x()),
                 session::shortNumber(at.y()), session::shortNumber(at.z()));
    };
    if (!rows_[hit.row].defect) {
        const measure::LossPlace& place = lossPlaceOf(hit);
        return say(m.state == MarkState::Goes ? "Lost" : "Added", place.size, place.position);
    }
    const check::Finding& f = workshop_.looks().kept()->survey->findings.list[m.finding];
    return say(session::text(f.defect->name), f.size, f.position);
}

void StringsPanel::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton || !workshop_.looks().kept()) return;
    dragFrom_.reset();
    if (event->position().x() >= nameWidth && event->position().x() <= width() - valueWidth)
        dragFrom_ = event->position().x();
    dragTo_ = event->position().x();
}

void StringsPanel::mouseMoveEvent(QMouseEvent* event) {
    if (dragFrom_ && event->buttons() & Qt::LeftButton) {
        dragTo_ = event->position().x();
        update();
        return;
    }
    const auto hit = markAt(event->position());
    setCursor(hit ? Qt::PointingHandCursor : Qt::ArrowCursor);
    if (hit && workshop_.looks().kept()) {
        QToolTip::showText(event->globalPosition().toPoint(), tipOf(*hit), this);
    }
}

void StringsPanel::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    const std::optional<double> from = std::exchange(dragFrom_, std::nullopt);
    if (from && std::abs(*from - event->position().x()) > dragStarts) {
        const auto [a, b] = std::minmax({alongAt(*from), alongAt(event->position().x())});
        workshop_.choice().setSlab(session::Slab{worldAt(a), worldAt(b)});
        return;
    }
    if (const auto hit = markAt(event->position())) {
        if (rows_[hit->row].defect)
            workshop_.choice().chooseFinding(rows_[hit->row].marks[hit->mark].finding);
        else
            workshop_.choice().lookAt(lossPlaceOf(*hit).position, lossPlaceOf(*hit).size);
    } else if (const auto row = rowAt(event->position().y())) {
        if (rows_[*row].defect) workshop_.choice().chooseClass(rows_[*row].defect);
    }
    update();
}

}  // namespace zither::desktop
