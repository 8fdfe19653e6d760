// Draws a sight by rays on the processor: at full detail while the camera moves, with fewer pixels where a frame would
// take too long, and smoothed by four samples a pixel once it rests.
#pragma once

#include <QTimer>
#include <QWidget>

#include "session/reading/sight.h"

namespace zither::desktop {

class RayCanvas : public QWidget {
    Q_OBJECT
public:
    // In milliseconds.
    struct Pace {
        double frame = 60;    // so long may one take while the camera moves
        double sample = 250;  // one that takes longer would hold up the next click: the picture is not smoothed
    };

    explicit RayCanvas(QWidget* parent);

    void setPace(const Pace& pace) { pace_ = pace; }
    [[nodiscard]] const Pace& pace() const { return pace_; }
    void show(session::Sight sight, bool moving);
    // Milliseconds of the last frame in all pixels.
    [[nodiscard]] double fullFrameMs() const { return fullFrameMs_; }
    // Pixels of the screen to the side for each that was drawn of the last frame.
    [[nodiscard]] double coarseness() const { return coarseness_; }

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    void draw();
    void smooth();
    [[nodiscard]] QSize pixels() const { return size() * devicePixelRatioF(); }

    Pace pace_;
    session::Sight sight_;
    session::CloseUps closeUps_;
    QImage picture_;
    bool stale_ = true;
    bool moving_ = false;
    double coarseness_ = 1;
    double fullFrameMs_ = 0;
    QTimer smoothing_;
    draw::Picture sum_;  // of the samples so far
    int samples_ = 0;
};

}  // namespace zither::desktop
