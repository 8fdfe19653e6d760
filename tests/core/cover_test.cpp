// Plates over what no rounding holds: they hold all of it, add no more than they say, and end what rungs do not.
#include "fit/cover.h"

#include <Eigen/Geometry>
#include <random>

#include "enclose/volumes.h"
#include "fit/fit.h"
#include "space/triangle_tree.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using fit::Corners;
using mesh::TriangleId;

fit::Covered coveredWith(const Mesh& m, const std::vector<Corners>& trouble, double height) {
    auto over = fit::covered(m, trouble, {.height = height}, silent());
    EXPECT_TRUE(over);
    EXPECT_EQ(mesh::validate(over.value().mesh), "");
    EXPECT_EQ(over.value().sourceOf.size(), over.value().mesh.triangles.size());
    EXPECT_EQ(over.value().whole.size(), over.value().mesh.triangles.size());
    EXPECT_EQ(over.value().givenVertex.size(), over.value().mesh.positions.size());
    for (TriangleId t = 0; t < over.value().whole.size(); ++t)
        for (unsigned k = 0; over.value().whole[t] && k < 3; ++k)
            EXPECT_EQ(over.value().mesh.corner(t, k), m.corner(over.value().sourceOf[t], k));
    for (mesh::VertexId v = 0; v < over->givenVertex.size(); ++v)
        EXPECT_TRUE(over->givenVertex[v] == mesh::noIndex ||
                    over->mesh.positions[v] == m.positions[over->givenVertex[v]]);
    return std::move(*over);
}

std::vector<Corners> cornersOf(const Mesh& m, const std::vector<TriangleId>& triangles) {
    std::vector<Corners> list;
    for (const TriangleId t : triangles) list.push_back({m.corner(t, 0), m.corner(t, 1), m.corner(t, 2)});
    return list;
}

TEST(Cover, PlatesHoldWhatTheyAreMadeForAndReachNoFarther) {
    std::mt19937 random(5);
    std::uniform_real_distribution<double> number(-1, 1);
    const double height = 0.01;
    const Mesh body = box(Point(-1, -1, -1), Point(1, 1, 1));
    for (int round = 0; round < (longMode() ? 300 : 40); ++round) {
        // A triangle anywhere, sometimes a needle, a line or a point; half of it may lie in the body.
        Corners c;
        for (Point& p : c) p = 1.2 * Point(number(random), number(random), number(random));
        if (round % 5 == 1) c[2] = c[0] + 1e-9 * Point(number(random), number(random), number(random));
        if (round % 5 == 2) c[2] = 0.5 * (c[0] + c[1]);
        if (round % 5 == 3) c[1] = c[2] = c[0];
        const fit::Covered over = coveredWith(body, {c}, height);
        EXPECT_EQ(over.plates, 1U);
        const check::Survey s = surveyed(over.mesh);
        EXPECT_EQ(s.counts.boundaryEdges + s.counts.misorientedEdges, 0U) << round;
        EXPECT_GE(s.mass.volume, 8 - 1e-9) << round;
        const space::TriangleTree skin(over.mesh);
        for (int i = 0; i < 20; ++i) {
            const double a = std::abs(number(random));
            const double b = (1 - a) * std::abs(number(random));
            const Point p = a * c[0] + b * c[1] + (1 - a - b) * c[2];
            // Inside, as far from the skin as was asked for.
            const double distance = std::sqrt(skin.nearest(p)->distanceSquared);
            EXPECT_GE(distance, 0.99 * height) << round;
        }
        // What was made lies near the triangle.
        Mesh alone;
        alone.positions.assign(c.begin(), c.end());
        alone.triangles.push_back({0, 1, 2});
        const space::TriangleTree triangle(alone);
        for (mesh::VertexId v = 0; v < over.mesh.positions.size(); ++v)
            EXPECT_TRUE(over.givenVertex[v] != mesh::noIndex ||
                        std::sqrt(triangle.nearest(over.mesh.positions[v])->distanceSquared) <=
                            fit::plateReach * height)
                << round;
    }
}

TEST(Cover, TrianglesInOnePlaneThatMakeUpSomethingConvexHaveOnePlate) {
    const Mesh body = box(Point(-1, -1, -1), Point(1, 1, 1));
    // A grid of triangles over a rectangle, one of which stands on edge.
    std::vector<Corners> trouble;
    for (int x = 0; x < 4; ++x)
        for (int y = 0; y < 3; ++y) {
            const Point a(0.1 * x, 0.1 * y, 1.5);
            trouble.push_back({a, a + Point(0.1, 0, 0), a + Point(0.1, 0.1, 0)});
            trouble.push_back({a, a + Point(0.1, 0.1, 0), a + Point(0, 0.1, 0)});
        }
    EXPECT_LE(coveredWith(body, trouble, 1e-3).plates, 5U);
    trouble.push_back({Point(0, 0, 1.5), Point(0.1, 0, 1.5), Point(0, 0, 1.6)});
    const fit::Covered over = coveredWith(body, trouble, 1e-3);
    EXPECT_GE(over.plates, 2U);
    EXPECT_NEAR(surveyed(over.mesh).mass.volume, 8 + 0.4 * 0.3 * 3e-3, 0.4 * 0.3 * 3e-3);
    // Two corners of an L stay two plates: nothing is laid over what is empty between them.
    const std::vector<Corners> corner = {{Point(0, 0, 1.5), Point(1, 0, 1.5), Point(0, 0.1, 1.5)},
                                         {Point(0, 0, 1.5), Point(0.1, 0, 1.5), Point(0, 1, 1.5)}};
    EXPECT_EQ(coveredWith(body, corner, 1e-3).plates, 2U);
}

// Discs that lie through each other at angles of a few last places.
Mesh discs(std::uint32_t seed, int count) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> drawn(-1, 1);
    // One after the other: compilers are free in what order they ask within a term.
    const auto number = [&] { return drawn(random); };
    const auto across = [&] {
        const double y = number();
        const double x = number();
        return Point(x, y, 0);
    };
    std::vector<Mesh> parts;
    Eigen::Quaterniond turn;
    for (const int k : {2, 1, 0, 3}) turn.coeffs()[k] = number();
    for (int i = 0; i < count; ++i) {
        Eigen::Affine3d by = Eigen::Affine3d::Identity();
        by.translate(Point(3, 5, 2));
        by.rotate(turn.normalized());
        const Point axis = across().normalized();
        by.rotate(Eigen::AngleAxisd(3e-5 * number(), axis));
        by.rotate(Eigen::AngleAxisd(3 * number(), Point::UnitZ()));
        by.translate(0.2 * across());
        parts.push_back(moved(cylinder(1, 1, 24), by, false));
    }
    return assembled(parts);
}

TEST(Cover, EndsWhatRungsDoNot) {
    std::size_t stuck = 0;
    // Most seeds end without plates.
    for (std::uint32_t seed = longMode() ? 0 : 9; seed < (longMode() ? 100U : 10U); ++seed) {
        const Mesh m = discs(seed, 16);
        enclose::VolumesOptions options;
        options.mostCovered = 0;
        const auto without = enclose::fullOrEmpty(check::Surveyed(m), options, silent());
        ASSERT_TRUE(without);
        if (without->unsound.empty()) continue;
        ++stuck;
        EXPECT_GT(without->coverable, 0U);
        const auto with = enclose::fullOrEmpty(check::Surveyed(m), {}, silent());
        ASSERT_TRUE(with);
        const check::Survey s = surveyed(with->mesh);
        EXPECT_TRUE(s.solid) << seed << ": " << s.counts.selfIntersectingPairs;
        EXPECT_TRUE(with->unsound.empty());
        EXPECT_EQ(with->coverable, 0U);
        EXPECT_GT(with->plates, 0U) << seed;
        EXPECT_LE(with->plateHeight, 3e-4 * mesh::boxOf(m).diagonal()) << seed;
        for (const TriangleId t : with->sourceOf) EXPECT_TRUE(t == mesh::noIndex || t < m.triangles.size());
    }
    EXPECT_GT(stuck, 0U);
}

// Seventeen steps of a float across: whatever is in trouble, plates of some steps would bury the ball.
TEST(Cover, NothingIsBuriedWhereTheFileIsCoarse) {
    Mesh ball = sphere(0.5);
    for (Point& p : ball.positions) p += Point(1e6, 0, 0);
    const auto fit = fit::makeFit(ball, {}, silent());
    ASSERT_TRUE(fit);
    EXPECT_EQ(fit->plates, 0U);
    // The ball is there still, on a grid of a sixteenth.
    EXPECT_NEAR(surveyed(fit->mesh).mass.volume, 4 * std::numbers::pi / 3 * 0.125, 0.06);
}

TEST(Cover, CancelledAtAnyTickThereIsNothing) {
    const Mesh body = box(Point(-1, -1, -1), Point(1, 1, 1));
    const std::vector<Corners> trouble = cornersOf(body, std::vector<TriangleId>{0, 1, 2, 3});
    for (int tick = 1; tick < 5; ++tick) {
        CancelAtTick cancel(tick);
        const auto over = fit::covered(body, trouble, {.height = 0.01}, cancel);
        ASSERT_FALSE(over);
        EXPECT_TRUE(over.error().cancelled());
    }
}

}  // namespace
}  // namespace zither::tests
