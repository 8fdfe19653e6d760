// Mass, deviation with its bound, and what is kept.
#include "measure/deviation.h"
#include "measure/fan_gap.h"
#include "measure/mass.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

// The largest distance over a dense sampling: a lower bound of the deviation.
double sampledDeviation(const Mesh& a, const Mesh& b, int steps) {
    const space::TriangleTree tree(b);
    double farthest = 0;
    for (mesh::TriangleId t = 0; t < a.triangles.size(); ++t)
        for (int i = 0; i <= steps; ++i)
            for (int j = 0; i + j <= steps; ++j) {
                const double u = static_cast<double>(i) / steps;
                const double v = static_cast<double>(j) / steps;
                farthest = std::max(farthest, tree.nearest(a.corner(t, 0) + u * (a.corner(t, 1) - a.corner(t, 0)) +
                                                           v * (a.corner(t, 2) - a.corner(t, 0)))
                                                  ->distanceSquared);
            }
    return std::sqrt(farthest);
}

TEST(Deviation, ZeroForTheSameSurfaceWhateverItsTriangles) {
    const Mesh m = sphere();
    const auto same = compare(m, m, silent());
    EXPECT_EQ(same->aToB.max, 0);
    EXPECT_EQ(same->kept, 1);
    // The plate of 32 triangles against the same plate of two.
    Mesh two;
    two.positions = {Point(0, 0, 0), Point(4, 0, 0), Point(4, 4, 0), Point(0, 4, 0)};
    two.triangles = {{0, 1, 2}, {0, 2, 3}};
    const auto flat = compare(uglyMeshes()[5].second, two, silent());
    EXPECT_LT(flat->aToB.found, 1e-12);
    EXPECT_LE(flat->aToB.max, 1e-4);
    EXPECT_LE(flat->bToA.max, 1e-4);
}

TEST(Deviation, IsAnUpperBoundCloseToADenseSampling) {
    rig::Random random(51);
    for (int round = 0; round < 12; ++round) {
        const Mesh a = round % 2 ? sphere(10, 20, 14) : gridSoup(static_cast<std::uint64_t>(round), 30, 6);
        Mesh b = round % 3 ? sphere(9.7, 13, 9) : gridSoup(static_cast<std::uint64_t>(round + 100), 30, 6);
        const auto c = compare(a, b, silent());
        const double sampled = sampledDeviation(a, b, 24);
        EXPECT_GE(c->aToB.max, sampled) << round;
        EXPECT_LE(c->aToB.found, c->aToB.max) << round;
        EXPECT_LE(c->aToB.max, c->aToB.found * 1.021 + 2e-3) << round;
        EXPECT_GE(c->aToB.found, 0.97 * sampled) << round;
    }
}

TEST(Deviation, TheMiddleOfAFaceCanBeFarthest) {
    // All corners of the long triangle lie on the roof, its middle does not.
    Mesh roof;
    roof.positions = {Point(-2, 0, 0), Point(0, 0, 1), Point(2, 0, 0), Point(-2, 4, 0), Point(0, 4, 1), Point(2, 4, 0)};
    roof.triangles = {{0, 1, 4}, {0, 4, 3}, {1, 2, 5}, {1, 5, 4}};
    Mesh floor;
    floor.positions = {Point(-2, 0, 0), Point(2, 0, 0), Point(2, 4, 0), Point(-2, 4, 0)};
    floor.triangles = {{0, 1, 2}, {0, 2, 3}};
    const auto c = compare(floor, roof, silent());
    EXPECT_NEAR(c->aToB.max, 2 / std::sqrt(5.0), 0.03);
    EXPECT_GE(c->aToB.max, 2 / std::sqrt(5.0));
}

TEST(Deviation, ShiftedBoxAndMean) {
    Mesh moved = unitBox();
    for (Point& p : moved.positions) p.x() += 0.1;
    const auto c = compare(unitBox(), moved, silent());
    EXPECT_NEAR(c->aToB.found, 0.1, 1e-12);
    EXPECT_GE(c->aToB.max, 0.1);
    EXPECT_LE(c->aToB.max, 0.103);
    EXPECT_GT(c->mean, 0);
    EXPECT_LT(c->mean, 0.1);
    EXPECT_EQ(c->kept, 0);
}

TEST(Deviation, EmptySurfaces) {
    EXPECT_EQ(compare(Mesh(), unitBox(), silent())->aToB.max, 0);
    EXPECT_TRUE(std::isinf(compare(Mesh(), unitBox(), silent())->bToA.max));
    EXPECT_EQ(compare(Mesh(), Mesh(), silent())->mean, 0);
}

TEST(Deviation, SameForOneThreadAndCancellable) {
    const Mesh a = sphere(10, 80, 50);
    const Mesh b = sphere(10, 50, 30);
    const auto run = [&] { return compare(a, b, silent())->aToB.max; };
    EXPECT_EQ(run(), withOneThread(run));
    for (int tick = 1; tick < 6; ++tick) {
        CancelAtTick progress(tick);
        EXPECT_TRUE(compare(a, b, progress).error().cancelled()) << tick;
    }
}

TEST(FanGap, ExactOnAPyramid) {
    Mesh m;
    m.positions = {Point(0, 0, 1), Point(2, 0, 0), Point(0, 2, 0), Point(-2, 0, 0), Point(0, -2, 0)};
    m.triangles = {{0, 1, 2}, {0, 2, 3}, {0, 3, 4}, {0, 4, 1}};
    const mesh::Corners corners(m);
    const auto on = [](double x, double y) { return Point(x, y, 1 - (std::abs(x) + std::abs(y)) / 2); };
    // A triangle around the apex: the gap is largest at the apex itself.
    const std::array<Point, 3> feet = {on(0.4, 0), on(-0.2, 0.2), on(-0.2, -0.2)};
    EXPECT_NEAR(measure::gapOverFan(m, corners, 0, feet), 0.2, 1e-9);
    // Within one face there is none; beyond the rim nothing can be told; nor at a vertex on the border.
    EXPECT_NEAR(measure::gapOverFan(m, corners, 0, {on(0.2, 0.2), on(0.3, 0.2), on(0.2, 0.3)}), 0, 1e-12);
    EXPECT_TRUE(std::isinf(measure::gapOverFan(m, corners, 0, {on(0.2, 0.2), on(3, 0.2), on(0.2, 0.3)})));
    EXPECT_TRUE(std::isinf(measure::gapOverFan(m, corners, 1, feet)));
}

TEST(Kept, CountsBitIdenticalTrianglesOnce) {
    Mesh twice = unitBox();
    twice.triangles.push_back(twice.triangles[0]);
    EXPECT_DOUBLE_EQ(measure::keptOf(twice, unitBox()).share, 12.0 / 13);
    EXPECT_EQ(measure::keptOf(unitBox(), flipped(unitBox())).share, 1);
    Mesh moved = unitBox();
    moved.positions[0].x() = std::nextafter(0.0, 1.0);
    EXPECT_LT(measure::keptOf(unitBox(), moved).share, 1);
    EXPECT_EQ(measure::keptOf(Mesh(), unitBox()).share, 1);
    EXPECT_EQ(measure::keptOf(unitBox(), Mesh()).share, 0);
}

TEST(Mass, VolumeDoesNotDependOnTheOffset) {
    Mesh far = unitBox();
    for (Point& p : far.positions) p += Point(1e8, -1e8, 1e8);
    EXPECT_DOUBLE_EQ(measure::massOf(far).volume, 1);
    EXPECT_EQ(measure::massOf(Mesh()).volume, 0);
}

TEST(Angle, KnownTriangles) {
    Mesh m;
    m.positions = {Point(0, 0, 0), Point(1, 0, 0), Point(0.5, std::sqrt(0.75), 0), Point(0, 1, 0), Point(2, 0, 0)};
    m.triangles = {{0, 1, 2}, {0, 1, 3}, {0, 1, 4}};
    EXPECT_NEAR(measure::smallestAngleDeg(m, 0), 60, 1e-9);
    EXPECT_NEAR(measure::smallestAngleDeg(m, 1), 45, 1e-9);
    EXPECT_EQ(measure::smallestAngleDeg(m, 2), 0);
}

}  // namespace
}  // namespace zither::tests
