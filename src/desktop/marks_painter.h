// What is painted over the part: glyphs at the places of defects, the legend of the lens, the handle of the section,
// the line between what was and what is, hints.
#pragma once

#include <QPainter>
#include <QPointF>
#include <QRect>
#include <optional>
#include <utility>
#include <vector>

#include "session/state/camera.h"
#include "session/workshop.h"

namespace zither::desktop {

// Keeps references to the workshop and the camera.
class MarksPainter {
public:
    MarksPainter(const session::Workshop& workshop, const session::Camera& camera, const session::Coating& coating,
                 const session::Sectioning& sectioning)
        : workshop_(workshop), camera_(camera), coating_(coating), sectioning_(sectioning) {}

    // `moving`: while the camera moves nothing is asked about what is hidden.
    void paint(QPainter& painter, const QSize& size, bool moving);

    // The same without what is only for whoever sits before it.
    void paintForPicture(QPainter& painter, const QSize& size);
    // The triangle that the pointer is over: its value is marked on the histogram.
    // Returns whether it was another one.
    bool pointAt(std::optional<mesh::TriangleId> triangle) { return std::exchange(pointed_, triangle) != triangle; }

    // The finding whose glyph is within reach of a point of the view; nothing where there is none.
    [[nodiscard]] std::optional<std::size_t> findingAt(const QPointF& at) const;
    // What a glyph stands for that gathers several: the box around their places; nothing where there is none.
    [[nodiscard]] std::optional<mesh::Box> gatheredAt(const QPointF& at) const;
    // How many places a glyph stands for, for tests: 0 where there is none.
    [[nodiscard]] std::size_t countAt(const QPointF& at) const;

    // Where the lens's histogram stands; empty where there is none.
    [[nodiscard]] const QRectF& histogram() const { return histogram_; }
    // Where its lower and its upper end are written.
    [[nodiscard]] QRectF rangeEnd(bool upper) const;
    // The pointer is over it: what it is for is said.
    void pointAtHistogram(bool over) { overHistogram_ = over; }
    // The value at a place of it, held between its ends.
    [[nodiscard]] double valueAt(const QPointF& at) const;
    // A stretch of it that is being chosen, drawn over it; none.
    void markStretch(std::optional<std::pair<double, double>> stretch) { stretch_ = stretch; }

    // The handle that moves a cut.
    [[nodiscard]] QPointF sectionHandle(const session::Sectioning::Cut& cut) const;
    // The cut whose handle is within reach of a point of the view; nothing where there is none.
    [[nodiscard]] std::optional<std::size_t> cutAt(const QPointF& at) const;
    // Pixels on the screen that a unit across the active cut takes.
    [[nodiscard]] QPointF alongSection() const;

private:
    struct Spot {
        QPointF at;
        std::size_t finding = 0;
        check::DefectClass defect;
        bool hidden = false;  // behind the surface
        bool chosen = false;
        std::size_t count = 1;  // places that it stands for
        mesh::Box box = {};     // around them
    };

    void paintPlaces(QPainter& painter, const QSize& size, bool moving);
    void collect(const QRect& view, bool moving);
    // Places that would overlap gather in one.
    void collectOf(check::DefectClass defect, const QRect& view, bool moving);
    [[nodiscard]] const Spot* spotAt(const QPointF& at) const;
    [[nodiscard]] bool isSeen(const check::Finding& f) const;
    [[nodiscard]] bool isHidden(const Spot& spot, const check::Finding& f) const;
    void paintSpots(QPainter& painter, bool moving) const;
    void paintLoss(QPainter& painter, const QRect& view) const;
    void paintLegend(QPainter& painter, const QSize& size);
    void paintStretch(QPainter& painter) const;
    void paintPointed(QPainter& painter) const;
    void paintHints(QPainter& painter, const QSize& size) const;
    void paintSectionHandles(QPainter& painter) const;
    void paintDivider(QPainter& painter, const QSize& size) const;

    const session::Workshop& workshop_;
    const session::Camera& camera_;
    const session::Coating& coating_;
    const session::Sectioning& sectioning_;
    std::vector<Spot> spots_;
    // What takes places away.
    std::vector<session::SeenCut> cuts_;
    std::shared_ptr<const session::Veil::Flags> veil_;
    QRectF histogram_;
    std::optional<std::pair<double, double>> stretch_;  // of values
    std::optional<mesh::TriangleId> pointed_;
    bool overHistogram_ = false;
};

}  // namespace zither::desktop
