// The view of the part: shows it, turns it, and lets places be picked in it. A graphics card draws it where there is
// one that is quick enough, else rays do.
#pragma once

#include <QMouseEvent>
#include <QTimer>
#include <QVariantAnimation>
#include <QWidget>

#include "desktop/card_canvas.h"
#include "desktop/handle_tools.h"
#include "desktop/loupe_view.h"
#include "desktop/marks_painter.h"
#include "desktop/pointer_tools.h"
#include "desktop/ray_canvas.h"
#include "session/state/brushing.h"
#include "session/state/camera.h"
#include "session/workshop.h"

namespace zither::desktop {

class Viewport : public QWidget {
    Q_OBJECT
public:
    // `card`: draw with it where it is quick enough.
    Viewport(session::Workshop& workshop, session::DeskModel& desk, bool card = CardCanvas::isThere());

    [[nodiscard]] const session::Camera& camera() const { return camera_; }
    void fit();
    void lookFrom(session::Camera::View view);
    void setYUp(bool yUp);
    // By so many degrees, about the middle of what is seen; by a share of the view; and by a factor.
    void turn(double right, double down);
    void pan(double right, double down);
    void zoom(double factor);
    void setEdgesShown(bool shown);
    void setSeenThrough(bool through);
    void setRelief(bool relief);
    // So many pixels on the left lie under something: what is fitted stands beside.
    void setCovered(int pixels) { covered_ = pixels; }
    [[nodiscard]] const MarksPainter& marks() const { return marks_; }
    // The view as it is, in so many pixels for each of the screen.
    [[nodiscard]] QImage picture(double scale);
    [[nodiscard]] PointerTools& tools() { return tools_; }
    // Where a finding is drawn; for tests.
    [[nodiscard]] QPointF placeOnScreen(std::size_t finding) const;
    [[nodiscard]] bool drawsByRays() const;
    [[nodiscard]] const RayCanvas& rays() const { return *rays_; }
    // The handle that moves the active cut; for tests.
    [[nodiscard]] QPointF sectionHandle() const {
        return stage().topLeft() + marks_.sectionHandle(*workshop_.sectioning().active());
    }
    // What can be dragged, and how it lies on the screen.
    [[nodiscard]] const session::DragHandles& dragHandles() const { return dragHandles_; }
    [[nodiscard]] const HandleTools& handles() const { return handles_; }
    [[nodiscard]] const session::Brushing& brushing() const { return brushing_; }
    // Where the lens's histogram stands, to be dragged over; empty where there is none.
    [[nodiscard]] QRectF histogram() const { return marks_.histogram(); }
    // Where an end of it is written, to be clicked and typed over.
    [[nodiscard]] QRectF rangeEnd(bool upper) const { return marks_.rangeEnd(upper); }

protected:
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

private:
    // Glyphs, legend and hints: a widget over the picture, so that text is drawn as everywhere else in the window.
    class Overlay : public QWidget {
    public:
        explicit Overlay(Viewport& viewport);

    protected:
        void paintEvent(QPaintEvent* event) override;

    private:
        Viewport& viewport_;
    };

    [[nodiscard]] session::Sight sight() const;
    // Where the part in front is seen: all of the view, or the right half beside what it is compared with.
    [[nodiscard]] QRectF stage() const;
    // Pixels on its left that lie under something.
    [[nodiscard]] int coveredOfStage() const { return stage().left() > 0 ? 0 : covered_; }
    // The same place on the stage: what is pointed at in the left half is looked at from the same side.
    [[nodiscard]] QPointF onStage(const QPointF& at) const;
    [[nodiscard]] QMouseEvent onStage(const QMouseEvent& event) const;
    // A drag goes on beyond the middle: it stays in the half where it began.
    [[nodiscard]] QMouseEvent dragged(const QMouseEvent& event) const;
    void refresh();
    void onLookChanged();
    void flyToChosen();
    // True where another triangle is pointed at than before.
    bool pointAt(const QPointF& at);
    void flyTo(const session::Camera& target);
    void onCutsChanged();
    void moved();
    void paintBrush(QPainter& painter);
    // The end of the lens's range that is written there is typed over; false where none is.
    bool editRangeAt(const QPointF& at);
    [[nodiscard]] bool overHistogram(const QPointF& at) const;
    void zoomRange(double notches, const QPointF& at);
    // From the place to the loupe that shows it.
    void paintLead(QPainter& painter) const;
    // The picture follows the pointer: the next one must come soon.
    [[nodiscard]] bool isInHand() const;
    [[nodiscard]] mesh::Point normalAt(const check::Finding& finding) const;

    session::Workshop& workshop_;
    CardCanvas* card_ = nullptr;  // where there is one
    RayCanvas* rays_;
    Overlay* overlay_;
    LoupeView* loupe_;
    session::Camera camera_;
    QVariantAnimation flight_;
    std::vector<measure::Plane> planes_;  // of the cuts, as they were drawn last
    session::Camera flightFrom_;
    session::Camera flightTo_;
    QTimer settle_;  // after the camera came to rest, all pixels are drawn
    session::DragHandles dragHandles_;
    session::Brushing brushing_;
    MarksPainter marks_;
    HandleTools handles_;
    PointerTools tools_;
    QPointF pointer_;  // last seen
    bool wasOverHistogram_ = false;
    double dragOrigin_ = 0;  // where the half begins that a button was pressed in
    bool edges_ = true;
    bool seeThrough_ = false;
    bool relief_ = true;
    int covered_ = 0;
    bool moving_ = false;
    const session::Part* fittedPart_ = nullptr;
    mesh::Box shownBox_;  // of what was shown last
};

}  // namespace zither::desktop
