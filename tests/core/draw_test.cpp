// Pictures by rays against a slow ray for each pixel, and against what a person would expect to see.
#include "draw/paint.h"

#include <cmath>

#include "space/triangle_tree.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using draw::Colour;
using draw::Eye;
using draw::Picture;
using draw::Subject;

const draw::Inks inks = {.ground = Colour(0, 0, 0),
                         .clay = Colour(0.8F, 0.6F, 0.5F),
                         .hatch = Colour(1, 0, 0),
                         .hatchPaper = Colour(1, 1, 0),
                         .edge = Colour(0, 0, 1),
                         .crease = Colour(0, 1, 0)};

// Looks along `into`, the middle of the box in the middle of the picture, which is `across` wide.
Eye eyeTo(const mesh::Box& box, const Point& into, double across, int width, int height) {
    Eye eye;
    const Point z = -into.normalized();
    eye.right = (std::abs(z.z()) > 0.9 ? Point(Point::UnitX()) : Point(Point::UnitZ().cross(z))).normalized();
    eye.right = (eye.right - eye.right.dot(z) * z).normalized();
    eye.up = z.cross(eye.right);
    eye.pixel = across / width;
    eye.width = width;
    eye.height = height;
    eye.corner = box.centre() + 0.5 * eye.pixel * (-(width - 1) * eye.right + (height - 1) * eye.up);
    return eye;
}

// A surface with what a picture of it needs.
struct Model {
    explicit Model(Mesh m) : mesh(std::move(m)), rays(mesh), box(mesh::boxOf(mesh)) {}
    [[nodiscard]] Subject subject() const {
        Subject s;
        s.surface = &mesh;
        s.rays = &rays;
        s.box = box;
        s.inks = inks;
        s.edges = false;
        s.relief = false;
        return s;
    }
    Mesh mesh;
    space::RayScene rays;
    mesh::Box box;
};

bool isGround(const Picture& p, int x, int y) {
    return p.colours[p.at(x, y)] == inks.ground;
}

TEST(Draw, EachPixelShowsWhatAnExactRayMeets) {
    rig::Random random(71);
    for (const double away : {0.0, 1e6}) {
        Mesh soup = gridSoup(72, 120, 7);
        for (Point& p : soup.positions) p += Point::Constant(away);
        const Model model(std::move(soup));
        const space::TriangleTree tree(model.mesh);
        for (int view = 0; view < 4; ++view) {
            const Point into = Point(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1)).normalized();
            const Eye eye = eyeTo(model.box, into, 14, 61, 43);
            const Picture picture = draw::paint(model.subject(), eye);
            int different = 0;
            int met = 0;
            for (int y = 0; y < eye.height; ++y)
                for (int x = 0; x < eye.width; ++x) {
                    const auto hit = tree.firstHit(eye.through(x, y) - 20 * into, into);
                    const float depth = picture.depths[picture.at(x, y)];
                    met += hit.has_value();
                    if (hit.has_value() != std::isfinite(depth))
                        ++different;
                    else if (hit && std::abs(hit->t - 20 - depth) > 1e-4)
                        ++different;
                    EXPECT_EQ(isGround(picture, x, y), !std::isfinite(depth));
                }
            EXPECT_GT(met, 200);
            // Rays that pass an edge by less than what 32 bits tell apart.
            EXPECT_LE(different, 1);
        }
    }
}

TEST(Draw, IsTheSameForOneThreadAndMany) {
    const Model model(sphere());
    const Eye eye = eyeTo(model.box, Point(1, 2, -1), 30, 90, 70);
    const Picture many = draw::paint(model.subject(), eye);
    EXPECT_EQ(withOneThread([&] { return draw::paint(model.subject(), eye).packed(); }), many.packed());
}

TEST(Draw, NothingIsGroundOnly) {
    Subject nothing;
    nothing.inks = inks;
    const Eye eye = eyeTo(mesh::boxOf(unitBox()), Point(0, 0, -1), 2, 8, 8);
    for (const std::uint32_t c : draw::paint(nothing, eye).packed()) EXPECT_EQ(c, 0xFF000000U);
    for (const auto& [name, m] : uglyMeshes()) {
        const Model model(m);
        const Picture p = draw::paint(model.subject(), eyeTo(model.box, Point(1, 1, -1), 3, 16, 16));
        EXPECT_EQ(p.colours.size(), 256U) << name;
        for (const Colour& c : p.colours) EXPECT_TRUE(c.allFinite()) << name;
    }
}

TEST(Draw, OutsidesAreClayAndInsidesHatched) {
    const Model outside(unitBox());
    const Model inside(flipped(unitBox()));
    const Eye eye = eyeTo(outside.box, Point(0, 0, -1), 0.9, 16, 16);
    const Picture clay = draw::paint(outside.subject(), eye);
    const Picture hatched = draw::paint(inside.subject(), eye);
    std::size_t red = 0;
    for (std::size_t i = 0; i < clay.colours.size(); ++i) {
        EXPECT_TRUE(clay.colours[i].isApprox(clay.colours[0]));
        EXPECT_NEAR(clay.colours[i].y() / clay.colours[i].x(), 0.75, 1e-3);
        EXPECT_EQ(hatched.colours[i].z(), 0);
        red += hatched.colours[i].y() == 0;
    }
    EXPECT_EQ(red, 96U);  // three pixels of eight
    Subject plain = inside.subject();
    plain.hatchInside = false;
    EXPECT_NEAR(draw::paint(plain, eye).colours[0].z(), 0.5F * clay.colours[0].x() / 0.8F, 1e-3);
}

TEST(Draw, ACoatGivesEachTriangleItsColour) {
    const Model model(unitBox());
    std::vector<std::uint32_t> coat(12, 0xFF0000FFU);  // red
    coat[2] = coat[3] = 0xFF00FF00U;                   // the top: green
    Subject subject = model.subject();
    subject.coat = coat;
    const Picture top = draw::paint(subject, eyeTo(model.box, Point(0, 0, -1), 0.9, 8, 8));
    const Picture bottom = draw::paint(subject, eyeTo(model.box, Point(0, 0, 1), 0.9, 8, 8));
    for (const Colour& c : top.colours) EXPECT_TRUE(c.y() > 0.4F && c.x() == 0);
    for (const Colour& c : bottom.colours) EXPECT_TRUE(c.x() > 0.4F && c.y() == 0);
}

TEST(Draw, EdgesAreDarkestOnThemAndFadeWhereTrianglesAreSmall) {
    const Model model(unitBox());
    Subject subject = model.subject();
    const Eye near = eyeTo(model.box, Point(0, 0, -1), 0.99, 99, 99);
    const Picture bare = draw::paint(subject, near);
    subject.edges = true;
    const Picture edged = draw::paint(subject, near);
    // The diagonal of the top runs from corner to corner.
    std::size_t inked = 0;
    for (int y = 0; y < 99; ++y)
        for (int x = 0; x < 99; ++x) {
            const bool dark = edged.colours[edged.at(x, y)] != bare.colours[bare.at(x, y)];
            inked += dark;
            const int away = std::min({x, y, 98 - x, 98 - y, std::abs(x + y - 98), std::abs(x - y)});
            EXPECT_FALSE(dark && away > 3) << x << " " << y;
        }
    EXPECT_GT(inked, 99U);
    EXPECT_LT(inked, 99U * 15U);
    const Eye far = eyeTo(model.box, Point(0, 0, -1), 40, 40, 40);
    Subject plain = model.subject();
    EXPECT_EQ(draw::paint(subject, far).packed(), draw::paint(plain, far).packed());
}

TEST(Draw, ASectionTakesOffWhatLiesBeforeIt) {
    const Model model(unitBox());
    Subject subject = model.subject();
    const Eye eye = eyeTo(model.box, Point(0, 0, -1), 0.9, 8, 8);
    subject.left = {{Point::UnitZ(), {.high = 0.25}}};
    const Picture open = draw::paint(subject, eye);
    // The floor, from the inside.
    for (const float d : open.depths) EXPECT_NEAR(d, 0.5, 1e-5);
    for (const Colour& c : open.colours) EXPECT_EQ(c.z(), 0);
    // Its cap, in one colour.
    draw::Fill cap{{Point(0, 0, 0.25), Point(1, 0, 0.25), Point(1, 1, 0.25)}, Colour(0, 1, 0), 0};
    for (const Point& p : {Point(0, 0, 0.25), Point(1, 1, 0.25), Point(0, 1, 0.25)}) cap.corners.push_back(p);
    subject.fills.push_back(cap);
    for (const std::uint32_t c : draw::paint(subject, eye).packed()) EXPECT_EQ(c, 0xFF00FF00U);
    // A second cut takes its half of that cap, too.
    subject.left.push_back({Point::UnitX(), {.low = 0.5}});
    const Picture half = draw::paint(subject, eye);
    for (int y = 0; y < 8; ++y)
        for (int x = 0; x < 8; ++x)
            EXPECT_EQ(half.colours[half.at(x, y)].y() == 1, eye.through(x, y).x() > 0.5) << x << " " << y;
    // Of the other half nothing lies in sight of a plane beyond the part.
    subject.fills.clear();
    subject.left = {{Point::UnitZ(), {.low = 2}}};
    for (const float d : draw::paint(subject, eye).depths) EXPECT_FALSE(std::isfinite(d));
}

TEST(Draw, OutsideTheSlabOnePixelInFiveIsAGhost) {
    const Model model(unitBox());
    Subject subject = model.subject();
    const Eye eye = eyeTo(model.box, Point(0, 0, -1), 0.9, 20, 20);
    subject.slab = draw::Stretch{.low = 0.5};
    const Picture p = draw::paint(subject, eye);
    std::size_t ghosts = 0;
    for (int y = 0; y < 20; ++y)
        for (int x = 0; x < 20; ++x) {
            const bool within = eye.through(x, y).x() >= 0.5;
            const bool empty = isGround(p, x, y);
            EXPECT_FALSE(within && empty);
            if (within || empty) continue;
            ++ghosts;
            EXPECT_LT(p.colours[p.at(x, y)].x(), 0.6 * p.colours[p.at(19, 0)].x());
        }
    EXPECT_EQ(ghosts, 40U);
}

TEST(Draw, LinesAreFullBeforeTheSurfaceAndFaintBehindIt) {
    const Model model(unitBox());
    Subject subject = model.subject();
    subject.inks.clay = Colour(0, 0, 0);
    const Eye eye = eyeTo(model.box, Point(0, 0, -1), 2, 40, 40);
    const auto brightest = [&](double z, float through) {
        const std::vector<float> points = {0.1F, 0.5F, static_cast<float>(z), 0.9F, 0.5F, static_cast<float>(z)};
        Subject with = subject;
        with.lines.push_back(
            {.points = points, .origin = Point::Zero(), .ink = Colour(0, 1, 0), .throughSurface = through, .width = 3});
        const Picture p = draw::paint(with, eye);
        float most = 0;
        for (const Colour& c : p.colours) most = std::max(most, c.y());
        return most;
    };
    EXPECT_NEAR(brightest(1.5, 0.25F), 1, 1e-6);
    EXPECT_NEAR(brightest(1, 0.25F), 1, 1e-6);  // in the surface
    EXPECT_NEAR(brightest(0.5, 0.25F), 0.25, 1e-6);
    EXPECT_EQ(brightest(0.5, 0), 0);
}

TEST(Draw, LinesCoverWhatLiesWithinTheirWidth) {
    rig::Random random(73);
    Subject nothing;
    nothing.inks = inks;
    const Eye eye = eyeTo(mesh::boxOf(unitBox()), Point(0, 0, -1), 2, 40, 30);
    for (int i = 0; i < 60; ++i) {
        std::vector<float> points;
        for (int k = 0; k < 6; ++k) points.push_back(static_cast<float>(random.between(-2, 3)));
        // Upright, level, and a point.
        if (i % 4 == 1) points[3] = points[0];
        if (i % 4 == 2) points[4] = points[1];
        if (i % 4 == 3) std::copy(points.begin(), points.begin() + 3, points.begin() + 3);
        Subject subject = nothing;
        subject.lines.push_back({.points = points, .origin = Point::Zero(), .ink = Colour(1, 1, 1), .width = 2});
        const Picture p = draw::paint(subject, eye);
        const Point from = eye.seen(Point(points[0], points[1], points[2]));
        const Point to = eye.seen(Point(points[3], points[4], points[5]));
        const Point way(to.x() - from.x(), to.y() - from.y(), 0);
        for (int y = 0; y < eye.height; ++y)
            for (int x = 0; x < eye.width; ++x) {
                const Point off(x - from.x(), y - from.y(), 0);
                const double on = way.squaredNorm() > 0 ? std::clamp(off.dot(way) / way.squaredNorm(), 0.0, 1.0) : 0;
                const double covered = std::clamp(1.5 - (off - on * way).norm(), 0.0, 1.0);
                EXPECT_NEAR(p.colours[p.at(x, y)].x(), covered, 1e-5) << i << ": " << x << " " << y;
            }
    }
}

TEST(Draw, ASectionCutsLinesToo) {
    Subject subject;
    subject.inks = inks;
    subject.left = {{Point::UnitX(), {.high = 0.5}}};
    const Eye eye = eyeTo(mesh::boxOf(unitBox()), Point(0, 0, -1), 2, 40, 40);
    const std::vector<float> points = {-1, 0.5F, 0, 2, 0.5F, 0};
    subject.lines.push_back({.points = points, .origin = Point::Zero(), .ink = Colour(1, 1, 1)});
    const Picture p = draw::paint(subject, eye);
    for (int y = 0; y < 40; ++y)
        for (int x = 0; x < 40; ++x) EXPECT_TRUE(isGround(p, x, y) || eye.through(x, y).x() < 0.5 + 2 * eye.pixel);
    EXPECT_FALSE(isGround(p, 5, 19) && isGround(p, 5, 20));
}

TEST(CloseUp, ShowsDetailFinerThanThirtyTwoBitsOfTheWhole) {
    // Steps of a fifty-millionth of the part, in a corner of it.
    const double step = 2e-6;
    std::vector<std::array<Point, 3>> triangles;
    for (int i = 0; i < 40; ++i) {
        const double x = 40 + i * step;
        triangles.push_back({Point(x, 40, 0.001 * (i % 2)), Point(x + step, 40, 0.001 * (i % 2)),
                             Point(x, 40 + 80 * step, 0.001 * (i % 2))});
        triangles.push_back({Point(x + step, 40, 0.001 * (i % 2)), Point(x + step, 40 + 80 * step, 0.001 * (i % 2)),
                             Point(x, 40 + 80 * step, 0.001 * (i % 2))});
    }
    triangles.push_back({Point(-50, -50, -1), Point(50, -50, -1), Point(0, -40, -1)});
    const Model model(loose(triangles));
    mesh::Box corner;
    corner.add(Point(40, 40, 0));
    corner.add(Point(40 + 40 * step, 40 + 40 * step, 0));
    const Eye eye = eyeTo(corner, Point(0, 0, -1), 39 * step, 78, 20);
    draw::CloseUp closeUp;
    Subject subject = model.subject();
    subject.rays = &closeUp.sceneFor(model.mesh, model.rays, model.box, eye);
    EXPECT_NE(subject.rays, &model.rays);
    const Picture fine = draw::paint(subject, eye);
    int wrong = 0;
    for (int y = 0; y < eye.height; ++y)
        for (int x = 0; x < eye.width; ++x) {
            const double at = (eye.through(x, y).x() - 40) / step;
            if (std::abs(at - std::round(at)) < 0.01) continue;
            const double z = static_cast<int>(std::floor(at)) % 2 == 0 ? 0 : 0.001;
            wrong += !(std::abs(fine.depths[fine.at(x, y)] + z - corner.centre().z()) < 1e-4);
        }
    EXPECT_EQ(wrong, 0);
    // A little aside it is the same scene, elsewhere another, and from afar that of the whole.
    Eye aside = eye;
    aside.corner += 5 * eye.pixel * eye.right;
    EXPECT_EQ(&closeUp.sceneFor(model.mesh, model.rays, model.box, aside), subject.rays);
    const Eye turned = eyeTo(corner, Point(0, 0.1, -1), 39 * step, 78, 20);
    EXPECT_NE(&closeUp.sceneFor(model.mesh, model.rays, model.box, turned), &model.rays);
    const Eye afar = eyeTo(model.box, Point(0, 0, -1), 120, 78, 20);
    EXPECT_EQ(&closeUp.sceneFor(model.mesh, model.rays, model.box, afar), &model.rays);
}

// How much of the ink of creases is in a pixel: the only green.
float creaseIn(const Picture& p, int x, int y) {
    const Colour& c = p.colours[p.at(x, y)];
    return c.y() - std::max(c.x(), c.z());
}

TEST(Relief, OutlinesAndCreasesAreInInkAndFlatPlacesAreNot) {
    const Model model(box(Point(-1, -1, -1), Point(1, 1, 1)));
    Subject subject = model.subject();
    subject.relief = true;
    const int size = 201;
    const Picture p = draw::paint(subject, eyeTo(model.box, Point(-1, -1, -1), 4, size, size));
    // From a corner three faces are seen, which meet in the middle: around it there are three creases.
    std::size_t inked = 0;
    constexpr int around = 2000;
    for (int i = 0; i < around; ++i) {
        const double angle = 2 * 3.14159265358979 * i / around;
        const int x = size / 2 + static_cast<int>(std::lround(40 * std::cos(angle)));
        const int y = size / 2 + static_cast<int>(std::lround(40 * std::sin(angle)));
        inked += creaseIn(p, x, y) > 0 ? 1 : 0;
    }
    EXPECT_GE(inked, 3U);
    EXPECT_LE(inked, 200U);
    // In the middle of a face there is none, and its light is that of the face next to it.
    EXPECT_LE(creaseIn(p, size / 2 - 30, size / 2 - 10), 0);
    // Where the part ends it is outlined: the first pixel of it in a row is darker and greener than the second but one.
    int first = 0;
    while (isGround(p, first, size / 2)) ++first;
    EXPECT_GT(creaseIn(p, first, size / 2), creaseIn(p, first + 6, size / 2));
}

TEST(Relief, AGrooveIsDarkerThanWhatItLiesIn) {
    // Two plates with a groove between them, its floor facing as they do.
    Mesh m = box(Point(-10, -10, -1), Point(-0.6, 10, 1));
    m = together(m, box(Point(0.6, -10, -1), Point(10, 10, 1)));
    m = together(m, box(Point(-0.6, -10, -1), Point(0.6, 10, 0)));
    const Model model(m);
    Subject subject = model.subject();
    const Eye eye = eyeTo(model.box, Point(0, 0, -1), 24, 241, 241);
    const Picture flat = draw::paint(subject, eye);
    subject.relief = true;
    const Picture deep = draw::paint(subject, eye);
    const auto light = [](const Picture& p, int x) { return p.colours[p.at(x, 120)].sum(); };
    EXPECT_FLOAT_EQ(light(flat, 120), light(flat, 60));
    EXPECT_LT(light(deep, 120), 0.95F * light(deep, 60));
    EXPECT_FLOAT_EQ(light(deep, 60), light(flat, 60));
}

TEST(Beside, TwoPicturesStandSideBySide) {
    Picture left(2, 3, Colour(1, 0, 0));
    const Picture right(3, 3, Colour(0, 1, 0));
    left.depths[left.at(1, 2)] = 7;
    const Picture both = draw::besideEachOther(left, right);
    ASSERT_EQ(both.width, 5);
    for (int y = 0; y < 3; ++y)
        for (int x = 0; x < 5; ++x) EXPECT_EQ(both.colours[both.at(x, y)], x < 2 ? Colour(1, 0, 0) : Colour(0, 1, 0));
    EXPECT_EQ(both.depths[both.at(1, 2)], 7);
}

// ---- what is not there, ghosts, tints

TEST(Draw, WhatIsHiddenIsNotMetAndGhostsAreInOnePixelOfFive) {
    // Two squares, one behind the other.
    Mesh m = box(Point(0, 0, 0), Point(1, 1, 1));
    const Model model(together(m, box(Point(0, 0, -3), Point(1, 1, -2))));
    Subject subject = model.subject();
    const Eye eye = eyeTo(model.box, Point(0, 0, -1), 0.9, 20, 20);
    const Picture all = draw::paint(subject, eye);
    std::vector<std::uint8_t> first(model.mesh.triangles.size(), 0);
    for (std::size_t t = 0; t < m.triangles.size(); ++t) first[t] = 1;
    subject.hidden = first;
    subject.faint = first;
    const Picture without = draw::paint(subject, eye);
    subject.hidden = {};
    const Picture ghost = draw::paint(subject, eye);
    std::size_t ghosts = 0;
    for (int y = 0; y < 20; ++y)
        for (int x = 0; x < 20; ++x) {
            const std::size_t p = all.at(x, y);
            EXPECT_NEAR(without.depths[p] - all.depths[p], 3, 1e-4);
            const bool isGhost = ghost.depths[p] == all.depths[p];
            ghosts += isGhost;
            if (!isGhost) {
                EXPECT_EQ(ghost.depths[p], without.depths[p]);
            }
        }
    EXPECT_EQ(ghosts, 80U);
}

TEST(Draw, ATintIsBlendedBetweenVertices) {
    Mesh m;
    m.positions = {Point(0, 0, 0), Point(1, 0, 0), Point(1, 1, 0), Point(0, 1, 0)};
    m.triangles = {{0, 1, 2}, {0, 2, 3}};
    const Model model(m);
    Subject subject = model.subject();
    subject.edges = false;
    const std::vector<float> values = {0, 10, 10, 0};
    const std::vector<std::uint32_t> coat(2, 0);
    subject.coat = coat;
    subject.tint.values = values;
    subject.tint.low = 0;
    subject.tint.high = 10;
    for (std::size_t i = 0; i < 5; ++i) subject.tint.ramp[i] = Colour::Constant(0.2F * static_cast<float>(i));
    const Eye eye = eyeTo(model.box, Point(0, 0, -1), 0.9, 20, 20);
    const Picture p = draw::paint(subject, eye);
    // Along x it runs from the first stop to the last, across both triangles alike.
    const float light = p.colours[p.at(19, 10)].x() / (0.8F * static_cast<float>(eye.through(19, 10).x()));
    for (int y = 0; y < 20; ++y)
        for (int x = 0; x < 20; ++x)
            EXPECT_NEAR(p.colours[p.at(x, y)].x(), light * 0.8 * eye.through(x, y).x(), 1e-4) << x << " " << y;
    // Beyond its ends it stays at them.
    subject.tint.high = 5;
    const Picture clipped = draw::paint(subject, eye);
    EXPECT_NEAR(clipped.colours[clipped.at(19, 10)].x(), light * 0.8, 1e-4);
}

}  // namespace
}  // namespace zither::tests
