// The signs of the classes of defects, as strokes: whoever draws them needs to know no class. Colour never speaks
// alone.
#pragma once

#include <array>
#include <cstddef>

namespace zither::check {

// In units of half the glyph's size about its centre, y down.
struct GlyphPoint {
    double x = 0;
    double y = 0;
};

// Polylines and circles. A glyph may be drawn solid: its closed strokes and circles are then filled.
struct Glyph {
    struct Stroke {
        std::array<GlyphPoint, 7> point{};
        std::size_t count = 0;
        bool closed = false;
    };
    struct Circle {
        GlyphPoint centre;
        double radius = 0;
        bool solid = false;  // always filled
    };
    std::array<Stroke, 3> strokes{};
    std::size_t strokeCount = 0;
    std::array<Circle, 3> circles{};
    std::size_t circleCount = 0;
};

namespace glyph {

constexpr Glyph line(Glyph g, GlyphPoint a, GlyphPoint b) {
    g.strokes[g.strokeCount++] = {{a, b}, 2, false};
    return g;
}
constexpr Glyph circle(Glyph g, GlyphPoint centre, double radius, bool solid) {
    g.circles[g.circleCount++] = {centre, radius, solid};
    return g;
}

inline constexpr Glyph ring = circle({}, {0, 0}, 1, false);
// Three points, every second corner drawn in.
inline constexpr Glyph star = {
    .strokes = {Glyph::Stroke{
        {{{0, -1.2}, {0.374, -0.216}, {1.039, 0.6}, {0, 0.432}, {-1.039, 0.6}, {-0.374, -0.216}}}, 6, true}},
    .strokeCount = 1};
inline constexpr Glyph hatch =
    line(line(line({}, {-1.05, 0.8}, {-0.15, -0.8}), {-0.45, 0.8}, {0.45, -0.8}), {0.15, 0.8}, {1.05, -0.8});
inline constexpr Glyph cross = line(line({}, {-0.75, -0.75}, {0.75, 0.75}), {-0.75, 0.75}, {0.75, -0.75});
inline constexpr Glyph needle = {.strokes = {Glyph::Stroke{{{{0, -1.2}, {0.32, 0.8}, {-0.32, 0.8}}}, 3, true}},
                                 .strokeCount = 1};
inline constexpr Glyph doubleBar = line(line({}, {-0.35, -0.9}, {-0.35, 0.9}), {0.35, -0.9}, {0.35, 0.9});
inline constexpr Glyph dots =
    circle(circle(circle({}, {-0.6, 0.45}, 0.22, true), {0.6, 0.45}, 0.22, true), {0, -0.55}, 0.22, true);

// Heads of arrows that point at each other.
inline constexpr Glyph pinch = {.strokes = {Glyph::Stroke{{{{-1.1, -0.6}, {-0.15, 0}, {-1.1, 0.6}}}, 3, true},
                                            Glyph::Stroke{{{{1.1, -0.6}, {0.15, 0}, {1.1, 0.6}}}, 3, true}},
                                .strokeCount = 2};
// A ledge, and what falls from it.
inline constexpr Glyph ledge =
    line({.strokes = {Glyph::Stroke{{{{-0.9, 0.9}, {-0.9, -0.8}, {0.9, -0.8}}}, 3, false}}, .strokeCount = 1},
         {0.45, -0.2}, {0.45, 0.8});
inline constexpr Glyph wedge = {.strokes = {Glyph::Stroke{{{{-0.6, -0.9}, {0, 1}, {0.6, -0.9}}}, 3, false}},
                                .strokeCount = 1};
inline constexpr Glyph hollow = circle(circle({}, {0, 0}, 1, false), {0, 0}, 0.45, false);
inline constexpr Glyph nested = circle(circle({}, {0, 0}, 1, false), {0, 0}, 0.45, true);
// A strip bent back onto itself.
inline constexpr Glyph fold = {
    .strokes = {Glyph::Stroke{{{{-1, -0.5}, {0.7, -0.5}, {1, 0}, {0.7, 0.5}, {-0.4, 0.5}}}, 5, false}},
    .strokeCount = 1};
// Two skins with hardly anything between.
inline constexpr Glyph skins = line(line({}, {-1, -0.2}, {1, -0.2}), {-1, 0.2}, {1, 0.2});
inline constexpr Glyph hook = {
    .strokes = {Glyph::Stroke{{{{-0.9, -0.8}, {0.7, -0.8}, {0.7, 0.7}, {-0.4, 0.7}, {-0.4, 0}}}, 5, false}},
    .strokeCount = 1};

// A room, and what does not fit in it.
inline constexpr Glyph frame = line(
    {.strokes = {Glyph::Stroke{{{{-0.9, -0.5}, {0.4, -0.5}, {0.4, 0.9}, {-0.9, 0.9}}}, 4, true}}, .strokeCount = 1},
    {-0.2, 0.2}, {1, -1});

}  // namespace glyph

}  // namespace zither::check
