// Wall, slope, knife edges, undercuts and voids: known answers, and slow obvious rays.
#include <Eigen/Geometry>
#include <cmath>
#include <nlohmann/json.hpp>
#include <numbers>

#include "check/catalogue.h"
#include "fit/fuse.h"
#include "measure/triangle_rows.h"
#include "measure/wall.h"
#include "steps/brief.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::TriangleId;

constexpr double infinite = std::numeric_limits<double>::infinity();

measure::Walls wallsOf(const Mesh& m, const measure::WallOptions& options) {
    const check::Surveyed s(m);
    const bool solid = (*s.survey({}, silent()))->solid;
    const auto walls = measure::wallsOf({m, s.edges(), s.rays(), solid}, options, silent());
    EXPECT_TRUE(walls);
    return walls.value();
}

check::Survey surveyedWith(const Mesh& m, const check::SurveyOptions& options) {
    return **check::Surveyed(m).survey(options, silent());
}

// The same box by smaller triangles.
Mesh finely(const Point& low, const Point& high, int parts) {
    rig::Soup soup;
    const Point size = high - low;
    for (unsigned axis = 0; axis < 3; ++axis)
        for (const bool far : {false, true})
            for (int i = 0; i < parts; ++i)
                for (int j = 0; j < parts; ++j) {
                    const auto at = [&](int u, int v) {
                        Point p;
                        p[axis] = far ? high[axis] : low[axis];
                        const unsigned first = (axis + 1) % 3;
                        const unsigned second = (axis + 2) % 3;
                        p[first] = low[first] + size[first] * u / parts;
                        p[second] = low[second] + size[second] * v / parts;
                        return p;
                    };
                    const Point a = at(i, j), b = at(i + 1, j), c = at(i + 1, j + 1), d = at(i, j + 1);
                    if (far) {
                        soup.add(a, b, c);
                        soup.add(a, c, d);
                    } else {
                        soup.add(a, c, b);
                        soup.add(a, d, c);
                    }
                }
    return fromSoup(soup);
}

// ---- points of a triangle

TEST(TriangleRows, PointsLieWithinAndStandForAllOfIt) {
    rig::Random random(5);
    const auto coordinate = [&] { return static_cast<double>(random.below(2000)) / 100; };
    for (int round = 0; round < 200; ++round) {
        Mesh m =
            loose({{Point(coordinate(), coordinate(), coordinate()), Point(coordinate(), coordinate(), coordinate()),
                    Point(coordinate(), coordinate(), coordinate())}});
        const Point normal = mesh::areaVector(m, 0);
        if (normal.norm() < 1) continue;
        double area = 0;
        Point middle = Point::Zero();
        double count = 0;
        const measure::TriangleRows rows(m, 0, 1, 0.5);
        rows.forEach([&](const Point& at, double stands, const auto&) {
            area += stands;
            middle += stands * at;
            ++count;
            const Point foot = space::nearestOnTriangle(at, m.corner(0, 0), m.corner(0, 1), m.corner(0, 2));
            EXPECT_NEAR((foot - at).norm(), 0, 1e-9);
        });
        EXPECT_NEAR(area, normal.norm() / 2, 1e-9 * normal.norm());
        EXPECT_LT((middle / area - mesh::centroid(m, 0)).norm(), 0.3);
        EXPECT_GE(count, normal.norm() / 2 / 0.5 / 0.5 * 0.9);
    }
}

// ---- wall

TEST(Wall, OfAPlateIsItsThickness) {
    const measure::Walls thick = wallsOf(box(Point(0, 0, 0), Point(10, 8, 1)), {0.9});
    EXPECT_EQ(thick.thinArea, 0);
    EXPECT_TRUE(thick.places.empty());
    EXPECT_EQ(thick.thinnest, infinite);
    // Two sides of 80 and a rim of 36: the rim looks along the plate.
    const measure::Walls thin = wallsOf(box(Point(0, 0, 0), Point(10, 8, 1)), {1.1});
    EXPECT_NEAR(thin.thinArea, 160.0 / 196, 1e-9);
    EXPECT_NEAR(thin.thinnest, 1, 1e-12);
    EXPECT_EQ(thin.places.size(), 2);
    EXPECT_NEAR(thin.places[0].area, 80, 1e-9);
    EXPECT_FALSE(thin.coarser);
}

TEST(Wall, OfAHollowBallIsTheDistanceOfItsSkins) {
    Mesh ball = sphere(10, 96, 48);
    mesh::append(ball, flipped(sphere(9, 96, 48)));
    const measure::Walls walls = wallsOf(ball, {1.05});
    EXPECT_GT(walls.thinArea, 0.99);
    EXPECT_NEAR(walls.thinnest, 1, 0.01);
    EXPECT_EQ(walls.places.size(), 2);
    EXPECT_TRUE(wallsOf(ball, {0.95}).places.empty());
}

TEST(Wall, IsTheSameHoweverTheSurfaceIsDivided) {
    for (const int parts : {1, 3, 17, 40}) {
        const measure::Walls walls = wallsOf(finely(Point(0, 0, 0), Point(6, 5, 0.5), parts), {0.6});
        EXPECT_NEAR(walls.thinArea, 60.0 / 71, 0.01) << parts;
        EXPECT_NEAR(walls.thinnest, 0.5, 1e-6) << parts;
        EXPECT_EQ(walls.places.size(), 2) << parts;
    }
}

// Long narrow triangles side by side, and a fan of them: each holds points that are nearest to those of its neighbour.
TEST(Wall, PlacesGoOnFromNarrowTriangleToNarrowTriangle) {
    constexpr int around = 300;
    const auto at = [](double radius, int i, double z) {
        const double turn = 2 * std::numbers::pi * (i % around) / around;
        return Point(radius * std::cos(turn), radius * std::sin(turn), z);
    };
    const auto quad = [](rig::Soup& soup, const Point& a, const Point& b, const Point& c, const Point& d) {
        soup.add(a, b, c);
        soup.add(a, c, d);
    };
    rig::Soup disc;
    rig::Soup tube;
    for (int i = 0; i < around; ++i) {
        disc.add(Point(0, 0, 0.5), at(20, i, 0.5), at(20, i + 1, 0.5));
        disc.add(Point(0, 0, 0), at(20, i + 1, 0), at(20, i, 0));
        quad(disc, at(20, i, 0), at(20, i + 1, 0), at(20, i + 1, 0.5), at(20, i, 0.5));
        quad(tube, at(20, i, 0), at(20, i + 1, 0), at(20, i + 1, 30), at(20, i, 30));
        quad(tube, at(19.5, i + 1, 0), at(19.5, i, 0), at(19.5, i, 30), at(19.5, i + 1, 30));
        quad(tube, at(20, i, 30), at(20, i + 1, 30), at(19.5, i + 1, 30), at(19.5, i, 30));
        quad(tube, at(19.5, i, 0), at(19.5, i + 1, 0), at(20, i + 1, 0), at(20, i, 0));
    }
    for (const rig::Soup* soup : {&disc, &tube}) {
        const measure::Walls walls = wallsOf(fromSoup(*soup), {0.8});
        EXPECT_EQ(walls.places.size(), 2);
        EXPECT_NEAR(walls.thinnest, 0.5, 0.01);
        EXPECT_GT(walls.thinArea, 0.9);
    }
}

// A block with two pits from below: its large upper face is thin in two places, not in one, and not as a whole.
TEST(Wall, PlacesWithinALargeTriangleAreToldApart) {
    const Mesh block = box(Point(0, 0, 0), Point(40, 20, 10));
    Mesh pits = box(Point(4, 4, -1), Point(10, 10, 9.6));
    mesh::append(pits, box(Point(28, 6, -1), Point(34, 12, 9.6)));
    Mesh both = block;
    mesh::append(both, flipped(pits));
    const auto dug = fit::fuse(both, mesh::Pick(), {}, silent());
    ASSERT_TRUE(dug);
    const measure::Walls walls = wallsOf(dug->mesh, {1});
    // Each lid from above and from below.
    ASSERT_EQ(walls.places.size(), 4);
    for (const measure::ThinPlace& place : walls.places) {
        EXPECT_NEAR(place.area, 36, 4);
        EXPECT_NEAR(place.thinnest, 0.4, 1e-6);
    }
}

TEST(Wall, SpotsSmallerThanTheLimitSquaredAreNoPlaces) {
    // Its tip is thin, but small.
    Mesh m;
    m.positions = {Point(0, 0, 0), Point(1, 0, 0), Point(0.5, 1, 0), Point(0.5, 0.4, 20)};
    m.triangles = {{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {2, 0, 3}};
    const measure::Walls walls = wallsOf(m, {0.05});
    EXPECT_GT(walls.thinArea, 0);
    for (const auto& place : walls.places) EXPECT_GE(place.area, 0.05 * 0.05);
}

TEST(Wall, OfBodiesInEachOtherIsThatOfAllOfThem) {
    // A slab half in a block: within the block there is no wall of its own.
    Mesh both = box(Point(0, 0, 0), Point(10, 10, 10));
    mesh::append(both, box(Point(5, 4.75, 4.75), Point(15, 5.25, 5.25)));
    const measure::Walls walls = wallsOf(both, {1});
    // Outside: four sides of 5 by a half.
    EXPECT_NEAR(walls.thinArea * (600 + 4 * 10 * 0.5 + 2 * 0.25), 10, 0.5);
    EXPECT_NEAR(walls.thinnest, 0.5, 1e-9);
    // Blocks that touch on a face are one piece of material.
    Mesh touching = box(Point(0, 0, 0), Point(10, 10, 0.6));
    mesh::append(touching, box(Point(0, 0, 0.6), Point(10, 10, 1.2)));
    EXPECT_TRUE(wallsOf(touching, {1}).places.empty());
}

TEST(Wall, AgreesWithSlowRaysOnRandomSolids) {
    AssemblyMaker maker(11);
    for (std::size_t round = 0; round < 14; ++round) {
        const Assembly assembly = maker.make(round);
        if (!assembly.closed) continue;
        const auto fused = fit::fuse(assembly.mesh, mesh::Pick(), {}, silent());
        ASSERT_TRUE(fused);
        const check::Surveyed s(fused->mesh);
        if (!(*s.survey({}, silent()))->solid) continue;
        const auto walls = measure::wallsAtCentres({s.mesh(), s.edges(), s.rays(), true}, silent());
        ASSERT_TRUE(walls);
        for (TriangleId t = 0; t < s.mesh().triangles.size(); t = t + 7) {
            const Point from = mesh::centroid(s.mesh(), t);
            const Point normal = mesh::areaVector(s.mesh(), t);
            // Needles of cutting have no direction to speak of.
            if (normal.norm() < 1e-6) continue;
            double nearest = infinite;
            for (TriangleId u = 0; u < s.mesh().triangles.size(); ++u) {
                if (u == t) continue;
                const Point n = mesh::areaVector(s.mesh(), u);
                const Point d = -normal.normalized();
                if (n.dot(d) == 0) continue;
                const double along = n.dot(s.mesh().corner(u, 0) - from) / n.dot(d);
                if (!(along > 0) || along >= nearest) continue;
                const Point at = from + along * d;
                bool within = true;
                for (unsigned k = 0; k < 3; ++k)
                    within &= n.dot((s.mesh().corner(u, (k + 1) % 3) - s.mesh().corner(u, k))
                                        .cross(at - s.mesh().corner(u, k))) >= 0;
                if (within) nearest = along;
            }
            EXPECT_NEAR((*walls)[t], nearest, 1e-5 * nearest) << round << " " << t;
        }
    }
}

TEST(Wall, IsFoundWhereItIsThinnerThanTheRoundingOfRays) {
    for (const double thin : {1e-5, 1e-7, 1e-9}) {
        const measure::Walls walls = wallsOf(box(Point(0, 0, 0), Point(100, 100, thin)), {1});
        EXPECT_NEAR(walls.thinnest, thin, 1e-3 * thin);
    }
}

TEST(Wall, AHairOfAirInFrontIsNoWall) {
    Mesh both = box(Point(0, 0, 0), Point(10, 10, 10));
    mesh::append(both, box(Point(0, 0, 10 + 1e-9), Point(10, 10, 20)));
    EXPECT_TRUE(wallsOf(both, {1}).places.empty());
}

TEST(Wall, TheGridIsMadeCoarserRatherThanEndless) {
    const measure::Walls walls = wallsOf(box(Point(0, 0, 0), Point(100, 100, 0.01)), {0.02, 10'000});
    EXPECT_TRUE(walls.coarser);
    EXPECT_LE(walls.points, 12'000U);
    EXPECT_NEAR(walls.thinnest, 0.01, 1e-9);
    EXPECT_GT(walls.thinArea, 0.99);
}

TEST(Wall, IsTheSameOnOneThreadAndCancels) {
    const Mesh m = fromSoup(rig::sphere(Point(0, 0, 0), 3, 60, 40));
    const measure::Walls many = wallsOf(m, {3});
    tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
    const measure::Walls single = wallsOf(m, {3});
    EXPECT_EQ(many.thinArea, single.thinArea);
    EXPECT_EQ(many.places.size(), single.places.size());
    const check::Surveyed s(m);
    for (int tick = 1; tick < 4; ++tick) {
        CancelAtTick cancel(tick);
        const auto walls = measure::wallsOf({m, s.edges(), s.rays(), true}, {3}, cancel);
        EXPECT_TRUE(!walls && walls.error().cancelled());
    }
}

TEST(Wall, CannotBeToldOfOpenOrInsideOutSurfaces) {
    check::SurveyOptions options;
    options.wall = 2;
    EXPECT_TRUE(std::isnan(check::thinWalls.limited.value(surveyedWith(without(unitBox(), {0}), options))));
    EXPECT_TRUE(std::isnan(check::thinWalls.limited.value(surveyedWith(flipped(unitBox()), options))));
    EXPECT_TRUE(std::isnan(check::thinWalls.limited.value(surveyedWith(Mesh(), options))));
    EXPECT_TRUE(std::isnan(check::thinWalls.limited.value(surveyedWith(unitBox(), {}))));
    const check::Survey survey = surveyedWith(unitBox(), options);
    EXPECT_EQ(check::thinWalls.limited.value(survey), 1);
    EXPECT_NEAR(survey.measured[check::thinnest], 1, 1e-12);
    EXPECT_EQ(std::count_if(survey.findings.list.begin(), survey.findings.list.end(),
                            [](const check::Finding& f) { return f.defect == check::thinWalls; }),
              1);
}

// ---- slope

// A table: a plate on a leg.
Mesh table() {
    Mesh both = box(Point(-5, -5, 10), Point(5, 5, 11));
    mesh::append(both, box(Point(-1, -1, 0), Point(1, 1, 10.5)));
    const auto fused = fit::fuse(both, mesh::Pick(), {}, silent());
    EXPECT_TRUE(fused);
    return fused.value().mesh;
}

double overhangOf(const Mesh& m, double slope, std::array<double, 3> up = {0, 0, 1}) {
    check::SurveyOptions options;
    options.slopeDeg = slope;
    options.up = up;
    return check::overhangs.limited.value(surveyedWith(m, options));
}

TEST(Overhangs, AreWhatFacesDownAndIsNotOnTheFloor) {
    EXPECT_NEAR(overhangOf(table(), 45), 96, 1e-9);
    // Upside down the plate lies on the floor, and the leg stands on it.
    EXPECT_EQ(overhangOf(table(), 45, {0, 0, -2}), 0);
    // On its side.
    EXPECT_NEAR(overhangOf(table(), 45, {1, 0, 0}), 2 * 10, 1e-9);
    EXPECT_TRUE(std::isnan(overhangOf(table(), 0)));
}

TEST(Overhangs, OfARoofEndAtItsSlope) {
    // A wedge whose lower side rises at 30 degrees.
    Mesh m;
    const double rise = std::tan(std::numbers::pi / 6);
    m.positions = {Point(0, 0, 0), Point(1, 0, rise),     Point(0, 1, 0), Point(1, 1, rise),
                   Point(0, 0, 2), Point(1, 0, rise + 2), Point(0, 1, 2), Point(1, 1, rise + 2)};
    m.triangles = box(Point(0, 0, 0), Point(1, 1, 1)).triangles;
    EXPECT_EQ(overhangOf(m, 30), 0);
    EXPECT_EQ(overhangOf(m, 29.9), 0);
    EXPECT_NEAR(overhangOf(m, 30.02), std::hypot(1, rise), 1e-9);
}

TEST(Overhangs, EachConnectedPatchIsOnePlace) {
    check::SurveyOptions options;
    options.slopeDeg = 45;
    Mesh two = table();
    Mesh beside = table();
    for (Point& p : beside.positions) p.x() += 20;
    mesh::append(two, beside);
    const check::Survey survey = surveyedWith(two, options);
    EXPECT_EQ(std::count_if(survey.findings.list.begin(), survey.findings.list.end(),
                            [](const check::Finding& f) { return f.defect == check::overhangs; }),
              2);
}

// ---- beside the part, or the mesh

TEST(Shape, WallsAreHeldAgainstTheEdgesOfTheMesh) {
    check::SurveyOptions options;
    EXPECT_TRUE(std::isnan(check::narrowWalls.limited.value(surveyedWith(unitBox(), options))));
    // A plate of 0.5 with edges of about one.
    options.narrowEdges = 2;
    options.narrowEdge = 0.2;
    const Mesh plate = box(Point(0, 0, 0), Point(10, 10, 0.5));
    EXPECT_EQ(check::narrowWalls.limited.value(surveyedWith(plate, options)), 0);
    options.narrowEdge = 0.3;
    const check::Survey narrow = surveyedWith(plate, options);
    EXPECT_EQ(check::narrowWalls.limited.value(narrow), 2);
    EXPECT_NEAR(narrow.measured[check::narrowest], 0.5, 1e-9);
    // Of the mean edge where no length is said.
    options.narrowEdge = 0;
    EXPECT_EQ(check::narrowWalls.limited.value(surveyedWith(finely(Point(0, 0, 0), Point(10, 10, 0.5), 20), options)),
              2);
    EXPECT_EQ(check::narrowWalls.limited.value(surveyedWith(finely(Point(0, 0, 0), Point(10, 10, 0.5), 90), options)),
              0);
}

TEST(Shape, SmallComponentsAndHolesAreToldApartFromLargeOnes) {
    Mesh m = without(box(Point(0, 0, 0), Point(100, 100, 100)), {0});  // half a face is open
    m = together(m, without(sphere(20, 200, 100), {900, 901}));        // a small rim
    for (Point& p : m.positions) p += Point(500, 0, 0);
    m = together(m, box(Point(0, 0, 0), Point(1, 1, 1)));
    m = together(m, box(Point(5, 0, 0), Point(6, 1, 1)));
    check::SurveyOptions options;
    options.componentPercent = options.holePercent = 2;
    const check::Survey survey = surveyedWith(m, options);
    EXPECT_EQ(check::smallComponents.limited.value(survey), 2);
    EXPECT_EQ(check::smallHoles.limited.value(survey), 1);
    EXPECT_TRUE(std::isnan(check::smallTunnels.limited.value(survey)));
    std::size_t marked = 0;
    for (const check::Finding& f : survey.findings.list) marked += f.defect == check::DefectClass(check::smallHoles);
    EXPECT_EQ(marked, 1U);
    options.holePercent = 90;
    EXPECT_EQ(check::smallHoles.limited.value(surveyedWith(m, options)), 2);
}

// A bow over a ball is a small handle.
TEST(Shape, SmallTunnelsAreToldApartFromLargeOnes) {
    const Mesh bow = together(box(Point(-3, -1, 8), Point(-1, 1, 13)),
                              together(box(Point(1, -1, 8), Point(3, 1, 13)), box(Point(-3, -1, 12), Point(3, 1, 14))));
    const auto bowed = fit::fuse(together(sphere(10, 60, 30), bow), mesh::Pick(), {}, silent());
    ASSERT_TRUE(bowed);
    check::SurveyOptions options;
    options.tunnelPercent = 50;
    const check::Survey survey = surveyedWith(bowed->mesh, options);
    EXPECT_EQ(check::smallTunnels.limited.value(survey), 1);
    options.tunnelPercent = 3;
    EXPECT_EQ(check::smallTunnels.limited.value(surveyedWith(bowed->mesh, options)), 0);
    EXPECT_TRUE(std::isnan(check::smallTunnels.limited.value(surveyedWith(bowed->mesh, {}))));
}

// ---- knife edges, voids, undercuts

// A prism over a triangle with this angle at one edge, 7 long.
Mesh wedge(double degrees) {
    const double a = degrees * std::numbers::pi / 180;
    Mesh m;
    for (const double z : {0.0, 7.0}) {
        m.positions.emplace_back(0, 0, z);
        m.positions.emplace_back(10, 0, z);
        m.positions.emplace_back(10 * std::cos(a), 10 * std::sin(a), z);
    }
    m.triangles = {{0, 2, 1}, {3, 4, 5}, {0, 1, 4}, {0, 4, 3}, {1, 2, 5}, {1, 5, 4}, {2, 0, 3}, {2, 3, 5}};
    return m;
}

double knifeLength(const Mesh& m, double degrees) {
    check::SurveyOptions options;
    options.knifeDeg = degrees;
    return check::knifeEdges.limited.value(surveyedWith(m, options));
}

TEST(KnifeEdges, AreSharperThanTheirLimit) {
    EXPECT_EQ(knifeLength(unitBox(), 89.9), 0);
    EXPECT_NEAR(knifeLength(unitBox(), 90.1), 12, 1e-12);
    EXPECT_NEAR(knifeLength(wedge(25), 30), 7, 1e-9);
    EXPECT_EQ(knifeLength(wedge(35), 30), 0);
    // A valley is not sharp, however narrow.
    EXPECT_EQ(knifeLength(flipped(wedge(25)), 30), 0);
    // Folded back onto itself.
    EXPECT_NEAR(knifeLength(loose({{Point(0, 0, 0), Point(1, 0, 0), Point(0, 1, 0)}}), 30), 0, 0);
    Mesh folded;
    folded.positions = {Point(0, 0, 0), Point(2, 0, 0), Point(0, 1, 0), Point(1, 1, 0)};
    folded.triangles = {{0, 1, 2}, {1, 0, 3}};
    EXPECT_NEAR(knifeLength(folded, 30), 2, 1e-12);
}

TEST(Voids, AreCavitiesWithinMaterial) {
    Mesh m = box(Point(0, 0, 0), Point(10, 10, 10));
    EXPECT_EQ(check::voids.limited.value(surveyed(m)), 0);
    mesh::append(m, flipped(box(Point(1, 1, 1), Point(3, 3, 3))));
    mesh::append(m, flipped(box(Point(5, 5, 5), Point(8, 8, 8))));
    EXPECT_EQ(check::voids.limited.value(surveyed(m)), 2);
    EXPECT_NEAR(surveyed(m).measured[check::voidVolume], 35, 1e-9);
    // A body in a cavity is none, nor is one that is inside out and stands free.
    mesh::append(m, box(Point(6, 6, 6), Point(7, 7, 7)));
    mesh::append(m, flipped(box(Point(20, 0, 0), Point(21, 1, 1))));
    EXPECT_EQ(check::voids.limited.value(surveyed(m)), 2);
}

TEST(Undercuts, AreDarkFromBothEnds) {
    check::SurveyOptions options;
    options.parallelDeg = 0.5;
    EXPECT_EQ(check::undercuts.limited.value(surveyedWith(unitBox(), options)), 0);
    // A table has none; one with a foot as wide as its plate hides the sides that face each other.
    EXPECT_EQ(check::undercuts.limited.value(surveyedWith(table(), options)), 0);
    Mesh spool = table();
    mesh::append(spool, box(Point(-5, -5, -1), Point(5, 5, 0.5)));
    const auto fused = fit::fuse(spool, mesh::Pick(), {}, silent());
    ASSERT_TRUE(fused);
    EXPECT_NEAR(check::undercuts.limited.value(surveyedWith(fused->mesh, options)), 2 * 96, 1);
    EXPECT_TRUE(std::isnan(check::undercuts.limited.value(surveyed(unitBox()))));
}

// ---- what is asked for

TEST(SurveyOptions, WhatIsMeasuredAlreadyIsNotMeasuredAgain) {
    check::SurveyOptions more;
    more.wall = 1;
    more.slopeDeg = 45;
    const check::Surveyed part(unitBox());
    const auto first = *part.survey(more, silent());
    EXPECT_EQ(*part.survey({}, silent()), first);
    check::SurveyOptions other = more;
    other.up = {1, 0, 0};
    EXPECT_NE(*part.survey(other, silent()), first);
    EXPECT_FALSE(more.cover(other));
    other = {};
    other.up = {1, 0, 0};
    EXPECT_TRUE(more.cover(other));
    // Another build volume is another question.
    check::SurveyOptions small;
    small.build = {{0.5, 0.5, 0.5}};
    check::SurveyOptions large;
    large.build = {{9, 9, 9}};
    EXPECT_GT(check::outsideBuild.limited.value(*(*part.survey(small, silent()))), 0);
    EXPECT_EQ(check::outsideBuild.limited.value(*(*part.survey(large, silent()))), 0);
    EXPECT_TRUE(small.cover(small));
    EXPECT_FALSE(small.cover(large));
}

TEST(Brief, SettingsAndTheBuildDirectionComeFromTheFile) {
    const auto parsed =
        steps::parseBrief(nlohmann::ordered_json::parse(R"({"zither": 1, "up": [0, 1, 0], "requirements": {
            "thin_places": {"limit": 0, "wall": 1.5}, "overhang_area": {"limit": "noted", "slope": 30},
            "knife_length": 0, "undercut_area": "noted"}})"),
                          "own.json");
    ASSERT_TRUE(parsed) << parsed.error().message;
    const check::SurveyOptions options = parsed->surveyOptions();
    EXPECT_EQ(options.wall, 1.5);
    EXPECT_EQ(options.slopeDeg, 30);
    EXPECT_EQ(options.knifeDeg, 30);
    EXPECT_EQ(options.parallelDeg, 0.5);
    EXPECT_EQ(options.up[1], 1);
    EXPECT_EQ(steps::titleOf(parsed->requirements[0]), "walls below 1.5");
    // No repair changes these: they are not measured while one is sought.
    EXPECT_EQ(parsed->repairOptions().wall, 0);
    for (const auto& [wrong, says] : std::initializer_list<std::pair<const char*, const char*>>{
             {R"({"thin_places": {"limit": 0, "walls": 1}})", "it has: limit, wall"},
             {R"({"thin_places": {"limit": 0, "wall": 0}})", "above 0"},
             {R"({"thin_places": {"wall": 1}})", "must be a number or"},
             {R"({"shells": {"limit": 1, "wall": 1}})", "it has: limit"}}) {
        const auto refused =
            steps::parseBrief({{"zither", 1}, {"requirements", nlohmann::ordered_json::parse(wrong)}}, "own.json");
        ASSERT_FALSE(refused) << wrong;
        EXPECT_NE(refused.error().message.find(says), std::string::npos) << refused.error().message;
    }
    for (const char* up : {"[0, 0, 0]", "[1, 2]", "3", "[1, 2, \"x\"]"})
        EXPECT_FALSE(steps::parseBrief({{"zither", 1},
                                        {"up", nlohmann::ordered_json::parse(up)},
                                        {"requirements", nlohmann::ordered_json::object()}},
                                       "own.json"));
}

}  // namespace
}  // namespace zither::tests
