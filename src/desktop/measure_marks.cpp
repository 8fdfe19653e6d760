// Lines between points, with their numbers on a slip of paper.
#include "desktop/measure_marks.h"

#include "desktop/theme.h"

namespace zither::desktop {

void paintMeasured(QPainter& painter, const session::Workshop& workshop, const session::Camera& camera) {
    const session::Paper& paper = workshop.paper();
    const session::Measuring& measuring = workshop.measuring();
    painter.setFont(typeface(11, QFont::DemiBold));
    for (const session::Measured& m : measuring.all()) {
        QPolygonF line;
        QPointF middle;
        for (const mesh::Point& p : m.points) {
            line << camera.toScreen(p);
            middle += line.back() / static_cast<double>(m.points.size());
        }
        painter.setPen(QPen(paper.ink, 1.4));
        painter.setBrush(Qt::NoBrush);
        painter.drawPolyline(line);
        painter.setBrush(paper.raised);
        for (const QPointF& p : line) painter.drawEllipse(p, 3.5, 3.5);
        const QString text = measuring.text(m);
        const QSizeF size(painter.fontMetrics().horizontalAdvance(text) + 12, 18);
        const QRectF slip(middle + QPointF(9, -24), size);
        painter.setPen(QPen(paper.line, 1));
        painter.drawRoundedRect(slip, 4, 4);
        painter.setPen(paper.ink);
        painter.drawText(slip, Qt::AlignCenter, text);
    }
}

}  // namespace zither::desktop
