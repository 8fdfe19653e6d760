// Triangles within an outline drawn on the view.
#pragma once

#include <QPolygonF>
#include <vector>

#include "session/state/camera.h"
#include "session/state/display.h"

namespace zither::session {

// Which triangles belong to an outline.
enum class Reach {
    Shown,    // those that show a pixel in it
    Seen,     // those too whose middle lies in it and is seen
    Through,  // also what is hidden
};

// Ids ascend. `unseen`: as of Display::met. Shown: as long as a picture of the outline takes; the others 0.2 s a
// million triangles more.
std::vector<mesh::TriangleId> trianglesWithin(const Display& display, const Camera& camera, const QPolygonF& outline,
                                              Reach reach, std::span<const std::uint8_t> unseen = {});

}  // namespace zither::session
