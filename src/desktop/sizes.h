// A sense of size and of direction: a scale bar of a round length, and where the axes point.
#pragma once

#include <QPainter>

#include "session/state/camera.h"
#include "session/workshop.h"

namespace zither::desktop {

// What they take at the bottom left of the view, in pixels: what stands above begins there, and what stands beside.
inline constexpr double heightOfSizes = 68;
inline constexpr double besideSizes = 236;

// Lengths are those of the part in front.
void paintSizes(QPainter& painter, const session::Camera& camera, const session::Workshop& workshop, const QSize& size);

// The round length (1, 2 or 5 times a power of ten) nearest below so many pixels, and how many it takes.
struct ScaleBar {
    double length = 0;  // 0: there is none
    double pixels = 0;
};
ScaleBar scaleBarOf(double worldPerPixel, double most);

}  // namespace zither::desktop
