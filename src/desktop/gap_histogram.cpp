// A logarithmic histogram with the chosen value as a line to drag.
#include "desktop/gap_histogram.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "desktop/theme.h"
#include "session/reading/palette.h"
#include "session/reading/strings.h"

namespace zither::desktop {

namespace {

constexpr std::size_t binCount = 40;
constexpr double baseline = 34;

}  // namespace

GapHistogram::GapHistogram(std::vector<double> samples, double value, QString unit,
                           const session::Preferences& preferences)
    : preferences_(preferences), bins_(binCount, 0), value_(value), unit_(std::move(unit)) {
    setFixedHeight(52);
    setToolTip("The gaps found, narrow to wide. The line is the value; click to set it.");
    std::erase_if(samples, [](double s) { return !(s > 0); });
    if (samples.empty()) return;
    const auto [least, most] = std::minmax_element(samples.begin(), samples.end());
    low_ = std::log10(*least) - 0.2;
    high_ = std::log10(std::max(*most, value)) + 0.2;
    for (double s : samples) {
        const double x = (std::log10(s) - low_) / (high_ - low_);
        ++bins_[std::min(binCount - 1, static_cast<std::size_t>(x * binCount))];
    }
}

void GapHistogram::setValue(double value) {
    value_ = value;
    update();
}

double GapHistogram::xOf(double value) const {
    return value > 0 ? width() * std::clamp((std::log10(value) - low_) / (high_ - low_), 0.0, 1.0) : 0;
}

void GapHistogram::paintEvent(QPaintEvent*) {
    const session::Paper& paper = preferences_.paper();
    const session::Numbers numbers = preferences_.numbers();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    drawBars(painter, QRectF(0, 6, width(), baseline - 6), bins_, paper.wood);
    painter.setPen(QPen(paper.line, 1));
    painter.drawLine(QPointF(0, baseline), QPointF(width(), baseline));
    painter.setFont(typeface(10));
    painter.setPen(paper.quiet);
    const QString left = numbers.shortNumber(std::pow(10, low_));
    const QString right = numbers.shortNumber(std::pow(10, high_)) + " " + unit_;
    painter.drawText(QPointF(0, baseline + 13), left);
    painter.drawText(QPointF(width() - painter.fontMetrics().horizontalAdvance(right), baseline + 13), right);
    if (value_ > 0) {
        painter.setPen(QPen(paper.spruce, 2));
        painter.drawLine(QPointF(xOf(value_), 2), QPointF(xOf(value_), baseline + 3));
    }
}

void GapHistogram::mousePressEvent(QMouseEvent* event) {
    Q_EMIT chosen(std::pow(10, low_ + (high_ - low_) * event->position().x() / width()));
}

}  // namespace zither::desktop
