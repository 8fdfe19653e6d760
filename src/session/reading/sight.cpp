// Inks and strengths that the card and the rays share.
#include "session/reading/sight.h"

#include <cmath>
#include <deque>
#include <utility>

#include "check/catalogue.h"

namespace zither::session {
namespace {

draw::Colour colour(const QColor& c) {
    return draw::colourOf(c.rgb());
}

draw::Eye eyeOf(const Camera& camera, const QSize& pixels, const QPointF& shift) {
    const double scale = pixels.width() / std::max(1.0, camera.viewport().width());
    draw::Eye eye;
    eye.right = camera.right();
    eye.up = camera.up();
    eye.pixel = camera.worldPerPixel() / scale;
    eye.width = pixels.width();
    eye.height = pixels.height();
    eye.corner = camera.rayOrigin((QPointF(0.5, 0.5) + shift) / scale);
    return eye;
}

// The cap and outline of what the cut with this number bounds.
void addSection(const measure::Section& section, std::size_t cut, const Sight& sight, draw::Subject& subject,
                std::vector<float>& outline) {
    for (const CapInk& cap : capInks(*sight.paper)) {
        draw::Fill& fill = subject.fills.emplace_back(draw::Fill{{}, colour(cap.ink), cut});
        for (mesh::TriangleId t = 0; t < section.cap.triangles.size(); ++t)
            if (cap.isOf(section.depth[t]))
                for (unsigned k = 0; k < 3; ++k) fill.corners.push_back(section.cap.corner(t, k));
    }
    const mesh::Point& origin = sight.display->origin;
    outline = project::outlineAbout(section, origin);
    subject.lines.push_back({.points = outline, .origin = origin, .ink = colour(sight.paper->ink), .endOf = cut});
}

// `outlines`: room for what the subject borrows.
void addCuts(const Sight& sight, draw::Subject& subject, std::deque<std::vector<float>>& outlines) {
    for (std::size_t i = 0; i < sight.cuts.size(); ++i) {
        subject.left.push_back(sight.cuts[i].left);
        for (const auto& section : sight.cuts[i].ends)
            if (section) addSection(*section, i, sight, subject, outlines.emplace_back());
        // What the other one has there, in the ink of what was.
        for (const auto& section : sight.cuts[i].others)
            if (section) {
                const std::vector<float>& outline =
                    outlines.emplace_back(project::outlineAbout(*section, sight.display->origin));
                subject.lines.push_back(
                    {.points = outline, .origin = sight.display->origin, .ink = colour(sight.paper->wood), .endOf = i});
            }
    }
}

}  // namespace

std::array<CapInk, 3> capInks(const Paper& paper) {
    return {CapInk{[](int depth) { return depth == 1; }, clay::cap},
            CapInk{[](int depth) { return depth > 1; }, paper.inkOf(check::selfIntersections).lighter(190)},
            CapInk{[](int depth) { return depth < 1; }, paper.inkOf(check::misoriented).lighter(150)}};
}

std::optional<Pointed> pointedAt(const Display& display, const Camera& camera, const QPointF& at,
                                 std::span<const std::uint8_t> unseen) {
    const mesh::Point origin = camera.rayOrigin(at);
    const auto met = display.met(origin, camera.direction(), unseen);
    if (!met) return std::nullopt;
    return Pointed{met->triangle, origin + met->along * camera.direction()};
}

// What is of the surface in front alone stays with it.
Sight sightOfBeside(const Sight& sight) {
    Sight other = sight;
    other.display = sight.beside;
    other.coat = nullptr;
    other.tint = nullptr;
    other.veil = nullptr;
    other.chosen.reset();
    for (SeenCut& cut : other.cuts) cut.ends = std::exchange(cut.others, {});
    other.moved = nullptr;
    other.beside = nullptr;
    return other;
}

namespace {

draw::Picture painted(const Sight& sight, const draw::Eye& eye, draw::CloseUp& closeUp) {
    draw::Subject subject;
    subject.inks = project::pictureInks();
    subject.inks.ground = colour(sight.paper->sheet);
    if (!sight.display) return draw::paint(subject, eye);
    const Display& display = *sight.display;
    subject.surface = &display.mesh();
    subject.box = display.box;
    subject.rays = &closeUp.sceneFor(display.mesh(), display.rays(), display.box, eye);
    if (sight.isCoated()) subject.coat = *sight.coat;
    if (sight.isCoated() && sight.tint)
        subject.tint = {sight.tint->values, static_cast<float>(sight.tint->low), static_cast<float>(sight.tint->high),
                        sight.tint->ramp};
    if (sight.moved && sight.moved->rays)
        subject.moved = {&sight.moved->mesh, sight.moved->rays.get(), sight.moved->sources, *sight.moved->hidden};
    const bool veiled = sight.veil && sight.veil->faint.size() == display.mesh().triangles.size();
    if (veiled) {
        subject.hidden = sight.veil->hidden;
        subject.faint = sight.veil->faint;
    }
    subject.edges = sight.edges;
    subject.hatchInside = sight.hatchInside;
    subject.seeThrough = sight.seeThrough;
    subject.relief = sight.relief;
    subject.slabAcross = sight.slabAcross;
    if (sight.slab) subject.slab = draw::Stretch{sight.slab->low, sight.slab->high};
    std::deque<std::vector<float>> outlines;
    addCuts(sight, subject, outlines);
    const double scale = sight.camera.worldPerPixel() / eye.pixel;
    project::addLines({veiled ? sight.veil->lines : display.lines, display.origin}, sight.chosen, scale, subject);
    return draw::paint(subject, eye);
}

}  // namespace

draw::Picture paintedByRays(const Sight& sight, const QSize& pixels, const QPointF& shift, CloseUps& closeUps) {
    if (sight.beside && sight.sideBySide) {
        const QSize half(std::max(1, pixels.width() / 2), pixels.height());
        draw::Eye eye = eyeOf(sight.camera, half, shift);
        const draw::Picture other = painted(sightOfBeside(sight), eye, closeUps.beside);
        eye.width = pixels.width() - half.width();
        return draw::besideEachOther(other, painted(sight, eye, closeUps.front));
    }
    const draw::Eye eye = eyeOf(sight.camera, pixels, shift);
    const int left = sight.beside ? static_cast<int>(std::lround(sight.besideTo * pixels.width())) : 0;
    if (left <= 0) return painted(sight, eye, closeUps.front);
    // Each columns of its own, so that both together cost as much as one.
    draw::Eye ofLeft = eye;
    ofLeft.width = std::min(left, pixels.width());
    draw::Picture other = painted(sightOfBeside(sight), ofLeft, closeUps.beside);
    if (left >= pixels.width()) return other;
    draw::Eye ofRight = eye;
    ofRight.width = pixels.width() - left;
    ofRight.corner += left * eye.pixel * eye.right;
    const draw::Picture front = painted(sight, ofRight, closeUps.front);
    return draw::besideEachOther(other, front);
}

draw::Picture paintedSmoothly(const Sight& sight, const QSize& pixels) {
    CloseUps closeUps;
    return draw::meanOfShifted([&](const draw::Shift& shift) {
        return paintedByRays(sight, pixels, {shift.x, shift.y}, closeUps);
    });
}

QImage imageOf(const draw::Picture& picture) {
    const std::vector<std::uint32_t> packed = picture.packed();
    return QImage(reinterpret_cast<const uchar*>(packed.data()), picture.width, picture.height, QImage::Format_RGB32)
        .copy();
}

}  // namespace zither::session
