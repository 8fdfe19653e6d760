// What was measured, drawn where it was.
#pragma once

#include <QPainter>

#include "session/state/camera.h"
#include "session/workshop.h"

namespace zither::desktop {

void paintMeasured(QPainter& painter, const session::Workshop& workshop, const session::Camera& camera);

}  // namespace zither::desktop
