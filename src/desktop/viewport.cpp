// Camera, flights, and who draws. Canvases, marks and mouse have files of their own.
#include "desktop/viewport.h"

#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QResizeEvent>
#include <QWheelEvent>
#include <cmath>
#include <limits>
#include <utility>

#include "check/catalogue.h"
#include "desktop/measure_marks.h"
#include "desktop/theme.h"
#include "draw/draw_tolerances.h"

namespace zither::desktop {

using mesh::Point;
using session::Camera;

namespace {
// While the camera moves rays draw what takes a card longer.
constexpr double slowFrameMs = 40;
// More triangles than this take too long to bring to a card.
constexpr std::size_t mostOnCard = 20'000'000;
constexpr int flightMs = 320;
constexpr int settleMs = 160;
}  // namespace

Viewport::Overlay::Overlay(Viewport& viewport) : QWidget(&viewport), viewport_(viewport) {
    setAttribute(Qt::WA_TransparentForMouseEvents);
}

void Viewport::Overlay::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const QRectF stage = viewport_.stage();
    painter.translate(stage.topLeft());
    viewport_.marks_.paint(painter, stage.size().toSize(), viewport_.moving_);
    viewport_.handles_.paint(painter);
    viewport_.paintLead(painter);
    viewport_.paintBrush(painter);
    viewport_.tools_.paint(painter);
    paintMeasured(painter, viewport_.workshop_, viewport_.camera_);
}

Viewport::Viewport(session::Workshop& workshop, session::DeskModel& desk, bool card)
    : workshop_(workshop),
      card_(card ? new CardCanvas(this) : nullptr),
      rays_(new RayCanvas(this)),
      overlay_(new Overlay(*this)),
      loupe_(new LoupeView(workshop, this)),
      dragHandles_(workshop, desk),
      brushing_(workshop, desk),
      marks_(workshop, camera_, workshop.coating(), workshop.sectioning()),
      handles_(workshop, dragHandles_, camera_),
      tools_(workshop, camera_, {marks_, handles_, brushing_}) {
    setObjectName("viewport");
    setMinimumSize(320, 150);
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
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
    connect(&dragHandles_, &session::DragHandles::changed, this, &Viewport::refresh);
    connect(&brushing_, &session::Brushing::changed, this, &Viewport::refresh);
    connect(&workshop_.looks(), &session::Looks::changed, this, &Viewport::onLookChanged);
    connect(&workshop_.choice(), &session::Choice::changed, this, &Viewport::refresh);
    connect(&workshop_.coating(), &session::Coating::changed, this, &Viewport::refresh);
    connect(&workshop_.loupe(), &session::Loupe::changed, overlay_, qOverload<>(&QWidget::update));
    connect(&workshop_.measuring(), &session::Measuring::changed, overlay_, qOverload<>(&QWidget::update));
    connect(&workshop_.beforeAfter(), &session::BeforeAfter::changed, this, &Viewport::refresh);
    const auto followPace = [this] {
        rays_->setPace({static_cast<double>(workshop_.preferences().frameMs()), rays_->pace().sample});
    };
    connect(&workshop_.preferences(), &session::Preferences::changed, this, followPace);
    followPace();
    connect(&workshop_.sectioning(), &session::Sectioning::changed, this, &Viewport::onCutsChanged);
    connect(&workshop_.veil(), &session::Veil::changed, this, &Viewport::refresh);
    connect(&workshop_.choice(), &session::Choice::placeChosen, this, &Viewport::flyToChosen);
    connect(&workshop_.choice(), &session::Choice::placeShown, this, [this](const mesh::Point& at, double size) {
        if (workshop_.loupe().on()) return overlay_->update();
        Camera target = camera_;
        target.flyTo(at, size, -camera_.direction());
        flyTo(target);
    });
    onLookChanged();
}

void Viewport::resizeEvent(QResizeEvent*) {
    for (QWidget* layer : {static_cast<QWidget*>(card_), static_cast<QWidget*>(rays_), static_cast<QWidget*>(overlay_)})
        if (layer) layer->resize(size());
    constexpr int margin = 14;
    constexpr int hints = 26;
    loupe_->move(width() - loupe_->width() - margin, height() - loupe_->height() - hints);
    refresh();
}

QRectF Viewport::stage() const {
    const QRectF all(rect());
    if (!workshop_.beforeAfter().sideBySide() || !workshop_.beforeAfter().display()) return all;
    return {std::floor(all.width() / 2), 0, std::ceil(all.width() / 2), all.height()};
}

QPointF Viewport::onStage(const QPointF& at) const {
    const double left = stage().left();
    return {at.x() < left ? at.x() : at.x() - left, at.y()};
}

QMouseEvent Viewport::onStage(const QMouseEvent& event) const {
    return {event.type(),   onStage(event.position()), event.globalPosition(),
            event.button(), event.buttons(),           event.modifiers()};
}

QMouseEvent Viewport::dragged(const QMouseEvent& event) const {
    return {event.type(),           event.position() - QPointF(dragOrigin_, 0),
            event.globalPosition(), event.button(),
            event.buttons(),        event.modifiers()};
}

bool Viewport::isInHand() const {
    return moving_ || brushing_.drawing() || dragHandles_.held();
}

bool Viewport::drawsByRays() const {
    const auto display = workshop_.looks().display();
    return !card_ || (display && display->mesh().triangles.size() > mostOnCard) ||
           (isInHand() && card_->frameMs() > slowFrameMs);
}

session::Sight Viewport::sight() const {
    session::Sight s;
    s.paper = &workshop_.paper();
    s.display = workshop_.looks().display();
    s.camera = camera_;
    s.coat = &workshop_.coating().colours();
    s.tint = workshop_.coating().tint();
    s.edges = edges_;
    s.seeThrough = seeThrough_;
    s.relief = relief_;
    s.slabAcross = Point::Unit(workshop_.choice().axis());
    s.slab = workshop_.choice().slab();
    s.chosen = workshop_.choice().chosenClass();
    s.cuts = workshop_.sectioning().seen();
    s.veil = workshop_.veil().flags();
    s.beside = workshop_.beforeAfter().display();
    s.besideTo = workshop_.beforeAfter().drawnTo();
    s.sideBySide = workshop_.beforeAfter().sideBySide();
    if (const auto moved = brushing_.moved(); moved && s.display && s.display->part == moved->of) s.moved = moved;
    // While it is dragged, what would go is a ghost of the part as it is kept.
    if (const steps::Handle* plane = dragHandles_.heldPlane()) {
        s.display = workshop_.looks().kept()->display;
        s.slabAcross = plane->direction;
        s.slab = session::Slab{plane->direction.dot(plane->at), std::numeric_limits<float>::max()};
    }
    return s;
}

// How wide the brush is, and where the stroke makes the surface meet itself.
void Viewport::paintBrush(QPainter& painter) {
    if (brushing_.ready() || brushing_.drawing()) {
        const double radius = 0.5 * brushing_.width() / camera_.worldPerPixel();
        painter.setPen(QPen(workshop_.paper().wood, 1.4));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(pointer_, radius, radius);
    }
    for (const Point& p : brushing_.crossings())
        drawGlyph(painter, check::selfIntersections.glyph, camera_.toScreen(p),
                  {14, workshop_.paper().inkOf(check::selfIntersections), workshop_.paper().raised});
}

void Viewport::paintLead(QPainter& painter) const {
    const session::Loupe& loupe = workshop_.loupe();
    if (!loupe.on() || !loupe.place()) return;
    const QPointF at = camera_.toScreen(*loupe.place());
    const QPointF middle = loupe_->pos() - stage().topLeft() + QPointF(LoupeView::across, LoupeView::across) / 2;
    const QPointF way = middle - at;
    const double length = std::hypot(way.x(), way.y());
    painter.setPen(QPen(workshop_.paper().wood, 1.2, Qt::DashLine));
    painter.setBrush(Qt::NoBrush);
    if (length > LoupeView::across / 2.0) painter.drawLine(at, at + way * (1 - LoupeView::across / 2.0 / length));
    painter.drawEllipse(at, 7, 7);
}

void Viewport::refresh() {
    const bool byRays = drawsByRays();
    camera_.setViewport(stage().size());
    workshop_.sectioning().setSight(camera_.direction());
    rays_->setVisible(byRays);
    if (byRays)
        rays_->show(sight(), isInHand());
    else
        card_->show(sight());
    overlay_->update();
}

// ---- what is seen

namespace {

// A part that was moved away, or made larger or far smaller, is not where one looks any more.
bool isElsewhere(const mesh::Box& before, const mesh::Box& now) {
    constexpr double larger = 1.5;
    constexpr double smaller = 0.2;
    constexpr double beside = 0.25;  // diagonals
    const double ratio = now.diagonal() / std::max(before.diagonal(), tolerance::viewLeast);
    const mesh::Point reach = mesh::Point::Constant(beside * before.diagonal());
    const mesh::Box about{before.min - reach, before.max + reach};
    return ratio > larger || ratio < smaller || !about.contains({now.centre(), now.centre()});
}

}  // namespace

void Viewport::onLookChanged() {
    if (const auto display = workshop_.looks().display()) {
        const mesh::Box before = std::exchange(shownBox_, display->box);
        camera_.setScene(display->box);
        // Another part is shown whole, or from where it was looked at before; another stop of the same part from where
        // one stands.
        if (workshop_.parts().current() != fittedPart_) {
            fittedPart_ = workshop_.parts().current();
            if (fittedPart_->view) {
                camera_.goTo(*fittedPart_->view);
            } else {
                camera_.lookFrom(Camera::View::Iso);
                camera_.fit(display->mesh(), coveredOfStage());
            }
        } else if (isElsewhere(before, shownBox_)) {
            fit();
        }
    } else if (!workshop_.parts().current()) {
        fittedPart_ = nullptr;
    }
    refresh();
}

void Viewport::fit() {
    const auto display = workshop_.looks().display();
    if (!display) return;
    Camera target = camera_;
    target.fit(display->mesh(), coveredOfStage());
    flyTo(target);
}

void Viewport::lookFrom(Camera::View view) {
    const auto display = workshop_.looks().display();
    if (!display) return;
    Camera target = camera_;
    target.lookFrom(view);
    target.fit(display->mesh(), coveredOfStage());
    flyTo(target);
}

void Viewport::setYUp(bool yUp) {
    camera_.setYUp(yUp);
    lookFrom(Camera::View::Iso);
}

void Viewport::turn(double right, double down) {
    Camera target = camera_;
    target.orbit(QPointF(right, down) / Camera::degreesPerPixel, camera_.centre());
    flyTo(target);
}

void Viewport::pan(double right, double down) {
    Camera target = camera_;
    target.pan({-right * width(), -down * height()});
    flyTo(target);
}

void Viewport::zoom(double factor) {
    Camera target = camera_;
    const QSizeF seen = stage().size();
    target.zoom(factor, QPointF(seen.width(), seen.height()) / 2);
    flyTo(target);
}

void Viewport::setEdgesShown(bool shown) {
    edges_ = shown;
    refresh();
}

void Viewport::setSeenThrough(bool through) {
    seeThrough_ = through;
    refresh();
}

void Viewport::setRelief(bool relief) {
    relief_ = relief;
    refresh();
}

QImage Viewport::picture(double scale) {
    QImage image = session::imageOf(session::paintedSmoothly(sight(), (QSizeF(size()) * scale).toSize()));
    QPainter painter(&image);
    painter.scale(scale, scale);
    painter.translate(stage().topLeft());
    marks_.paintForPicture(painter, stage().size().toSize());
    paintMeasured(painter, workshop_, camera_);
    return image;
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
    // The loupe shows it: the view keeps its overview.
    if (!look || !workshop_.choice().chosenFinding() || workshop_.loupe().on()) return overlay_->update();
    const check::Finding& f = look->survey->findings.list[*workshop_.choice().chosenFinding()];
    Camera target = camera_;
    target.flyTo(f.position, f.size, normalAt(f));
    flyTo(target);
}

QPointF Viewport::placeOnScreen(std::size_t finding) const {
    return stage().topLeft() + camera_.toScreen(workshop_.looks().kept()->survey->findings.list[finding].position);
}

// A cut that is moved is followed as quickly as the eye is when it moves.
void Viewport::onCutsChanged() {
    std::vector<measure::Plane> planes;
    for (const session::Sectioning::Cut& cut : workshop_.sectioning().cuts()) planes.push_back(cut.plane);
    const bool onlyMoved = planes.size() == planes_.size() && planes != planes_;
    planes_ = std::move(planes);
    if (onlyMoved)
        moved();
    else
        refresh();
}

void Viewport::moved() {
    moving_ = true;
    if (session::Part* part = workshop_.parts().current(); part && part == fittedPart_) part->view = camera_.place();
    settle_.start(settleMs);
    refresh();
}

// ---- mouse

void Viewport::mousePressEvent(QMouseEvent* event) {
    flight_.stop();
    setFocus();
    dragOrigin_ = event->position().x() < stage().left() ? 0 : stage().left();
    const QMouseEvent here = onStage(*event);
    // What was is only looked at.
    if (event->button() == Qt::LeftButton && event->position().x() < stage().left()) return;
    if (event->button() == Qt::LeftButton && editRangeAt(here.position())) return;
    tools_.press(here);
}

void Viewport::mouseMoveEvent(QMouseEvent* event) {
    const QMouseEvent here = event->buttons() == Qt::NoButton ? onStage(*event) : dragged(*event);
    pointer_ = here.position();
    const bool over = overHistogram(pointer_);
    marks_.pointAtHistogram(over);
    if (tools_.move(here)) moved();
    const bool came = std::exchange(wasOverHistogram_, over) != over;
    if (pointAt(pointer_) || came || brushing_.ready() || tools_.outlines()) overlay_->update();
}

bool Viewport::pointAt(const QPointF& at) {
    const session::Look* look = workshop_.looks().shown();
    std::optional<mesh::TriangleId> triangle;
    if (look && !isInHand() && !workshop_.coating().coat().values.empty())
        if (const auto pointed =
                session::pointedAt(*look->display, camera_, at, workshop_.veil().faintOf(*look->display)))
            triangle = pointed->triangle;
    return marks_.pointAt(triangle);
}

void Viewport::mouseReleaseEvent(QMouseEvent* event) {
    const bool outlined = tools_.outlines();
    tools_.release(dragged(*event));
    if (outlined) overlay_->update();
}

void Viewport::mouseDoubleClickEvent(QMouseEvent* event) {
    const QMouseEvent here = onStage(*event);
    if (overHistogram(here.position())) return workshop_.coating().setRange(std::nullopt);
    if (event->button() == Qt::MiddleButton) fit();
    tools_.doubleClick(here);
}

void Viewport::wheelEvent(QWheelEvent* event) {
    const QPointF at = onStage(event->position());
    if (overHistogram(at)) {
        constexpr double notch = 120;  // as Qt tells it
        return zoomRange(event->angleDelta().y() / notch, at);
    }
    flight_.stop();
    if (tools_.wheel(event->angleDelta().y(), at)) moved();
}

// ---- the range of the lens

bool Viewport::overHistogram(const QPointF& at) const {
    return !marks_.histogram().isEmpty() &&
           marks_.histogram().united(marks_.rangeEnd(false)).united(marks_.rangeEnd(true)).contains(at);
}

// About the value that is pointed at.
void Viewport::zoomRange(double notches, const QPointF& at) {
    const session::Legend& legend = workshop_.coating().coat().legend;
    const double middle = marks_.valueAt(at);
    constexpr double aNotch = 0.8;
    const double factor = std::pow(aNotch, notches);
    workshop_.coating().setRange(
        std::pair(middle + factor * (legend.low - middle), middle + factor * (legend.high - middle)));
}

bool Viewport::editRangeAt(const QPointF& at) {
    const bool upper = marks_.rangeEnd(true).contains(at);
    if (!upper && !marks_.rangeEnd(false).contains(at)) return false;
    const session::Legend& legend = workshop_.coating().coat().legend;
    auto* typed = new QLineEdit(QString::number(upper ? legend.high : legend.low), this);
    typed->setObjectName("range");
    typed->setGeometry(marks_.rangeEnd(upper).translated(stage().topLeft()).adjusted(-2, -3, 2, 5).toRect());
    connect(typed, &QLineEdit::editingFinished, this, [this, typed, upper] {
        bool isNumber = false;
        const double value = typed->text().toDouble(&isNumber);
        const session::Legend& now = workshop_.coating().coat().legend;
        typed->deleteLater();
        if (isNumber) workshop_.coating().setRange(upper ? std::pair(now.low, value) : std::pair(value, now.high));
    });
    typed->show();
    typed->selectAll();
    typed->setFocus();
    return true;
}

}  // namespace zither::desktop
