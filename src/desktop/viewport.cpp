#include "desktop/viewport.h"

#include <QElapsedTimer>
#include <QMouseEvent>
#include <QOffscreenSurface>
#include <QOpenGLContext>
#include <QOpenGLFunctions>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "check/catalogue.h"
#include "desktop/theme.h"
#include "session/strings.h"

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
    viewport_.drawOverlay(painter);
}

Viewport::Viewport(session::Workshop& workshop, QWidget* parent)
    : QOpenGLWidget(parent), workshop_(workshop), overlay_(new Overlay(*this)) {
    setObjectName("viewport");
    setMinimumSize(320, 240);
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
    connect(&workshop_, &session::Workshop::lookChanged, this, &Viewport::onLookChanged);
    connect(&workshop_, &session::Workshop::choiceChanged, this, &Viewport::refresh);
    connect(&workshop_, &session::Workshop::coatChanged, this, &Viewport::refresh);
    connect(&workshop_, &session::Workshop::sectionChanged, this, &Viewport::refresh);
    connect(&workshop_, &session::Workshop::placeChosen, this, &Viewport::flyToChosen);
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
    const session::Look* look = workshop_.shown();
    return moving_ && fullFrameMs_ > slowFrameMs && look && !look->display->standIn.empty();
}

// ---- what is seen

void Viewport::onLookChanged() {
    if (const session::Look* look = workshop_.shown()) {
        camera_.setScene(look->display->box);
        // Another part is shown whole; another stop of the same part from where one stands.
        if (workshop_.current() != fittedPart_) {
            fittedPart_ = workshop_.current();
            camera_.lookFrom(Camera::View::Iso);
            camera_.fit(*look->mesh);
            fullFrameMs_ = 0;
        }
    } else if (!workshop_.current()) {
        fittedPart_ = nullptr;
    }
    refresh();
}

void Viewport::fit() {
    const session::Look* look = workshop_.shown();
    if (!look) return;
    Camera target = camera_;
    target.fit(*look->mesh);
    flyTo(target);
}

void Viewport::lookFrom(Camera::View view) {
    const session::Look* look = workshop_.shown();
    if (!look) return;
    Camera target = camera_;
    target.lookFrom(view);
    target.fit(*look->mesh);
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
    const session::Look* look = workshop_.kept();
    Point sum = Point::Zero();
    for (mesh::TriangleId t : look->survey->findings.trianglesOf(finding)) sum += mesh::areaVector(*look->mesh, t);
    return sum;
}

void Viewport::flyToChosen() {
    const session::Look* look = workshop_.kept();
    if (!look || !workshop_.chosenFinding()) return;
    const check::Finding& f = look->survey->findings.list[*workshop_.chosenFinding()];
    Camera target = camera_;
    target.flyTo(f.position, f.size, normalAt(f));
    flyTo(target);
}

QPointF Viewport::placeOnScreen(std::size_t finding) const {
    return camera_.toScreen(workshop_.kept()->survey->findings.list[finding].position);
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
    const session::Look* look = workshop_.shown();
    renderer_.setDisplay(look ? look->display : nullptr);
    renderer_.setCoat(workshop_.colours());
    DrawSettings settings;
    settings.viewProjection = camera_.viewProjection();
    settings.rotation = camera_.rotation();
    settings.standIn = drawsStandIn();
    settings.edges = edges_;
    settings.slabAxis = workshop_.axis();
    settings.slab = workshop_.slab();
    settings.chosen = workshop_.chosenClass();
    settings.sectionAt = workshop_.sectionPosition();
    settings.sectionLeavesLow = sectionLeavesLow();
    renderer_.setSection(workshop_.section());
    renderer_.draw(settings);
    if (!settings.standIn && look) {
        // Without waiting for the card the time would say nothing.
        context()->functions()->glFinish();
        fullFrameMs_ = static_cast<double>(timer.nsecsElapsed()) / 1e6;
    }
}

void Viewport::drawOverlay(QPainter& painter) {
    painter.setRenderHint(QPainter::Antialiasing);
    if (!workshop_.current() && !workshop_.jobs().busy()) {
        drawEmpty(painter);
        return;
    }
    collectSpots();
    drawSpots(painter);
    if (workshop_.sectionPosition() && workshop_.shown()) drawSectionHandle(painter);
    drawLegend(painter);
    drawHints(painter);
}

// Places of failing classes, thinned so that glyphs do not pile up.
void Viewport::collectSpots() {
    spots_.clear();
    const session::Look* look = workshop_.kept();
    if (!look || workshop_.currentPreview()) return;
    std::vector<check::DefectClass> classes = workshop_.failingClasses();
    if (const auto chosen = workshop_.chosenClass()) {
        std::erase(classes, *chosen);
        classes.insert(classes.begin(), *chosen);
    }
    const auto slab = workshop_.slab();
    const int axis = workshop_.axis();
    const auto section = workshop_.sectionPosition();
    const auto inSlab = [&](const check::Finding& f) {
        // What a section took off takes its places with it.
        if (section && (f.position[axis] > *section) == sectionLeavesLow()) return false;
        return !slab || (f.position[axis] >= slab->low && f.position[axis] <= slab->high);
    };
    constexpr double apart = 15;
    constexpr std::size_t mostGlyphs = 500;
    constexpr std::size_t mostRays = 120;
    for (check::DefectClass defect : classes) {
        if (defect == check::shells && workshop_.chosenClass() != defect) continue;
        for (std::size_t i = 0; i < look->survey->findings.list.size() && spots_.size() < mostGlyphs; ++i) {
            const check::Finding& f = look->survey->findings.list[i];
            if (f.defect != defect || !inSlab(f)) continue;
            Spot spot{camera_.toScreen(f.position), i, defect, false, workshop_.chosenFinding() == i};
            if (!rect().contains(spot.at.toPoint())) continue;
            const bool crowded = std::any_of(spots_.begin(), spots_.end(), [&](const Spot& s) {
                return s.defect == defect && (s.at - spot.at).manhattanLength() < apart;
            });
            if (crowded && !spot.chosen) continue;
            if (spots_.size() < mostRays && !moving_) {
                const Point origin = camera_.rayOrigin(spot.at);
                const auto hit = look->display->tree->firstHit(origin, camera_.direction());
                const double depth = camera_.direction().dot(f.position - origin);
                spot.hidden = hit && hit->t < depth - std::max(f.size, 0.005 * look->display->box.diagonal());
            }
            spots_.push_back(spot);
        }
    }
}

void Viewport::drawSpots(QPainter& painter) const {
    for (const Spot& s : spots_) {
        const session::Ink& ink = session::inkOf(s.defect);
        QColor colour = ink.colour;
        const bool faint = workshop_.chosenClass() && workshop_.chosenClass() != s.defect;
        colour.setAlphaF(s.hidden ? 0.35F : faint ? 0.55F : 1.0F);
        painter.setOpacity(s.hidden ? 0.5 : 1);
        drawGlyph(painter, ink.glyph, s.at, s.chosen ? 22 : 14, colour);
        if (s.chosen) {
            painter.setPen(QPen(paper::wood, 1.5));
            painter.setBrush(Qt::NoBrush);
            painter.drawEllipse(s.at, 19, 19);
        }
    }
    painter.setOpacity(1);
}

void Viewport::drawLegend(QPainter& painter) const {
    const session::Legend& legend = workshop_.coat().legend;
    if (legend.title.isEmpty()) return;
    const auto lines = static_cast<double>(legend.note.isEmpty() ? 0 : 1 + legend.note.count('\n'));
    const double noteHeight = 16 * lines;
    const QRectF box(14, height() - (legend.continuous ? 92 : 46) - noteHeight, 250, 66);
    painter.setPen(paper::ink);
    painter.setFont(typeface(12, QFont::DemiBold));
    painter.drawText(box.topLeft() + QPointF(0, 12), legend.title);
    painter.setFont(typeface(11));
    painter.setPen(paper::quiet);
    if (!legend.note.isEmpty())
        painter.drawText(QRectF(box.left(), box.top() + 17, width() - 28, noteHeight + 4), Qt::AlignLeft | Qt::AlignTop,
                         legend.note);
    if (!legend.continuous || legend.histogram.empty()) return;
    painter.translate(0, noteHeight);
    drawBars(painter, QRectF(box.left(), box.top() + 20, box.width(), 30), legend.histogram);
    painter.drawText(QPointF(box.left(), box.top() + 64), session::shortNumber(legend.low) + legend.unit);
    const QString high = session::shortNumber(legend.high) + legend.unit;
    painter.drawText(QPointF(box.right() - painter.fontMetrics().horizontalAdvance(high), box.top() + 64), high);
    painter.translate(0, -noteHeight);
}

void Viewport::drawHints(QPainter& painter) const {
    painter.setFont(typeface(11));
    painter.setPen(paper::quiet);
    QString hint =
        "pick: click, Shift adds     turn: right drag     pan: middle drag     zoom: wheel     next place: N     "
        "commands: Ctrl+K";
    if (workshop_.currentPreview()) hint = "Preview. Keep it or drop it at the desk.";
    painter.drawText(QPointF(14, height() - 12), hint);
}

// What is nearer to the eye is taken off.
bool Viewport::sectionLeavesLow() const {
    return camera_.direction()[workshop_.axis()] < 0;
}

QPointF Viewport::sectionHandle() const {
    Point p = workshop_.shown()->display->box.centre();
    p[workshop_.axis()] = *workshop_.sectionPosition();
    return camera_.toScreen(p);
}

QPointF Viewport::alongSection() const {
    const Point p = workshop_.shown()->display->box.centre();
    return camera_.toScreen(p + Point::Unit(workshop_.axis())) - camera_.toScreen(p);
}

void Viewport::drawSectionHandle(QPainter& painter) const {
    const QPointF at = sectionHandle();
    const QPointF along = alongSection();
    const double length = std::hypot(along.x(), along.y());
    if (length > 1e-9) {
        const QPointF unit = along / length;
        painter.setPen(QPen(paper::wood, 2));
        for (const double side : {-1.0, 1.0}) {
            const QPointF tip = at + side * 24 * unit;
            painter.drawLine(at + side * 10 * unit, tip);
            painter.drawLine(tip, tip - side * 6 * unit + 4 * QPointF(-unit.y(), unit.x()));
            painter.drawLine(tip, tip - side * 6 * unit - 4 * QPointF(-unit.y(), unit.x()));
        }
    }
    painter.setPen(QPen(paper::wood, 2));
    painter.setBrush(paper::sheet);
    painter.drawEllipse(at, 8, 8);
    const auto section = workshop_.section();
    const QString unit = workshop_.current()->unit.name;
    QString text = QString("Section across %1 at %2 %3")
                       .arg(QChar("XYZ"[workshop_.axis()]), session::shortNumber(*workshop_.sectionPosition()), unit);
    QString figures;
    if (section && section->position == *workshop_.sectionPosition()) {
        figures = QString("%1 %2² enclosed").arg(session::shortNumber(section->area), unit);
        if (section->areaTwice > 0)
            figures += QString(", %1 %2² of it more than once").arg(session::shortNumber(section->areaTwice), unit);
        if (section->openEnds > 0) figures += QString(", open at %1 places").arg(section->openEnds);
    }
    painter.setPen(paper::ink);
    painter.setFont(typeface(12, QFont::DemiBold));
    painter.drawText(QPointF(14, 24), text);
    painter.setFont(typeface(11));
    painter.setPen(paper::quiet);
    painter.drawText(QPointF(14, 42), figures);
}

void Viewport::drawEmpty(QPainter& painter) const {
    const QPointF c(width() / 2.0, height() / 2.0);
    painter.setPen(QPen(paper::wood, 1.2));
    for (int i = 0; i < 7; ++i)
        painter.drawLine(c + QPointF(-110 + 6 * i, -92 + 9 * i), c + QPointF(110 - 6 * i, -92 + 9 * i));
    painter.setPen(paper::ink);
    painter.setFont(typeface(19, QFont::DemiBold));
    painter.drawText(QRectF(c.x() - 260, c.y() - 12, 520, 30), Qt::AlignCenter, "Drop surface files here");
    painter.setFont(typeface(13));
    painter.setPen(paper::quiet);
    painter.drawText(
        QRectF(c.x() - 260, c.y() + 22, 520, 80), Qt::AlignHCenter | Qt::TextWordWrap,
        "or open them with Ctrl+O: STL, OBJ, PLY, OFF or 3MF, one or many.\nNothing is changed on reading; every "
        "check runs at once,\nand each finding becomes a mark on the strings below.");
}

// ---- mouse

Point Viewport::pointUnder(const QPointF& at) const {
    const session::Look* look = workshop_.shown();
    if (!look) return Point::Zero();
    const Point origin = camera_.rayOrigin(at);
    if (const auto hit = look->display->tree->firstHit(origin, camera_.direction()))
        return origin + hit->t * camera_.direction();
    // Beside the part: the point at the depth of its centre.
    const double depth = camera_.direction().dot(look->display->box.centre() - origin);
    return origin + depth * camera_.direction();
}

void Viewport::mousePressEvent(QMouseEvent* event) {
    flight_.stop();
    pressed_ = last_ = event->position();
    constexpr double reach = 14;
    dragsSection_ = event->button() == Qt::LeftButton && workshop_.sectionPosition() && workshop_.shown() &&
                    (sectionHandle() - event->position()).manhattanLength() < reach;
    if (event->button() == Qt::RightButton) pivot_ = pointUnder(event->position());
    setFocus();
}

void Viewport::mouseMoveEvent(QMouseEvent* event) {
    const QPointF way = event->position() - last_;
    last_ = event->position();
    if (dragsSection_ && workshop_.sectionPosition()) {
        const QPointF along = alongSection();
        const double square = QPointF::dotProduct(along, along);
        // Seen end on, the axis has no length on the screen to drag along.
        if (square < 1e-12) return;
        workshop_.moveSection(QPointF::dotProduct(way, along) / square);
        return;
    }
    if ((event->buttons() & Qt::LeftButton) && (event->modifiers() & Qt::ShiftModifier)) {
        pickAt(event->position(), true);
        return;
    }
    if (event->buttons() & Qt::RightButton)
        camera_.orbit(way, pivot_);
    else if (event->buttons() & Qt::MiddleButton)
        camera_.pan(way);
    else
        return;
    moved();
}

void Viewport::mouseReleaseEvent(QMouseEvent* event) {
    if (std::exchange(dragsSection_, false)) return;
    const bool clicked = (event->position() - pressed_).manhattanLength() < 4;
    if (event->button() != Qt::LeftButton || !clicked) return;
    const Spot* nearest = nullptr;
    constexpr double reach = 14;
    for (const Spot& s : spots_)
        if ((s.at - event->position()).manhattanLength() <
            (nearest ? (nearest->at - event->position()).manhattanLength() : reach))
            nearest = &s;
    if (nearest && !(event->modifiers() & Qt::ShiftModifier))
        workshop_.chooseFinding(nearest->finding);
    else
        pickAt(event->position(), event->modifiers() & Qt::ShiftModifier);
}

// The triangle under the pointer; beside the part nothing stays picked.
void Viewport::pickAt(const QPointF& at, bool add) {
    const session::Look* look = workshop_.kept();
    if (!look || workshop_.currentPreview()) return;
    const Point origin = camera_.rayOrigin(at);
    if (const auto hit = look->display->tree->firstHit(origin, camera_.direction()))
        workshop_.pickTriangle(hit->triangle, origin + hit->t * camera_.direction(), add);
    else if (!add)
        workshop_.setPick({});
}

void Viewport::mouseDoubleClickEvent(QMouseEvent* event) {
    if (event->button() == Qt::MiddleButton) fit();
    if (event->button() == Qt::LeftButton && !workshop_.pick().everything())
        workshop_.pickShellOf(workshop_.pick().triangles().back());
}

void Viewport::wheelEvent(QWheelEvent* event) {
    flight_.stop();
    camera_.zoom(std::pow(1.0015, event->angleDelta().y()), event->position());
    moved();
}

}  // namespace zither::desktop
