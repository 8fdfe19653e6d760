// Pictures of a surface by rays: matte clay with its edges, creases and outlines in ink, hollows darker than heights
// (Luft, Colditz & Deussen 2006, from the depths that the picture has anyway), insides hatched, what lies outside the
// slab as a ghost, the cap of a section, lines of the findings in front in full ink and through it faintly.
#pragma once

#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "draw/picture.h"
#include "mesh/mesh.h"
#include "space/ray_scene.h"

namespace zither::draw {

// Along a direction, in the part's unit.
struct Stretch {
    double low = -std::numeric_limits<double>::infinity();
    double high = std::numeric_limits<double>::infinity();
};

struct Inks {
    Colour ground;  // where nothing is
    Colour clay;
    Colour hatch;       // of insides, on
    Colour hatchPaper;  // this
    Colour edge;
    Colour crease;
};

// Segments, two points each.
struct Lines {
    std::span<const float> points;  // three a point, about
    mesh::Point origin;             // this
    Colour ink;
    float strength = 1;                     // 0 to 1, where it is seen
    float throughSurface = 0;               // the same, where the surface hides it
    float width = 1.6F;                     // in pixels
    std::optional<std::size_t> endOf = {};  // as of a fill
};

// What a section leaves: what lies outside the stretch is not there.
struct Left {
    mesh::Point across;  // of length 1
    Stretch along;       // it
};

// Triangles in one flat colour, three corners each.
struct Fill {
    std::vector<mesh::Point> corners;
    Colour ink;
    std::optional<std::size_t> endOf = {};  // which of the subject's `left` it bounds: that takes nothing from it
};

// Values at the vertices of the surface, blended over triangles whose coat is 0, as colours.
struct Tint {
    std::span<const float> values;  // none: no tint
    float low = 0;                  // the first stop of the ramp, and below
    float high = 1;                 // the last one, and above
    std::array<Colour, 5> ramp;     // stops as far from each other
};

// Triangles drawn in place of some of the surface.
struct Replaced {
    const mesh::Mesh* surface = nullptr;
    const space::RayScene* rays = nullptr;      // of it
    std::span<const mesh::TriangleId> sources;  // of each: the triangle of the subject whose coat it wears
    std::span<const std::uint8_t> hidden;       // one flag a triangle of the subject
};

// What is drawn. Everything that it points to is borrowed.
struct Subject {
    const mesh::Mesh* surface = nullptr;
    const space::RayScene* rays = nullptr;  // of the surface
    mesh::Box box;                          // of the surface
    std::span<const std::uint32_t> coat;    // a colour for each triangle, 0xFFBBGGRR; empty: clay
    Tint tint;
    Inks inks;
    bool edges = true;
    bool relief = true;  // creases and outlines in ink, hollows darker
    // The eye sees through the surface to what lies behind it, some layers deep: each lets half of the light through.
    bool seeThrough = false;
    bool hatchInside = true;
    mesh::Point slabAcross = mesh::Point::UnitX();  // of length 1
    std::optional<Stretch> slab;                    // along it; what lies outside is a ghost
    std::vector<Left> left;                         // what lies in all of them
    std::span<const std::uint8_t> hidden;           // one flag a triangle: those set are not there; empty: all are
    std::span<const std::uint8_t> faint;            // those set are a ghost, or not there; empty: none is
    Replaced moved;                                 // no surface: nothing is
    std::vector<Fill> fills;
    std::vector<Lines> lines;
};

// The same for any number of threads. Some 100 ns of one core a pixel.
Picture paint(const Subject& subject, const Eye& eye);

// The mean of pictures whose eye is moved by parts of a pixel, so that edges are smooth: no two lie in one row or
// column.
struct Shift {
    double x = 0;
    double y = 0;
};
inline constexpr std::array<Shift, 4> smoothingShifts = {
    {{-0.125, -0.375}, {0.375, -0.125}, {-0.375, 0.125}, {0.125, 0.375}}};
Picture meanOfShifted(const std::function<Picture(const Shift&)>& painted);
Picture paintSmooth(const Subject& subject, const Eye& eye);

// Far into a part a pixel is finer than what 32 bits tell apart in the whole of it. There the triangles in sight get a
// scene of their own about the middle of the view, kept as long as the view stays in it. Not for several threads.
class CloseUp {
public:
    // The scene to draw with: `whole` where that is fine enough. The surface must be the same as long as `whole` is.
    const space::RayScene& sceneFor(const mesh::Mesh& surface, const space::RayScene& whole, const mesh::Box& box,
                                    const Eye& eye);

private:
    const space::RayScene* whole_ = nullptr;
    std::unique_ptr<space::RayScene> scene_;
    Eye eye_;  // that it was made for
};

}  // namespace zither::draw
