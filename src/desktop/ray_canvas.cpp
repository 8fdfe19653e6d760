// One frame at once; the samples that smooth it come one by one between events, so that nothing waits for them.
#include "desktop/ray_canvas.h"

#include <QElapsedTimer>
#include <QPainter>
#include <QResizeEvent>
#include <algorithm>
#include <array>
#include <cmath>

namespace zither::desktop {
namespace {

// Pixels of the screen to the side for each that is drawn.
constexpr std::array<double, 5> coarsenesses = {1, 1.5, 2, 3, 4};

}  // namespace

RayCanvas::RayCanvas(QWidget* parent) : QWidget(parent) {
    setAttribute(Qt::WA_TransparentForMouseEvents);
    setAttribute(Qt::WA_OpaquePaintEvent);
    smoothing_.setSingleShot(true);
    connect(&smoothing_, &QTimer::timeout, this, &RayCanvas::smooth);
}

void RayCanvas::show(session::Sight sight, bool moving) {
    sight_ = std::move(sight);
    moving_ = moving;
    stale_ = true;
    smoothing_.stop();
    update();
}

void RayCanvas::draw() {
    const double wanted = moving_ ? std::sqrt(fullFrameMs_ / pace_.frame) : 1;
    const auto enough = std::lower_bound(coarsenesses.begin(), coarsenesses.end() - 1, wanted);
    coarseness_ = *enough;
    QElapsedTimer timer;
    timer.start();
    const QSize all = pixels();
    const QSize drawn = (QSizeF(all) / coarseness_).toSize().expandedTo(QSize(1, 1));
    picture_ = session::imageOf(session::paintedByRays(sight_, drawn, {}, closeUps_));
    const double ms = static_cast<double>(timer.nsecsElapsed()) / 1e6;
    fullFrameMs_ = ms * coarseness_ * coarseness_;
    stale_ = false;
    samples_ = 0;
    if (!moving_ && sight_.display && ms < pace_.sample) smoothing_.start(0);
}

void RayCanvas::smooth() {
    const draw::Shift& shift = draw::smoothingShifts[static_cast<std::size_t>(samples_)];
    draw::Picture sample = session::paintedByRays(sight_, pixels(), {shift.x, shift.y}, closeUps_);
    if (samples_ == 0)
        sum_ = std::move(sample);
    else
        for (std::size_t i = 0; i < sum_.colours.size(); ++i) sum_.colours[i] += sample.colours[i];
    if (++samples_ < static_cast<int>(draw::smoothingShifts.size())) return smoothing_.start(0);
    for (draw::Colour& c : sum_.colours) c /= static_cast<float>(draw::smoothingShifts.size());
    picture_ = session::imageOf(sum_);
    sum_ = {};
    update();
}

void RayCanvas::paintEvent(QPaintEvent*) {
    if (stale_ || (coarseness_ == 1 && picture_.size() != pixels())) draw();
    QPainter painter(this);
    painter.setRenderHint(QPainter::SmoothPixmapTransform, coarseness_ > 1);
    painter.drawImage(rect(), picture_);
}

}  // namespace zither::desktop
