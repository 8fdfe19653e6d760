// What is seen of a part, whoever draws it; and drawn by rays.
#pragma once

#include <QColor>
#include <QImage>
#include <QPointF>
#include <QSize>
#include <array>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "draw/paint.h"
#include "session/reading/palette.h"
#include "session/state/camera.h"
#include "session/state/coating.h"
#include "session/state/display.h"
#include "session/state/sectioning.h"
#include "session/state/veil.h"

namespace zither::session {

// Triangles that are being moved, drawn in place of those that they were.
struct Moved {
    check::SurveyedPtr of;  // the surface
    mesh::Mesh mesh;
    std::vector<mesh::TriangleId> sources;                    // of each: the one of the surface that it was
    std::shared_ptr<const std::vector<std::uint8_t>> hidden;  // one flag a triangle of the surface
    std::shared_ptr<const space::RayScene> rays;              // nullptr: there are none
};

struct Sight {
    const Paper* paper = &lightPaper();
    std::shared_ptr<const Display> display;  // nullptr: nothing is seen
    Camera camera;
    const std::vector<std::uint32_t>* coat = nullptr;  // as packed; of another surface or none: clay
    std::shared_ptr<const SmoothTint> tint;            // of the same surface as the coat; nullptr: none
    bool edges = true;
    bool hatchInside = true;
    bool seeThrough = false;
    bool relief = true;                             // as draw::Subject
    mesh::Point slabAcross = mesh::Point::UnitX();  // of length 1
    std::optional<Slab> slab;                       // along it; what lies outside is a ghost
    std::optional<check::DefectClass> chosen;       // its lines are drawn stronger
    std::vector<SeenCut> cuts;
    std::shared_ptr<const Veil::Flags> veil;  // of the surface; nullptr: all of it is there
    std::shared_ptr<const Moved> moved;
    std::shared_ptr<const Display> beside;  // another surface, drawn as clay in place of this one's left part
    double besideTo = 0;                    // up to this share of the width
    bool sideBySide = false;                // each in a half, by the same camera

    [[nodiscard]] bool isCoated() const {
        return coat && display && !coat->empty() && coat->size() == display->mesh().triangles.size();
    }
};

// How a cap is coloured where the part encloses it once, more than once, inside out.
struct CapInk {
    bool (*isOf)(int depth);
    QColor ink;
};
std::array<CapInk, 3> capInks(const Paper& paper);

// Of the surface, and of the one beside it: kept from picture to picture.
struct CloseUps {
    draw::CloseUp front;
    draw::CloseUp beside;
};

// Where a point of the view looks at a surface.
struct Pointed {
    mesh::TriangleId triangle;
    mesh::Point point;
};
// `unseen`: as of Display::met.
std::optional<Pointed> pointedAt(const Display& display, const Camera& camera, const QPointF& at,
                                 std::span<const std::uint8_t> unseen = {});

// The other surface alone, as it is drawn beside.
Sight sightOfBeside(const Sight& sight);

// The sight in so many pixels, moved by a part of a pixel.
draw::Picture paintedByRays(const Sight& sight, const QSize& pixels, const QPointF& shift, CloseUps& closeUps);
// Smoothed by all shifts.
draw::Picture paintedSmoothly(const Sight& sight, const QSize& pixels);

QImage imageOf(const draw::Picture& picture);

}  // namespace zither::session
