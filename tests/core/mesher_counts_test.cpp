// What a volume mesher trips over: folds, and skins a hair apart.
#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include "check/crossing_pairs.h"
#include "space/triangle_distance.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::TriangleId;
using Corners = std::array<Point, 3>;

// ---- distances, by halving triangles until nothing nearer can be among them: slow and obvious

std::array<Corners, 4> quarters(const Corners& t) {
    const Point a = (t[0] + t[1]) / 2;
    const Point b = (t[1] + t[2]) / 2;
    const Point c = (t[2] + t[0]) / 2;
    return {Corners{t[0], a, c}, {a, t[1], b}, {c, b, t[2]}, {a, b, c}};
}
double reachOf(const Corners& t, const Point& middle) {
    return std::max({(t[0] - middle).norm(), (t[1] - middle).norm(), (t[2] - middle).norm()});
}
void halve(const Corners& a, const Corners& b, double& least) {
    const Point ma = (a[0] + a[1] + a[2]) / 3;
    const Point mb = (b[0] + b[1] + b[2]) / 3;
    const double between = (ma - mb).norm();
    least = std::min(least, between);
    const double ra = reachOf(a, ma);
    const double rb = reachOf(b, mb);
    if (between - ra - rb > least - 1e-2 || ra + rb < 1e-2) return;
    if (ra >= rb)
        for (const Corners& part : quarters(a)) halve(part, b, least);
    else
        for (const Corners& part : quarters(b)) halve(a, part, least);
}
double slowDistance(const Mesh& m, TriangleId a, TriangleId b) {
    double least = 1e300;
    halve({m.corner(a, 0), m.corner(a, 1), m.corner(a, 2)}, {m.corner(b, 0), m.corner(b, 1), m.corner(b, 2)}, least);
    return least;
}

space::Triangle3 pointers(const Mesh& m, TriangleId t) {
    return {&m.corner(t, 0), &m.corner(t, 1), &m.corner(t, 2)};
}

bool shareAVertex(const Mesh& m, TriangleId a, TriangleId b) {
    for (const mesh::VertexId v : m.triangles[a])
        for (const mesh::VertexId w : m.triangles[b])
            if (v == w) return true;
    return false;
}

TEST(TriangleDistance, EqualsHalvingOnIntegerGrids) {
    for (std::uint64_t seed = 0; seed < seedsOf(25, 25); ++seed) {
        const Mesh m = gridSoup(seed + 4100, 8, 4);
        for (TriangleId a = 0; a < m.triangles.size(); ++a)
            for (TriangleId b = a + 1; b < m.triangles.size(); ++b) {
                if (check::isDegenerate(m, a) || check::isDegenerate(m, b)) continue;
                // Of those that meet there is no end of halves.
                if (shareAVertex(m, a, b) || check::trianglesIntersect(m, a, b)) continue;
                const double slow = slowDistance(m, a, b);
                const double fast = std::sqrt(space::distanceSquared(pointers(m, a), pointers(m, b)));
                EXPECT_NEAR(fast, slow, 2e-2) << seed;
                // Where they are nearest they are as far apart.
                const auto near = space::nearestPoints(pointers(m, a), pointers(m, b));
                Point between = Point::Zero();
                for (unsigned k = 0; k < 3; ++k) between += near.a[k] * m.corner(a, k) - near.b[k] * m.corner(b, k);
                EXPECT_NEAR(between.norm(), fast, 1e-9) << seed;
                EXPECT_NEAR(near.a[0] + near.a[1] + near.a[2], 1, 1e-12);
                EXPECT_GE(*std::min_element(near.b.begin(), near.b.end()), 0);
                // A separating plane is never found where there is none.
                EXPECT_FALSE(space::surelyFarther(pointers(m, a), pointers(m, b), slow + 2e-2)) << seed;
            }
    }
}

TEST(HairGaps, TrianglesThatAreNearAreThoseOfEveryPairLookedAtByItself) {
    for (std::uint64_t seed = 0; seed < 12; ++seed) {
        const Mesh m = gridSoup(seed + 4300, 30, 6);
        std::vector<std::uint8_t> leftOut(m.triangles.size());
        for (TriangleId t = 0; t < m.triangles.size(); ++t) leftOut[t] = check::isDegenerate(m, t);
        constexpr double reach = 0.31;  // no two points of such a grid's planes and lines are so far apart, nearly
        std::vector<std::uint8_t> near(m.triangles.size(), 0);
        for (TriangleId a = 0; a < m.triangles.size(); ++a)
            for (TriangleId b = a + 1; b < m.triangles.size(); ++b)
                if (!leftOut[a] && !leftOut[b] && !shareAVertex(m, a, b) && !check::trianglesIntersect(m, a, b) &&
                    space::distanceSquared(pointers(m, a), pointers(m, b)) < reach * reach)
                    near[a] = near[b] = 1;
        const space::TriangleTree tree(m);
        const auto met = check::meetings(tree, reach, silent(), {.leftOut = leftOut});
        ASSERT_TRUE(met);
        std::vector<std::uint8_t> found(m.triangles.size(), 0);
        for (const TriangleId t : met->near) found[t] = 1;
        EXPECT_EQ(found, near) << seed;
        EXPECT_EQ(met->crossing.size(), check::crossingPairs(tree, silent(), {.leftOut = leftOut})->size());
    }
}

// Two boxes one above the other, so far apart.
Mesh stacked(double gap) {
    return together(box(Point(0, 0, 0), Point(10, 10, 10)), box(Point(0, 0, 10 + gap), Point(10, 10, 20 + gap)));
}

TEST(HairGaps, ACoatOnEachSideOfAGapAHairWide) {
    const double diagonal = mesh::boxOf(stacked(0)).diagonal();
    const auto wide = surveyed(stacked(1.01e-6 * diagonal));
    EXPECT_EQ(wide.counts.hairGaps, 0U);
    const auto narrow = surveyed(stacked(0.99e-6 * diagonal));
    EXPECT_EQ(narrow.counts.hairGaps, 2U);
    EXPECT_TRUE(narrow.solid);
    // What touches is no gap.
    EXPECT_EQ(surveyed(stacked(0)).counts.hairGaps, 0U);
    EXPECT_EQ(surveyed(together(stacked(0), box(Point(2, 2, 9), Point(3, 3, 10)))).counts.hairGaps, 0U);
    // Neighbours over a vertex are never a gap, however thin what lies between.
    EXPECT_EQ(surveyed(sphere(1, 200, 100)).counts.hairGaps, 0U);
}

// Two triangles over an edge along x, the one turned out of the plane of the other by so many degrees.
Mesh hinge(double degrees) {
    const double a = degrees * std::numbers::pi / 180;
    Mesh m;
    m.positions = {Point(0, 0, 0), Point(1, 0, 0), Point(0.4, 1, 0), Point(0.6, std::cos(a), std::sin(a))};
    m.triangles = {{0, 1, 2}, {1, 0, 3}};
    return m;
}

TEST(Folds, AreEdgesWhoseSidesLieNearlyOnEachOther) {
    EXPECT_EQ(surveyed(hinge(0.49)).counts.folds, 1U);
    EXPECT_EQ(surveyed(hinge(-0.49)).counts.folds, 1U);
    EXPECT_EQ(surveyed(hinge(0.51)).counts.folds, 0U);
    EXPECT_EQ(surveyed(hinge(180)).counts.folds, 0U);
    // Whichever way the two face.
    Mesh m = hinge(0.4);
    std::swap(m.triangles[1][0], m.triangles[1][1]);
    EXPECT_EQ(surveyed(m).counts.folds, 1U);
    // A third triangle makes it no fold, but an edge of three.
    m.positions.push_back(Point(0.5, -1, 0));
    m.triangles.push_back({0, 1, 4});
    EXPECT_EQ(surveyed(m).counts.folds, 0U);
}

TEST(Folds, NeedlesAreNoSides) {
    Mesh m = hinge(0.3);
    // Far from the edge in x alone: a height of next to nothing.
    m.positions[3] = Point(0.5, 1e-7, 1e-10);
    const auto s = surveyed(m);
    EXPECT_EQ(s.counts.needles, 1U);
    EXPECT_EQ(s.counts.folds, 0U);
}

}  // namespace
}  // namespace zither::tests
