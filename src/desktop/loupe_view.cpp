// Drawn by rays: a few ten thousand pixels, whenever the place or the spread changes.
#include "desktop/loupe_view.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "desktop/theme.h"
#include "session/reading/number_text.h"

namespace zither::desktop {

LoupeView::LoupeView(session::Workshop& workshop, QWidget* parent) : QWidget(parent), workshop_(workshop) {
    setObjectName("loupe");
    setFixedSize(across, across + 34);
    setToolTip(
        "Drag sideways spreads what lies close together; the wheel goes nearer. N and B: next and previous place.");
    setAccessibleName("Loupe at the chosen place");
    connect(&workshop_.loupe(), &session::Loupe::changed, this, &LoupeView::refresh);
    refresh();
}

void LoupeView::refresh() {
    const session::Loupe& loupe = workshop_.loupe();
    setVisible(loupe.on() && loupe.place());
    if (!isVisibleTo(parentWidget())) return;
    const double pixels = devicePixelRatioF();
    const QSize size = QSize(across, across) * pixels;
    session::Sight sight = loupe.sight(across);
    sight.paper = &workshop_.paper();
    picture_ = session::imageOf(session::paintedByRays(sight, size, {}, closeUps_));
    picture_.setDevicePixelRatio(pixels);
    update();
}

void LoupeView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    QPainterPath round;
    round.addEllipse(QRectF(2, 2, across - 4, across - 4));
    painter.setClipPath(round);
    painter.drawImage(QPointF(0, 0), picture_);
    paintRings(painter);
    painter.setClipping(false);
    painter.setPen(QPen(workshop_.paper().wood, 2.5));
    painter.setBrush(Qt::NoBrush);
    painter.drawEllipse(QRectF(2, 2, across - 4, across - 4));
    paintWords(painter);
}

// At a third and two thirds of the way.
void LoupeView::paintRings(QPainter& painter) const {
    const QPointF centre(across / 2.0, across / 2.0);
    QColor ink = workshop_.paper().ink;
    ink.setAlphaF(0.28F);
    painter.setFont(typeface(10));
    for (const double share : {1 / 3.0, 2 / 3.0}) {
        painter.setPen(QPen(ink, 1, Qt::DotLine));
        painter.setBrush(Qt::NoBrush);
        const double radius = share * across / 2;
        painter.drawEllipse(centre, radius, radius);
        painter.setPen(workshop_.paper().ink);
        painter.drawText(centre + QPointF(4, -radius - 2),
                         workshop_.numbers().shortNumber(share * workshop_.loupe().radius()));
    }
    painter.setPen(QPen(workshop_.paper().wood, 1.4));
    painter.drawLine(centre - QPointF(5, 0), centre + QPointF(5, 0));
    painter.drawLine(centre - QPointF(0, 5), centre + QPointF(0, 5));
}

void LoupeView::paintWords(QPainter& painter) const {
    const session::Loupe& loupe = workshop_.loupe();
    const QString unit = workshop_.parts().current()->unit().name;
    QStringList said;
    const auto chosen = workshop_.choice().chosenFinding();
    const session::Look* kept = workshop_.looks().kept();
    if (chosen && kept) {
        const check::Finding& f = kept->survey->findings.list[*chosen];
        const auto places = workshop_.choice().places(f.defect);
        const auto at = std::find(places.begin(), places.end(), *chosen) - places.begin();
        said << QString("place %1 of %2").arg(at + 1).arg(places.size());
    }
    if (loupe.gap()) said << QString("gap %1 %2").arg(workshop_.numbers().shortNumber(*loupe.gap()), unit);
    if (loupe.spread() > 0) said << "spread";
    painter.setFont(typeface(11, QFont::DemiBold));
    painter.setPen(workshop_.paper().ink);
    painter.drawText(QRectF(0, across + 1, across, 16), Qt::AlignCenter, said.join(" · "));
    painter.setFont(typeface(11));
    painter.setPen(workshop_.paper().quiet);
    painter.drawText(QRectF(0, across + 17, across, 16), Qt::AlignCenter,
                     "at " + workshop_.numbers().placeText(*loupe.place()));
}

void LoupeView::mousePressEvent(QMouseEvent* event) {
    last_ = event->position();
}

void LoupeView::mouseMoveEvent(QMouseEvent* event) {
    if (!(event->buttons() & Qt::LeftButton)) return;
    workshop_.loupe().setSpread(workshop_.loupe().spread() + (event->position().x() - last_.x()) / across);
    last_ = event->position();
}

void LoupeView::wheelEvent(QWheelEvent* event) {
    workshop_.loupe().zoom(std::pow(1.0015, event->angleDelta().y()));
}

}  // namespace zither::desktop
