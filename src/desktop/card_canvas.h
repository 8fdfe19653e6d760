// Draws a sight with the graphics card.
#pragma once

#include <QOpenGLWidget>

#include "desktop/part_renderer.h"

namespace zither::desktop {

class CardCanvas : public QOpenGLWidget {
    Q_OBJECT
public:
    explicit CardCanvas(QWidget* parent);
    ~CardCanvas() override;

    // OpenGL is there and is not drawn by the processor.
    static bool isThere();

    void show(session::Sight sight);
    // Milliseconds of the last frame.
    [[nodiscard]] double frameMs() const { return frameMs_; }

protected:
    void initializeGL() override;
    void paintGL() override;

private:
    session::Sight sight_;
    PartRenderer renderer_;
    PartRenderer beside_;
    double frameMs_ = 0;
};

}  // namespace zither::desktop
