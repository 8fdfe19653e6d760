// The context, and how long a frame takes.
#include "desktop/card_canvas.h"

#include <QElapsedTimer>
#include <QOffscreenSurface>
#include <QOpenGLContext>
#include <QOpenGLFunctions>
#include <cmath>

namespace zither::desktop {

bool CardCanvas::isThere() {
    QOffscreenSurface surface;
    surface.create();
    QOpenGLContext context;
    if (!context.create() || !context.makeCurrent(&surface)) return false;
    const auto* name = reinterpret_cast<const char*>(context.functions()->glGetString(GL_RENDERER));
    const QString renderer = QString::fromLatin1(name).toLower();
    return !renderer.contains("llvmpipe") && !renderer.contains("softpipe") && !renderer.contains("swrast");
}

CardCanvas::CardCanvas(QWidget* parent) : QOpenGLWidget(parent) {
    setAttribute(Qt::WA_TransparentForMouseEvents);
    QSurfaceFormat format;
    format.setVersion(3, 3);
    format.setProfile(QSurfaceFormat::CoreProfile);
    format.setDepthBufferSize(24);
    format.setSamples(4);
    setFormat(format);
}

CardCanvas::~CardCanvas() {
    makeCurrent();
    renderer_.release();
    beside_.release();
    doneCurrent();
}

void CardCanvas::show(session::Sight sight) {
    sight_ = std::move(sight);
    update();
}

void CardCanvas::initializeGL() {
    renderer_.initialize();
    beside_.initialize();
}

void CardCanvas::paintGL() {
    QElapsedTimer timer;
    timer.start();
    if (sight_.beside) {
        const QSize pixels = size() * devicePixelRatioF();
        const bool apart = sight_.sideBySide;
        const int left = apart ? pixels.width() / 2 : static_cast<int>(std::lround(sight_.besideTo * pixels.width()));
        QOpenGLFunctions& gl = *context()->functions();
        gl.glEnable(GL_SCISSOR_TEST);
        gl.glScissor(0, 0, left, pixels.height());
        if (apart) gl.glViewport(0, 0, left, pixels.height());
        beside_.draw(session::sightOfBeside(sight_));
        gl.glScissor(left, 0, pixels.width() - left, pixels.height());
        if (apart) gl.glViewport(left, 0, pixels.width() - left, pixels.height());
        renderer_.draw(sight_);
        gl.glViewport(0, 0, pixels.width(), pixels.height());
        gl.glDisable(GL_SCISSOR_TEST);
    } else {
        renderer_.draw(sight_);
    }
    // Without waiting for the card the time would say nothing.
    context()->functions()->glFinish();
    frameMs_ = static_cast<double>(timer.nsecsElapsed()) / 1e6;
}

}  // namespace zither::desktop
