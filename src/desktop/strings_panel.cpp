// Paints the rows of the model; drags become slabs, clicks become places.
#include "desktop/strings_panel.h"

#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>
#include <utility>

#include "desktop/theme.h"

namespace zither::desktop {

using session::Mark;
using session::MarkState;
using session::StringRow;

namespace {
constexpr double titleHeight = 20;
constexpr double tallRow = 20;
constexpr double lowRow = 15;
// So much all that ring take together, at lowRow each where they are many.
constexpr double roomForRinging = 130;
constexpr double thinRow = 3;
constexpr double besideThin = 4;
constexpr double nameWidth = 150;
constexpr double valueWidth = 150;
constexpr double dragStarts = 5;

// It stands for a place of the part as it is kept.
bool isKept(const Mark& m) {
    return m.state == MarkState::Stays || m.state == MarkState::Goes;
}

QString inWords(std::size_t count) {
    static const QStringList words = {"none",  "one",   "two",  "three", "four",   "five",  "six",
                                      "seven", "eight", "nine", "ten",   "eleven", "twelve"};
    return count < static_cast<std::size_t>(words.size()) ? words[static_cast<qsizetype>(count)]
                                                          : QString::number(count);
}

}  // namespace

StringsPanel::StringsPanel(session::Workshop& workshop, QWidget* parent) : QWidget(parent), workshop_(workshop) {
    setObjectName("strings");
    setMouseTracking(true);
    connect(&workshop_.looks(), &session::Looks::changed, this, &StringsPanel::refresh);
    connect(&workshop_.judging(), &session::Judging::changed, this, &StringsPanel::refresh);
    connect(&workshop_.looks(), &session::Looks::heardAnother, this, &StringsPanel::refresh);
    connect(&workshop_.trial(), &session::Trial::changed, this, &StringsPanel::refresh);
    connect(&workshop_.beforeAfter(), &session::BeforeAfter::changed, this, [this] {
        // Dragging the divider changes nothing here.
        const auto other = workshop_.beforeAfter().display();
        if (std::exchange(comparedWith_, other) != other) refresh();
    });
    connect(&workshop_.choice(), &session::Choice::changed, this, &StringsPanel::refresh);
    connect(&workshop_.preferences(), &session::Preferences::changed, this, &StringsPanel::refresh);
    refresh();
}

void StringsPanel::refresh() {
    rows_ = session::stringRows(workshop_);
    hovered_.reset();
    layOut();
    update();
}

bool StringsPanel::rings(const StringRow& row) const {
    const bool changes =
        (workshop_.trial().current() || comparedWith_) &&
        std::any_of(row.marks.begin(), row.marks.end(), [](const Mark& m) { return m.state != MarkState::Stays; });
    return !row.met || changes || (row.defect && workshop_.choice().chosenClass() == row.defect);
}

bool StringsPanel::folded() const {
    return !workshop_.preferences().isShown(session::Preferences::Panel::Strings);
}

void StringsPanel::layOut() {
    places_.assign(rows_.size(), {});
    std::size_t ringing = 0;
    for (std::size_t i = 0; i < rows_.size(); ++i) {
        places_[i].thin = folded() || !rings(rows_[i]);
        if (!places_[i].thin) ++ringing;
    }
    const double height = std::clamp(
        std::floor(roomForRinging / static_cast<double>(std::max<std::size_t>(1, ringing))), lowRow, tallRow);
    double y = folded() ? 2 : titleHeight;
    for (Place& p : places_) {
        if (p.thin) continue;
        p.top = y;
        p.height = height;
        y += height;
    }
    const double first = y;
    if (ringing < rows_.size()) y += besideThin;
    for (Place& p : places_) {
        if (!p.thin) continue;
        p.top = y;
        p.height = thinRow;
        y += thinRow;
    }
    thin_ = QRectF(0, first, width(), y - first);
    setFixedHeight(static_cast<int>(std::ceil(y + besideThin)));
}

QRectF StringsPanel::rowRect(std::size_t row) const {
    return {nameWidth, places_[row].top, stringWidth(), places_[row].height};
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
    painter.fillRect(rect(), workshop_.paper().ground);
    painter.setPen(workshop_.paper().line);
    painter.drawLine(0, 0, width(), 0);
    if (!folded()) drawTitle(painter);
    drawSlab(painter);
    for (std::size_t i = 0; i < rows_.size(); ++i) places_[i].thin ? drawThin(painter, i) : drawRow(painter, i);
    drawThinNames(painter);
}

void StringsPanel::drawTitle(QPainter& painter) const {
    painter.setFont(typeface(11, QFont::DemiBold));
    painter.setPen(workshop_.paper().quiet);
    painter.drawText(QPointF(14, 15), "STRINGS");
    painter.setFont(typeface(11));
    if (!workshop_.looks().kept()) return;
    const int axis = workshop_.choice().axis();
    const double length = workshop_.looks().kept()->survey->mass.size.extent()[axis];
    painter.drawText(QPointF(74, 15),
                     QString("along %1 · %2 %3")
                         .arg(QChar("XYZ"[axis]))
                         .arg(workshop_.numbers().shortNumber(length), workshop_.parts().current()->unit().name));
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
    const QRectF slab(QPointF(xOf(from), folded() ? 1 : titleHeight - 4), QPointF(xOf(to), height() - 3));
    QColor fill = workshop_.paper().spruce;
    fill.setAlphaF(0.16F);
    painter.fillRect(slab, fill);
    painter.setPen(QPen(workshop_.paper().spruce, 1.5));
    painter.drawLine(slab.topLeft(), slab.bottomLeft());
    painter.drawLine(slab.topRight(), slab.bottomRight());
    if (folded()) return;
    painter.setFont(typeface(11, QFont::DemiBold));
    const QString text =
        QString("slab %1–%2 %3   Esc: whole part")
            .arg(workshop_.numbers().shortNumber(worldAt(from)), workshop_.numbers().shortNumber(worldAt(to)),
                 workshop_.parts().current()->unit().name);
    const double textWidth = painter.fontMetrics().horizontalAdvance(text);
    painter.drawText(QPointF(std::clamp(slab.center().x() - textWidth / 2, nameWidth, width() - textWidth - 10), 16),
                     text);
}

void StringsPanel::drawRow(QPainter& painter, std::size_t index) const {
    const StringRow& row = rows_[index];
    const QRectF rect = rowRect(index);
    const bool fails = !row.met;
    const bool chosen = row.defect && workshop_.choice().chosenClass() == row.defect;
    const QColor ink = row.sign ? row.sign->ink : workshop_.paper().quiet;
    const double high = rect.height();
    if (chosen) painter.fillRect(QRectF(4, rect.top(), width() - 8, high), workshop_.paper().chosen);
    if (row.sign)
        drawGlyph(painter, *row.sign->glyph, QPointF(20, rect.center().y()), {9, ink, workshop_.paper().raised, fails});
    painter.setFont(typeface(12, fails || chosen ? QFont::DemiBold : QFont::Normal));
    painter.setPen(fails ? workshop_.paper().ink : workshop_.paper().quiet);
    const QRectF name(32, rect.top(), nameWidth - 36, high);
    painter.drawText(name, Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(row.title, Qt::ElideRight, static_cast<int>(name.width())));
    // The string itself: thick where it is out of tune.
    painter.setPen(QPen(fails ? ink : workshop_.paper().line.darker(112), fails ? 1.6 : 1));
    painter.drawLine(QPointF(rect.left(), rect.bottom() - 4.5), QPointF(rect.right(), rect.bottom() - 4.5));
    drawMarks(painter, row, rect);
    painter.setFont(typeface(12, QFont::DemiBold));
    painter.setPen(fails ? ink : workshop_.paper().spruce);
    painter.drawText(QRectF(rect.right() + 6, rect.top(), 62, high), Qt::AlignVCenter | Qt::AlignRight, row.value);
    painter.setFont(typeface(11));
    painter.setPen(workshop_.paper().quiet);
    painter.drawText(QRectF(rect.right() + 78, rect.top(), 70, high), Qt::AlignVCenter, row.limit);
}

// A line, with a tick where something is noted; its name is told when it is pointed at.
void StringsPanel::drawThin(QPainter& painter, std::size_t index) const {
    const StringRow& row = rows_[index];
    const QRectF rect = rowRect(index);
    const bool pointedAt = hovered_ == index;
    const QColor ink = row.sign ? row.sign->ink : workshop_.paper().quiet;
    const double y = std::floor(rect.bottom()) - 0.5;
    painter.setPen(QPen(pointedAt || !row.met ? ink : workshop_.paper().line.darker(112), pointedAt ? 1.6 : 1));
    // A string that is still being listened to is dashed.
    if (row.listening) painter.setPen(QPen(workshop_.paper().wood, 1, Qt::DashLine));
    painter.drawLine(QPointF(rect.left(), y), QPointF(rect.right(), y));
    // More than one a pixel shows nothing more.
    std::vector<std::uint8_t> taken(static_cast<std::size_t>(rect.width()) + 1, 0);
    for (const Mark& m : row.marks) {
        std::uint8_t& there = taken[static_cast<std::size_t>(m.at * rect.width())];
        if (std::exchange(there, std::uint8_t{1}) == 0) painter.fillRect(QRectF(xOf(m.at) - 1, y - 3, 2, 3), ink);
    }
}

QString StringsPanel::thinSummary() const {
    std::size_t inTune = 0;
    std::size_t noted = 0;
    std::size_t out = 0;
    std::size_t listening = 0;
    for (std::size_t i = 0; i < rows_.size(); ++i) {
        const session::Looks& looks = workshop_.looks();
        if (!places_[i].thin || (!looks.kept() && !looks.listening())) continue;
        ++(rows_[i].listening ? listening : !rows_[i].met ? out : rows_[i].noted ? noted : inTune);
    }
    QStringList said;
    if (listening > 0) said << "listening to " + inWords(listening);
    if (out > 0) said << inWords(out) + " out";
    if (inTune > 0) said << inWords(inTune) + " in tune";
    if (noted > 0) said << inWords(noted) + " noted";
    return said.join(", ");
}

// What is pointed at, or all in a few words.
void StringsPanel::drawThinNames(QPainter& painter) const {
    if (thin_.height() <= besideThin) return;
    const QRectF name(32, thin_.top(), nameWidth - 36, thin_.height() + besideThin);
    painter.setFont(typeface(11));
    painter.setPen(workshop_.paper().quiet);
    if (!hovered_ || !places_[*hovered_].thin) {
        painter.drawText(name, Qt::AlignVCenter | Qt::TextWordWrap, thinSummary());
        return;
    }
    const StringRow& row = rows_[*hovered_];
    if (row.sign)
        drawGlyph(painter, *row.sign->glyph, QPointF(20, name.center().y()),
                  {9, row.sign->ink, workshop_.paper().raised});
    painter.setPen(workshop_.paper().ink);
    painter.drawText(name, Qt::AlignVCenter | Qt::TextWordWrap, row.title);
    painter.drawText(QRectF(width() - valueWidth + 6, name.top(), 62, name.height()), Qt::AlignVCenter | Qt::AlignRight,
                     row.value);
    painter.setPen(workshop_.paper().quiet);
    painter.drawText(QRectF(width() - valueWidth + 78, name.top(), 70, name.height()), Qt::AlignVCenter, row.limit);
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
        const bool chosen = row.defect && workshop_.choice().chosenFinding() == m.finding && isKept(m);
        const QColor ink = !row.defect && m.state == MarkState::Comes ? session::sign::added.ink : row.sign->ink;
        if (m.state == MarkState::Goes || m.state == MarkState::Was) {
            painter.setPen(QPen(m.state == MarkState::Was ? workshop_.paper().wood : ink, 1));
            painter.setBrush(workshop_.paper().ground);
            painter.drawRect(bar);
        } else {
            painter.fillRect(bar, ink);
        }
        if (m.state == MarkState::Comes) painter.fillRect(QRectF(bar.left() - 2, bar.top() - 2, 7, 2), ink);
        if (chosen) {
            painter.setPen(QPen(workshop_.paper().wood, 1.5));
            painter.setBrush(Qt::NoBrush);
            painter.drawRect(bar.adjusted(-3, -2, 3, 2));
        }
    }
}

// ---- mouse

std::optional<std::size_t> StringsPanel::rowAt(double y) const {
    for (std::size_t i = 0; i < places_.size(); ++i)
        if (y >= places_[i].top && y < places_[i].top + places_[i].height) return i;
    return std::nullopt;
}

std::optional<StringsPanel::Hit> StringsPanel::markAt(const QPointF& at) const {
    const auto row = rowAt(at.y());
    if (!row) return std::nullopt;
    std::optional<Hit> best;
    double nearest = 6;
    for (std::size_t i = 0; i < rows_[*row].marks.size(); ++i) {
        const Mark& m = rows_[*row].marks[i];
        const double d = std::abs(xOf(m.at) - at.x());
        if (d < nearest && (isKept(m) || !rows_[*row].defect)) {
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
        return QString("%1, %2 %3 across, at %4")
            .arg(what, workshop_.numbers().shortNumber(size), workshop_.parts().current()->unit().name,
                 workshop_.numbers().placeText(at));
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
    if (const auto row = rowAt(event->position().y()); row != std::exchange(hovered_, row)) update();
    const auto hit = markAt(event->position());
    setCursor(hit ? Qt::PointingHandCursor : Qt::ArrowCursor);
    if (hit && workshop_.looks().kept()) {
        QToolTip::showText(event->globalPosition().toPoint(), tipOf(*hit), this);
    }
}

void StringsPanel::leaveEvent(QEvent*) {
    hovered_.reset();
    update();
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
