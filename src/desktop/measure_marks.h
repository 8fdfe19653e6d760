// What was measured, drawn where it was.
#pragma once

#include <QPainter>

#include "session/state/camera.h"
#include "session/state/measuring.h"

namespace zither::desktop {

void paintMeasured(QPainter& painter, const session::Measuring& measuring, const session::Camera& camera);

}  // namespace zither::desktop
