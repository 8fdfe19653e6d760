// The scale is true everywhere in the view: it is parallel.
#include "desktop/sizes.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "desktop/theme.h"
#include "session/reading/number_text.h"

namespace zither::desktop {

namespace {

constexpr double longestBar = 120;

void paintBar(QPainter& painter, const ScaleBar& bar, const session::Workshop& workshop, const QPointF& at) {
    const session::Paper& paper = workshop.paper();
    painter.setPen(QPen(paper.ink, 1.2));
    const QPointF end = at + QPointF(bar.pixels, 0);
    painter.drawLine(at, end);
    for (const QPointF& p : {at, end}) painter.drawLine(p + QPointF(0, -4), p + QPointF(0, 4));
    painter.setFont(typeface(11));
    painter.setPen(paper.quiet);
    const QString text = workshop.numbers().shortNumber(bar.length) + " " + workshop.parts().current()->unit().name;
    painter.drawText(QRectF(at.x() - 60, at.y() + 4, bar.pixels + 120, 15), Qt::AlignHCenter | Qt::AlignTop, text);
}

// A stroke for each axis, those that point away drawn first and thinner; a dot at the end of those that point at one.
void paintAxes(QPainter& painter, const session::Camera& camera, const session::Paper& paper, const QPointF& centre) {
    struct Stroke {
        QPointF to;
        double towards = 0;  // the eye
        QChar name;
        QColor ink;
    };
    const std::array<QColor, 3> inks = {paper.wood, paper.spruce, paper.ink};
    std::array<Stroke, 3> strokes;
    for (int axis = 0; axis < 3; ++axis) {
        const mesh::Point way = mesh::Point::Unit(axis);
        constexpr double length = 20;
        strokes[static_cast<std::size_t>(axis)] = {length * QPointF(camera.right().dot(way), -camera.up().dot(way)),
                                                   -camera.direction().dot(way), QChar("xyz"[axis]),
                                                   inks[static_cast<std::size_t>(axis)]};
    }
    std::sort(strokes.begin(), strokes.end(), [](const Stroke& a, const Stroke& b) { return a.towards < b.towards; });
    painter.setFont(typeface(10, QFont::DemiBold));
    for (const Stroke& s : strokes) {
        QColor ink = s.ink;
        if (s.towards < -0.3) ink.setAlphaF(0.45F);
        painter.setPen(QPen(ink, s.towards < 0 ? 1.4 : 2.2, Qt::SolidLine, Qt::RoundCap));
        painter.drawLine(centre, centre + s.to);
        const double length = std::hypot(s.to.x(), s.to.y());
        const QPointF beyond = length > 4 ? s.to * (1 + 9 / length) : QPointF(9, -9);
        painter.drawText(QRectF(centre + beyond - QPointF(8, 8), QSizeF(16, 16)), Qt::AlignCenter, s.name);
    }
}

}  // namespace

ScaleBar scaleBarOf(double worldPerPixel, double most) {
    const double longest = worldPerPixel * most;
    if (!(longest > 0) || !std::isfinite(longest)) return {};
    const double power = std::pow(10, std::floor(std::log10(longest)));
    for (const double times : {5.0, 2.0, 1.0})
        if (times * power <= longest) return {times * power, times * power / worldPerPixel};
    return {power, power / worldPerPixel};
}

void paintSizes(QPainter& painter, const session::Camera& camera, const session::Workshop& workshop,
                const QSize& size) {
    const ScaleBar bar = scaleBarOf(camera.worldPerPixel(), longestBar);
    drawPaper(painter, QRectF(6, size.height() - heightOfSizes, 82 + std::max(bar.pixels, 24.0), 62),
              workshop.paper().sheet);
    if (bar.length > 0) paintBar(painter, bar, workshop, QPointF(76, size.height() - 28));
    paintAxes(painter, camera, workshop.paper(), QPointF(36, size.height() - 34));
}

}  // namespace zither::desktop
