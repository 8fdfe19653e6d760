// The view of the part: draws it, turns it, and lets places be picked in it.
#pragma once

#include <QOpenGLWidget>
#include <QTimer>
#include <QVariantAnimation>

#include "check/catalogue.h"
#include "desktop/marks_painter.h"
#include "desktop/part_renderer.h"
#include "desktop/pointer_tools.h"
#include "session/camera.h"
#include "session/workshop.h"

namespace zither::desktop {

class Viewport : public QOpenGLWidget {
    Q_OBJECT
public:
    explicit Viewport(session::Workshop& workshop, QWidget* parent = nullptr);
    ~Viewport() override;

    [[nodiscard]] const session::Camera& camera() const { return camera_; }
    void fit();
    void lookFrom(session::Camera::View view);
    void setEdgesShown(bool shown);
    // Where a finding is drawn; for tests and for the loupe.
    [[nodiscard]] QPointF placeOnScreen(std::size_t finding) const;
    // Milliseconds of the last drawing of the full part; beyond 40 the stand-in is used while the camera moves.
    [[nodiscard]] double fullFrameMs() const { return fullFrameMs_; }
    [[nodiscard]] bool drawsStandIn() const;
    // The handle that moves the section; for tests.
    [[nodiscard]] QPointF sectionHandle() const { return marks_.sectionHandle(); }

protected:
    void initializeGL() override;
    void resizeGL(int width, int height) override;
    void paintGL() override;
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

    void refresh();
    void onLookChanged();
    void flyToChosen();
    void flyTo(const session::Camera& target);
    void moved();
    [[nodiscard]] mesh::Point normalAt(const check::Finding& finding) const;

    session::Workshop& workshop_;
    Overlay* overlay_;
    session::Camera camera_;
    PartRenderer renderer_;
    QVariantAnimation flight_;
    session::Camera flightFrom_;
    session::Camera flightTo_;
    QTimer settle_;  // after the camera came to rest, the full part is drawn again
    MarksPainter marks_;
    PointerTools tools_;
    bool edges_ = true;
    bool moving_ = false;
    double fullFrameMs_ = 0;
    const session::Part* fittedPart_ = nullptr;
};

}  // namespace zither::desktop
