// Large triangles are found by the pixels that show them, small ones by their middles.
#include "session/state/outline.h"

#include <QImage>
#include <QPainter>
#include <atomic>
#include <cmath>

#include "mesh/parallel.h"
#include "session/reading/sight.h"

namespace zither::session {

using mesh::Point;
using mesh::TriangleId;

namespace {

// Which pixels lie within an outline.
class Stencil {
public:
    explicit Stencil(const QPolygonF& outline)
        : box_(outline.boundingRect().toAlignedRect().adjusted(-1, -1, 1, 1)),
          pixels_(box_.size(), QImage::Format_Grayscale8) {
        pixels_.fill(Qt::black);
        QPainter painter(&pixels_);
        painter.translate(-box_.topLeft());
        painter.setPen(Qt::white);
        painter.setBrush(Qt::white);
        painter.drawPolygon(outline);
    }
    [[nodiscard]] const QRect& box() const { return box_; }
    [[nodiscard]] bool holds(const QPointF& at) const {
        const QPoint p(static_cast<int>(std::floor(at.x())), static_cast<int>(std::floor(at.y())));
        if (!box_.contains(p)) return false;
        const QPoint local = p - box_.topLeft();
        return pixels_.constScanLine(local.y())[local.x()] > 127;
    }

private:
    QRect box_;
    QImage pixels_;
};

}  // namespace

std::vector<TriangleId> trianglesWithin(const Display& display, const Camera& camera, const QPolygonF& outline,
                                        Reach reach, std::span<const std::uint8_t> unseen) {
    const mesh::Mesh& m = display.mesh();
    // No larger than the view: a drag may leave it.
    const QPolygonF inView = outline.intersected(QPolygonF(QRectF(QPointF(0, 0), camera.viewport())));
    std::vector<std::uint8_t> in(m.triangles.size(), 0);
    if (inView.isEmpty() || m.triangles.empty()) return {};
    const Stencil stencil(inView);
    mesh::parallelFor(static_cast<std::size_t>(stencil.box().height()), 4, [&](std::size_t row) {
        for (int x = stencil.box().left(); x <= stencil.box().right(); ++x) {
            const QPointF at(x + 0.5, stencil.box().top() + static_cast<int>(row) + 0.5);
            if (!stencil.holds(at)) continue;
            if (const auto pointed = pointedAt(display, camera, at, unseen))
                std::atomic_ref<std::uint8_t>(in[pointed->triangle]).store(1, std::memory_order_relaxed);
        }
    });
    const double hair = 1e-4 * display.box.diagonal();
    const std::size_t looked = reach == Reach::Shown ? 0 : in.size();
    mesh::parallelFor(looked, 1024, [&](std::size_t i) {
        const TriangleId t(static_cast<std::uint32_t>(i));
        if (!unseen.empty() && unseen[i]) return;
        const Point middle = mesh::centroid(m, t);
        const QPointF at = camera.toScreen(middle);
        if (!stencil.holds(at)) return;
        bool seen = reach == Reach::Through;
        if (!seen) {
            const Point eye = camera.rayOrigin(at);
            const auto met = display.met(eye, camera.direction(), unseen);
            seen = met && (met->triangle == t || met->along > camera.direction().dot(middle - eye) - hair);
        }
        if (seen) std::atomic_ref<std::uint8_t>(in[i]).store(1, std::memory_order_relaxed);
    });
    std::vector<TriangleId> all;
    for (TriangleId t = 0; t < in.size(); ++t)
        if (in[t]) all.push_back(t);
    return all;
}

}  // namespace zither::session
