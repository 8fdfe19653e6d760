// Counts by their logarithms, many on the left; distances upwards, by their roots, so that small ones are told apart.
#include "desktop/trade_off_curve.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "desktop/theme.h"
#include "session/reading/number_text.h"

namespace zither::desktop {

namespace {
constexpr double top = 18;
constexpr double baseline = 78;
}  // namespace

TradeOffCurve::TradeOffCurve(session::DeskModel& desk, const steps::Step& step, double value, Scale scale)
    : desk_(desk), step_(step), value_(value), scale_(std::move(scale)) {
    setFixedHeight(96);
    setCursor(Qt::SizeHorCursor);
    setToolTip(
        "How far the surface would go for how few triangles, as found at some thousands of its points. Drag "
        "along it; the preview measures.");
    setAccessibleName("Triangles against distance");
    connect(&desk_, &session::DeskModel::curveChanged, this, &TradeOffCurve::refresh);
    refresh();
}

void TradeOffCurve::refresh() {
    curve_ = desk_.curve(step_);
    update();
}

void TradeOffCurve::setValue(double value) {
    value_ = value;
    update();
}

double TradeOffCurve::xOf(double value) const {
    if (!curve_ || curve_->size() < 2) return 0;
    const double high = std::log(curve_->front().value);
    const double low = std::log(curve_->back().value);
    return width() * std::clamp((high - std::log(std::max(value, 1e-6))) / (high - low), 0.0, 1.0);
}

double TradeOffCurve::valueAt(double x) const {
    const double high = std::log(curve_->front().value);
    const double low = std::log(curve_->back().value);
    return std::exp(high + (low - high) * std::clamp(x / width(), 0.0, 1.0));
}

// Between two points of the curve.
steps::Step::CurvePoint TradeOffCurve::at(double value) const {
    const session::DeskModel::Curve& c = *curve_;
    for (std::size_t i = 1; i < c.size(); ++i) {
        if (value < c[i].value && i + 1 < c.size()) continue;
        const double t = std::clamp((c[i - 1].value - value) / (c[i - 1].value - c[i].value), 0.0, 1.0);
        return {value, c[i - 1].count + t * (c[i].count - c[i - 1].count),
                c[i - 1].distance + t * (c[i].distance - c[i - 1].distance)};
    }
    return c.front();
}

void TradeOffCurve::paintEvent(QPaintEvent*) {
    const session::Paper& paper = desk_.preferences().paper();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(typeface(10));
    painter.setPen(paper.quiet);
    if (!curve_ || curve_->size() < 2) {
        painter.drawText(rect(), Qt::AlignCenter, curve_ ? "No fewer triangles are possible." : "Drawing the curve …");
        return;
    }
    const double most = std::sqrt(std::max(curve_->back().distance, 1e-300));
    const auto yOf = [&](double distance) { return baseline - (baseline - top) * std::sqrt(distance) / most; };
    QPolygonF line;
    for (const auto& p : *curve_) line << QPointF(xOf(p.value), yOf(p.distance));
    QPolygonF area = line;
    area << QPointF(line.back().x(), baseline) << QPointF(line.front().x(), baseline);
    QColor fill = paper.wood;
    fill.setAlphaF(0.25F);
    painter.setPen(Qt::NoPen);
    painter.setBrush(fill);
    painter.drawPolygon(area);
    painter.setPen(QPen(paper.wood, 1.6));
    painter.setBrush(Qt::NoBrush);
    painter.drawPolyline(line);
    painter.setPen(QPen(paper.line, 1));
    painter.drawLine(QPointF(0, baseline), QPointF(width(), baseline));
    if (scale_.limit > 0 && scale_.limit < curve_->back().distance) {
        painter.setPen(QPen(paper.fails, 1, Qt::DashLine));
        painter.drawLine(QPointF(0, yOf(scale_.limit)), QPointF(width(), yOf(scale_.limit)));
        const QString meaning = "above: counts as lost";
        // Where the handle is not, and above the line only where there is room.
        const double length = painter.fontMetrics().horizontalAdvance(meaning);
        const double left = xOf(value_) < width() / 2.0 ? width() - length - 4 : 4;
        const double y = yOf(scale_.limit);
        painter.drawText(QPointF(left, y - 3 > top + 8 ? y - 3 : y + 11), meaning);
    }
    painter.setPen(paper.quiet);
    painter.drawText(QPointF(0, baseline + 13), session::spaced(static_cast<std::uint64_t>(curve_->front().count)));
    const QString few = session::spaced(static_cast<std::uint64_t>(curve_->back().count));
    painter.drawText(QPointF(width() - painter.fontMetrics().horizontalAdvance(few), baseline + 13), few);
    const double x = xOf(value_);
    const auto here = at(value_);
    painter.setPen(QPen(paper.spruce, 2));
    painter.drawLine(QPointF(x, top - 4), QPointF(x, baseline + 3));
    painter.setBrush(paper.raised);
    painter.drawEllipse(QPointF(x, yOf(here.distance)), 3.5, 3.5);
    const QString said = QString("%1 triangles, about %2 %3 off")
                             .arg(session::spaced(static_cast<std::uint64_t>(std::llround(here.count))),
                                  desk_.preferences().numbers().shortNumber(here.distance), scale_.unit);
    const double length = painter.fontMetrics().horizontalAdvance(said);
    painter.setPen(paper.ink);
    painter.drawText(QPointF(std::clamp(x - length / 2, 0.0, width() - length), 10), said);
}

void TradeOffCurve::choose(double x) {
    if (!curve_ || curve_->size() < 2) return;
    // As many digits as one reads.
    const double value = valueAt(x);
    const double step = value > 10 ? 0.1 : 0.01;
    Q_EMIT chosen(std::round(value / step) * step);
}

void TradeOffCurve::mousePressEvent(QMouseEvent* event) {
    choose(event->position().x());
}

void TradeOffCurve::mouseMoveEvent(QMouseEvent* event) {
    if (event->buttons() & Qt::LeftButton) choose(event->position().x());
}

}  // namespace zither::desktop
