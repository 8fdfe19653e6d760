// Mass, deviation with its bound, and what is kept.
#include "measure/deviation.h"
#include "measure/mass.h"
#include "measure/overlay.h"
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

double distanceToSkin(const Point& p, const Point& low, const Point& high) {
    const Point outside = (low - p).cwiseMax(p - high).cwiseMax(Point(0, 0, 0));
    return outside.norm() > 0 ? outside.norm() : std::min((p - low).minCoeff(), (high - p).minCoeff());
}

// The slow and obvious way: a grid on each face.
double meanOverBox(const Point& low, const Point& high, const Point& otherLow, const Point& otherHigh) {
    constexpr int n = 300;
    double sum = 0;
    double area = 0;
    for (int axis = 0; axis < 3; ++axis)
        for (const bool top : {false, true}) {
            const int u = (axis + 1) % 3;
            const int v = (axis + 2) % 3;
            const double face = (high - low)[u] * (high - low)[v];
            for (int i = 0; i < n; ++i)
                for (int k = 0; k < n; ++k) {
                    Point p = top ? high : low;
                    p[u] = low[u] + (i + 0.5) / n * (high - low)[u];
                    p[v] = low[v] + (k + 0.5) / n * (high - low)[v];
                    sum += face / (n * n) * distanceToSkin(p, otherLow, otherHigh);
                }
            area += face;
        }
    return sum / area;
}

// Twelve triangles have four corners and centres each; the mean needs more points than that.
TEST(Deviation, MeanOfFewLargeTrianglesIsThatOfADenseGrid) {
    const Point low(0, 0, 0);
    const Point high(10, 20, 30);
    for (const double by : {0.5, 5.0}) {
        const Point shift(by, 0, 0);
        const auto c = compare(box(low, high), box(low + shift, high + shift), silent());
        ASSERT_TRUE(c);
        const double mean =
            (meanOverBox(low, high, low + shift, high + shift) + meanOverBox(low + shift, high + shift, low, high)) / 2;
        EXPECT_NEAR(c->mean, mean, 0.001 * mean) << by;
        EXPECT_GE(c->meanPoints, 40'000U);
    }
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

// A pyramid over a square, its apex at height 1.
Mesh pyramid() {
    Mesh m;
    m.positions = {Point(0, 0, 1), Point(2, 0, 0), Point(0, 2, 0), Point(-2, 0, 0), Point(0, -2, 0)};
    m.triangles = {{0, 1, 2}, {0, 2, 3}, {0, 3, 4}, {0, 4, 1}};
    return m;
}

TEST(Overlay, ExactOnAPyramid) {
    const Mesh m = pyramid();
    const mesh::Edges edges(m);
    const auto on = [](double x, double y) { return Point(x, y, 1 - (std::abs(x) + std::abs(y)) / 2); };
    // A level triangle around the apex: highest at the apex itself.
    const auto around = measure::heightOver(m, edges, {on(0.4, 0), on(-0.2, 0.2), on(-0.2, -0.2)}, 2);
    ASSERT_TRUE(around);
    EXPECT_NEAR(around->most, 0.2, 1e-12);
    EXPECT_NEAR((around->at - Point(0, 0, 0.8)).norm(), 0, 1e-12);
    // Within one face there is none; what lies beyond the rim is measured to the rim; nothing can be told from a
    // triangle that is not under it.
    EXPECT_NEAR(measure::heightOver(m, edges, {on(0.2, 0.2), on(0.3, 0.2), on(0.2, 0.3)}, 0)->most, 0, 1e-12);
    std::vector<mesh::TriangleId> under;
    const Point outside(3, 0.2, -0.6);
    EXPECT_NEAR(measure::heightOver(m, edges, {on(0.2, 0.2), outside, on(0.2, 0.3)}, 0, &under)->most,
                (outside - Point(2, 0, 0)).norm(), 1e-12);
    EXPECT_EQ(under, std::vector<mesh::TriangleId>{0});
    EXPECT_FALSE(measure::heightOver(m, edges, {on(0.2, 0.2), on(0.3, 0.2), on(0.2, 0.3)}, 2));
    // Nothing of a piece without an area, nor of one that stands on a face.
    EXPECT_FALSE(measure::heightOver(m, edges, {on(0.2, 0.2), on(0.2, 0.2), on(0.2, 0.3)}, 0));
    EXPECT_FALSE(measure::heightOver(m, edges, {Point(0.1, 0.1, 0), Point(0.2, 0.2, 0), Point(0.1, 0.1, 3)}, 0));
}

TEST(Overlay, NoPointOfAPieceIsHigherThanItIsSaid) {
    rig::Random random(5);
    const Mesh m = sphere(10, 40, 24);
    const mesh::Edges edges(m);
    const space::TriangleTree tree(m);
    std::size_t laid = 0;
    for (int round = 0; round < 3000; ++round) {
        const Point centre = 10 * random.direction();
        const double size = random.between(0.1, 6);
        std::array<Point, 3> piece;
        for (Point& p : piece) p = centre + size * random.uniform() * random.direction();
        const auto height =
            measure::heightOver(m, edges, piece, tree.nearest((piece[0] + piece[1] + piece[2]) / 3)->triangle);
        if (!height) continue;
        ++laid;
        for (int i = 0; i < 40; ++i) {
            double a = random.uniform();
            double b = random.uniform();
            if (a + b > 1) a = 1 - a, b = 1 - b;
            const Point p = piece[0] + a * (piece[1] - piece[0]) + b * (piece[2] - piece[0]);
            EXPECT_LE(std::sqrt(tree.nearest(p)->distanceSquared), height->most + 1e-9);
        }
    }
    EXPECT_GT(laid, 500U);
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
