// The OpenGL view: camera, flights, the stand-in while turning. Marks and mouse have files of their own.
#include "desktop/viewport.h"

#include <QElapsedTimer>
#include <QMouseEvent>
#include <QOffscreenSurface>
#include <QOpenGLContext>
#include <QOpenGLFunctions>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>

#include "check/catalogue.h"
#include "desktop/theme.h"

namespace zither::desktop {

using mesh::Point;
using session::Camera;
namespace paper = session::paper;

namespace {
constexpr double slowFrameMs = 40;
constexpr int flightMs = 320;
constexpr int settleMs = 160;
// A part that takes long to draw waits until the hand rests.
constexpr double heavyFrameMs = 300;
constexpr int heavySettleMs = 700;

// Without a graphics card smoothing by samples would cost four times as much as the picture is worth.
bool drawsInSoftware() {
    QOffscreenSurface surface;
    surface.create();
    QOpenGLContext context;
    if (!context.create() || !context.makeCurrent(&surface)) return true;
    const auto* name = reinterpret_cast<const char*>(context.functions()->glGetString(GL_RENDERER));
    const QString renderer = QString::fromLatin1(name).toLower();
    return renderer.contains("llvmpipe") || renderer.contains("softpipe") || renderer.contains("swrast");
}
}  // namespace

Viewport::Overlay::Overlay(Viewport& viewport) : QWidget(&viewport), viewport_(viewport) {
    setAttribute(Qt::WA_TransparentForMouseEvents);
}

void Viewport::Overlay::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    viewport_.marks_.paint(painter, size(), viewport_.moving_);
}

Viewport::Viewport(session::Workshop& workshop, QWidget* parent)
    : QOpenGLWidget(parent),
      workshop_(workshop),
      overlay_(new Overlay(*this)),
      marks_(workshop, camera_, workshop.coating(), workshop.sectioning()),
      tools_(workshop, camera_, marks_) {
    setObjectName("viewport");
    setMinimumSize(320, 150);
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    QSurfaceFormat format;
    format.setVersion(3, 3);
    format.setProfile(QSurfaceFormat::CoreProfile);
    format.setDepthBufferSize(24);
    format.setSamples(drawsInSoftware() ? 0 : 4);
    setFormat(format);
    camera_.lookFrom(Camera::View::Iso);
    flight_.setDuration(flightMs);
    flight_.setStartValue(0.0);
    flight_.setEndValue(1.0);
    connect(&flight_, &QVariantAnimation::valueChanged, this, [this](const QVariant& t) {
        const QSizeF size = camera_.viewport();
        camera_ = Camera::between(flightFrom_, flightTo_, t.toDouble());
        camera_.setViewport(size);
        moved();
    });
    settle_.setSingleShot(true);
    connect(&settle_, &QTimer::timeout, this, [this] {
        moving_ = false;
        refresh();
    });
    connect(&workshop_.jobs(), &session::Jobs::changed, overlay_, qOverload<>(&QWidget::update));
    connect(&workshop_.looks(), &session::Looks::changed, this, &Viewport::onLookChanged);
    connect(&workshop_.choice(), &session::Choice::changed, this, &Viewport::refresh);
    connect(&workshop_.coating(), &session::Coating::changed, this, &Viewport::refresh);
    connect(&workshop_.sectioning(), &session::Sectioning::changed, this, &Viewport::refresh);
    connect(&workshop_.choice(), &session::Choice::placeChosen, this, &Viewport::flyToChosen);
    connect(&workshop_.choice(), &session::Choice::placeShown, this, [this](const mesh::Point& at, double size) {
        Camera target = camera_;
        target.flyTo(at, size, -camera_.direction());
        flyTo(target);
    });
}

Viewport::~Viewport() {
    makeCurrent();
    renderer_.release();
    doneCurrent();
}

void Viewport::initializeGL() {
    renderer_.initialize();
}

void Viewport::resizeGL(int width, int height) {
    camera_.setViewport(QSizeF(width, height));
    overlay_->resize(width, height);
}

void Viewport::refresh() {
    update();
    overlay_->update();
}

bool Viewport::drawsStandIn() const {
    const session::Look* look = workshop_.looks().shown();
    if (!look || look->display->standIn.empty()) return false;
    return look->display->corners.empty() || (moving_ && fullFrameMs_ > slowFrameMs);
}

// ---- what is seen

void Viewport::onLookChanged() {
    if (const session::Look* look = workshop_.looks().shown()) {
        camera_.setScene(look->display->box);
        // Another part is shown whole; another stop of the same part from where one stands.
        if (workshop_.parts().current() != fittedPart_) {
            fittedPart_ = workshop_.parts().current();
            camera_.lookFrom(Camera::View::Iso);
            camera_.fit(look->mesh());
            fullFrameMs_ = 0;
        }
    } else if (!workshop_.parts().current()) {
        fittedPart_ = nullptr;
    }
    refresh();
}

void Viewport::fit() {
    const session::Look* look = workshop_.looks().shown();
    if (!look) return;
    Camera target = camera_;
    target.fit(look->mesh());
    flyTo(target);
}

void Viewport::lookFrom(Camera::View view) {
    const session::Look* look = workshop_.looks().shown();
    if (!look) return;
    Camera target = camera_;
    target.lookFrom(view);
    target.fit(look->mesh());
    flyTo(target);
}

void Viewport::setEdgesShown(bool shown) {
    edges_ = shown;
    refresh();
}

void Viewport::flyTo(const Camera& target) {
    flightFrom_ = camera_;
    flightTo_ = target;
    flight_.stop();
    flight_.start();
}

Point Viewport::normalAt(const check::Finding& finding) const {
    const session::Look* look = workshop_.looks().kept();
    Point sum = Point::Zero();
    for (mesh::TriangleId t : look->survey->findings.trianglesOf(finding)) sum += mesh::areaVector(look->mesh(), t);
    return sum;
}

void Viewport::flyToChosen() {
    const session::Look* look = workshop_.looks().kept();
    if (!look || !workshop_.choice().chosenFinding()) return;
    const check::Finding& f = look->survey->findings.list[*workshop_.choice().chosenFinding()];
    Camera target = camera_;
    target.flyTo(f.position, f.size, normalAt(f));
    flyTo(target);
}

QPointF Viewport::placeOnScreen(std::size_t finding) const {
    return camera_.toScreen(workshop_.looks().kept()->survey->findings.list[finding].position);
}

void Viewport::moved() {
    moving_ = true;
    settle_.start(fullFrameMs_ > heavyFrameMs ? heavySettleMs : settleMs);
    refresh();
}

// ---- drawing

void Viewport::paintGL() {
    QElapsedTimer timer;
    timer.start();
    const session::Look* look = workshop_.looks().shown();
    renderer_.setDisplay(look ? look->display : nullptr);
    renderer_.setCoat(workshop_.coating().colours());
    DrawSettings settings;
    settings.viewProjection = camera_.viewProjection();
    settings.rotation = camera_.rotation();
    settings.standIn = drawsStandIn();
    settings.edges = edges_;
    settings.slabAxis = workshop_.choice().axis();
    settings.slab = workshop_.choice().slab();
    settings.chosen = workshop_.choice().chosenClass();
    settings.sectionAt = workshop_.sectioning().position();
    settings.sectionLeavesLow = workshop_.sectioning().position() && marks_.sectionLeavesLow();
    renderer_.setSection(workshop_.sectioning().section());
    renderer_.draw(settings);
    if (!settings.standIn && look) {
        // Without waiting for the card the time would say nothing.
        context()->functions()->glFinish();
        fullFrameMs_ = static_cast<double>(timer.nsecsElapsed()) / 1e6;
    }
}

// ---- mouse

void Viewport::mousePressEvent(QMouseEvent* event) {
    flight_.stop();
    tools_.press(*event);
    setFocus();
}

void Viewport::mouseMoveEvent(QMouseEvent* event) {
    if (tools_.move(*event)) moved();
}

void Viewport::mouseReleaseEvent(QMouseEvent* event) {
    tools_.release(*event);
}

void Viewport::mouseDoubleClickEvent(QMouseEvent* event) {
    if (event->button() == Qt::MiddleButton) fit();
    tools_.doubleClick(*event);
}

void Viewport::wheelEvent(QWheelEvent* event) {
    flight_.stop();
    if (tools_.wheel(*event)) moved();
}

}  // namespace zither::desktop
