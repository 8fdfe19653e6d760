// The tree and winding numbers against brute force.
#include <map>
#include <set>

#include "mesh/hilbert.h"
#include "space/nearby.h"
#include "space/ray_scene.h"
#include "space/triangle_tree.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Box;
using mesh::TriangleId;
using space::TriangleTree;

Point randomPoint(rig::Random& random, double reach) {
    const double x = random.between(-reach, reach);
    const double y = random.between(-reach, reach);
    return {x, y, random.between(-reach, reach)};
}

double slowDistanceSquared(const Mesh& m, const Point& p) {
    double best = std::numeric_limits<double>::infinity();
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        best = std::min(
            best, (space::nearestOnTriangle(p, m.corner(t, 0), m.corner(t, 1), m.corner(t, 2)) - p).squaredNorm());
    return best;
}

TEST(TriangleTree, ValidOnUglyMeshes) {
    for (const auto& [name, m] : uglyMeshes()) EXPECT_EQ(TriangleTree(m).validate(), "") << name;
}

TEST(TriangleTree, NearestEqualsSearchingAll) {
    rig::Random random(21);
    for (const Mesh& m : {sphere(), gridSoup(22, 300, 6), unitBox()}) {
        const TriangleTree tree(m);
        for (int i = 0; i < 400; ++i) {
            const Point p = randomPoint(random, 12);
            const auto found = tree.nearest(p);
            ASSERT_TRUE(found);
            EXPECT_EQ(found->distanceSquared, slowDistanceSquared(m, p));
            // A hint may shorten the search but must not change the distance.
            const auto hinted = tree.nearest(p, std::numeric_limits<double>::infinity(),
                                             static_cast<TriangleId>(random.below(m.triangles.size())));
            EXPECT_EQ(hinted->distanceSquared, found->distanceSquared);
        }
    }
}

// Boxes are packed in steps of a leaf's box: small ones far from the origin, thin ones, and some too large for floats.
TEST(TriangleTree, PackedBoxesHoldTheirTriangles) {
    rig::Random random(23);
    for (const double scale : {1e-45, 1e-42, 1e-30, 1e-3, 1.0, 1e30, 3e38})
        for (const double offset : {0.0, 1e3, 1e7}) {
            Mesh m = gridSoup(24, 200, 5);
            for (Point& p : m.positions) p = scale * (p + Point(offset, -offset, random.below(2) == 0 ? 0 : offset));
            const TriangleTree tree(m);
            EXPECT_EQ(tree.validate(), "") << scale << " " << offset;
            for (int i = 0; i < 40; ++i) {
                const Point p = mesh::centroid(m, static_cast<TriangleId>(random.below(m.triangles.size())));
                EXPECT_EQ(tree.nearest(p)->distanceSquared, slowDistanceSquared(m, p)) << scale << " " << offset;
            }
        }
}

TEST(TriangleTree, WhatIsNearEnoughEndsTheSearch) {
    rig::Random random(27);
    const Mesh m = gridSoup(28, 300, 6);
    const TriangleTree tree(m);
    for (int i = 0; i < 400; ++i) {
        const Point p = randomPoint(random, 8);
        const double enough = random.between(0, 2);
        const auto hint = static_cast<TriangleId>(random.below(m.triangles.size()));
        const auto found = tree.nearest(p, std::numeric_limits<double>::infinity(), hint, enough);
        ASSERT_TRUE(found);
        const TriangleId t = found->triangle;
        EXPECT_EQ(found->point, space::nearestOnTriangle(p, m.corner(t, 0), m.corner(t, 1), m.corner(t, 2)));
        EXPECT_LE(found->distanceSquared, std::max(enough * enough, slowDistanceSquared(m, p)));
    }
}

TEST(NearestFrom, OverAConvexSurfaceItIsTheNearestOfAll) {
    rig::Random random(25);
    const Mesh m = sphere();
    const mesh::Edges edges(m);
    const TriangleTree tree(m);
    for (int i = 0; i < 400; ++i) {
        const Point p = m.corner(static_cast<TriangleId>(random.below(m.triangles.size())), 0) * random.between(1, 1.3);
        const auto start = static_cast<TriangleId>(random.below(m.triangles.size()));
        // From anywhere it gets nearer, and from a neighbour all the way.
        EXPECT_LE(space::nearestFrom(m, edges, p, start).distanceSquared,
                  (space::nearestOnTriangle(p, m.corner(start, 0), m.corner(start, 1), m.corner(start, 2)) - p)
                      .squaredNorm());
        const auto nearest = tree.nearest(p);
        const mesh::HalfEdge beside = edges.twin(3 * nearest->triangle);
        const auto found = space::nearestFrom(m, edges, p, mesh::triangleOf(beside));
        EXPECT_NEAR(found.distanceSquared, nearest->distanceSquared, 1e-12 * p.squaredNorm());
        EXPECT_NEAR((found.point - p).squaredNorm(), found.distanceSquared, 1e-12 * p.squaredNorm());
    }
}

TEST(NearestFrom, OnUglyMeshesItEndsAtAPointOfTheSurface) {
    rig::Random random(26);
    for (const auto& [name, m] : uglyMeshes()) {
        if (m.triangles.empty()) continue;
        const mesh::Edges edges(m);
        for (int i = 0; i < 50; ++i) {
            const Point p = randomPoint(random, 4);
            const auto found =
                space::nearestFrom(m, edges, p, static_cast<TriangleId>(random.below(m.triangles.size())));
            const TriangleId t = found.triangle;
            EXPECT_EQ(found.point, space::nearestOnTriangle(p, m.corner(t, 0), m.corner(t, 1), m.corner(t, 2))) << name;
            EXPECT_GE(found.distanceSquared, slowDistanceSquared(m, p)) << name;
        }
    }
}

// What it is for: points a little off a crumpled surface, from a triangle beside. It stops short of the nearest now and
// then, where many triangles meet in a point, but never tells a point to be nearer than it is.
TEST(NearestFrom, CloseToACrumpledSurfaceItMostlyFindsTheNearest) {
    std::size_t asked = 0;
    std::size_t nearest = 0;
    for (std::uint64_t seed = 0; seed < seedsOf(6, 200); ++seed) {
        rig::Random random(900 + seed);
        Mesh m = sphere(10, 48, 24);
        for (Point& p : m.positions) p += randomPoint(random, 0.25);
        const mesh::Edges edges(m);
        const TriangleTree tree(m);
        for (int i = 0; i < 200; ++i) {
            const auto start = static_cast<TriangleId>(random.below(m.triangles.size()));
            const Point p = mesh::centroid(m, start) + randomPoint(random, 0.4);
            const auto found = space::nearestFrom(m, edges, p, start);
            const auto best = tree.nearest(p);
            ASSERT_GE(found.distanceSquared, best->distanceSquared);
            ++asked;
            nearest += found.distanceSquared <= best->distanceSquared * (1 + 1e-9) + 1e-18 ? 1 : 0;
        }
    }
    EXPECT_GT(nearest, asked * 8 / 10) << nearest << " of " << asked;
    RecordProperty("nearest_permille", static_cast<int>(1000 * nearest / asked));
}

TEST(NearestFrom, EndsWhereItIsNearEnough) {
    const Mesh m = sphere(10, 96, 48);
    const mesh::Edges edges(m);
    const TriangleTree tree(m);
    const Point p = m.corner(TriangleId(40), 0) * 1.01;
    const TriangleId start(4000);
    const double at =
        (space::nearestOnTriangle(p, m.corner(start, 0), m.corner(start, 1), m.corner(start, 2)) - p).squaredNorm();
    // Near enough already: it stays; and else it goes on only as far as it must.
    EXPECT_EQ(space::nearestFrom(m, edges, p, start, at).triangle, start);
    const double enough = at / 4;
    const auto found = space::nearestFrom(m, edges, p, start, enough);
    EXPECT_LE(found.distanceSquared, enough);
    EXPECT_GT(found.distanceSquared, tree.nearest(p)->distanceSquared);
}

TEST(NearestFrom, StopsAtTheEndOfASheetAndAtEdgesOfThree) {
    // A strip along x with a gap: what lies beyond is not joined by an edge.
    std::vector<std::array<Point, 3>> strip;
    for (int i = 0; i < 10; ++i) {
        if (i == 5) continue;
        strip.push_back({Point(i, 0, 0), Point(i + 1, 0, 0), Point(i, 1, 0)});
        strip.push_back({Point(i + 1, 0, 0), Point(i + 1, 1, 0), Point(i, 1, 0)});
    }
    Mesh m = loose(strip);
    mesh::joinEqualVertices(m);
    const mesh::Edges edges(m);
    const Point p(9.25, 0.5, 1);
    const auto before = space::nearestFrom(m, edges, p, TriangleId(0));
    EXPECT_EQ(before.point.x(), 5);  // as far as the sheet goes
    const auto beyond = space::nearestFrom(m, edges, p, static_cast<TriangleId>(m.triangles.size() - 1));
    EXPECT_LT((beyond.point - Point(9.25, 0.5, 0)).norm(), 1e-12);
    // A third triangle at an edge: there is no one other side to go on to.
    mesh::append(m, loose({{Point(3, 0, 0), Point(3, 1, 0), Point(3, 0.5, 1)}}));
    mesh::joinEqualVertices(m);
    const mesh::Edges three(m);
    EXPECT_EQ(space::nearestFrom(m, three, p, TriangleId(0)).point.x(), 3);
}

TEST(TriangleTree, NearestWithinALimit) {
    const Mesh m = unitBox();
    const TriangleTree tree(m);
    EXPECT_FALSE(tree.nearest(Point(5, 0.5, 0.5), 3.9));
    EXPECT_TRUE(tree.nearest(Point(5, 0.5, 0.5), 4.1));
}

TEST(TriangleTree, EmptyAnswersNothing) {
    const Mesh m;
    const TriangleTree tree(m);
    EXPECT_TRUE(tree.empty());
    EXPECT_FALSE(tree.nearest(Point(0, 0, 0)));
    EXPECT_FALSE(tree.firstHit(Point(0, 0, 0), Point(1, 0, 0)));
}

TEST(TriangleTree, OverlappingFindsEveryTriangleWhoseBoxOverlaps) {
    rig::Random random(23);
    const Mesh m = gridSoup(24, 500, 9);
    const TriangleTree tree(m);
    for (int i = 0; i < 100; ++i) {
        Box query;
        query.add(Point(randomPoint(random, 9).cwiseAbs()));
        query.add(Point(query.min + randomPoint(random, 3).cwiseAbs()));
        std::set<TriangleId> found;
        tree.overlapping(query, [&](TriangleId t) { EXPECT_TRUE(found.insert(t).second); });
        for (TriangleId t = 0; t < m.triangles.size(); ++t)
            EXPECT_EQ(found.contains(t), mesh::boxOf(m, t).overlaps(query));
    }
}

TEST(TriangleTree, RaysGoAlongEveryBoxThatTheyMeetHoweverManyThereAre) {
    rig::Random random(26);
    for (std::size_t count = 1; count < 70; ++count) {
        const Mesh m = gridSoup(27 + count, count, 6);
        const TriangleTree tree(m);
        for (int i = 0; i < 12; ++i) {
            const Point from = randomPoint(random, 6);
            const Point direction = i < 3 ? Point(Point::Unit(i)) : randomPoint(random, 1);
            std::multiset<TriangleId> found;
            tree.alongRay(from, direction, [&](TriangleId t) { found.insert(t); });
            for (TriangleId t = 0; t < m.triangles.size(); ++t) {
                EXPECT_LE(found.count(t), 1U);
                const auto hit = TriangleTree(m, {t}).firstHit(from, direction);
                EXPECT_TRUE(!hit || found.contains(t));
            }
        }
    }
}

TEST(TriangleTree, ABoxBeyondFloatsHoldsEachTriangleOnce) {
    for (std::size_t count = 1; count < 90; ++count) {
        Mesh m = gridSoup(127 + count, count, 6);
        if (count % 2 == 0)
            for (Point& p : m.positions) p *= 1e60;
        const TriangleTree tree(m);
        Box query;
        query.add(Point::Constant(-1e300));
        query.add(Point::Constant(1e300));
        std::multiset<TriangleId> found;
        tree.overlapping(query, [&](TriangleId t) { found.insert(t); });
        EXPECT_EQ(found.size(), m.triangles.size());
        EXPECT_EQ(std::set<TriangleId>(found.begin(), found.end()).size(), m.triangles.size());
        std::size_t pairs = 0;
        for (std::size_t group = 0; group < tree.groupCount(); ++group)
            tree.overlappingLeaves(group, 0, [&](std::size_t a, std::size_t b) {
                EXPECT_LT(a, tree.leafCount());
                EXPECT_LT(b, tree.leafCount());
                ++pairs;
            });
        EXPECT_GE(pairs, tree.leafCount());
        EXPECT_TRUE(tree.nearest(Point::Constant(1e200)));
    }
}

TEST(TriangleTree, LeafPairsAreEachGivenOnce) {
    const Mesh m = gridSoup(25, 400, 8);
    const TriangleTree tree(m);
    std::set<std::pair<std::size_t, std::size_t>> found;
    for (std::size_t group = 0; group < tree.groupCount(); ++group)
        tree.overlappingLeaves(group, 0,
                               [&](std::size_t a, std::size_t b) { EXPECT_TRUE(found.emplace(a, b).second); });
    for (std::size_t a = 0; a < tree.leafCount(); ++a)
        for (std::size_t b = a; b < tree.leafCount(); ++b)
            EXPECT_EQ(found.contains({a, b}), tree.leafBox(a).overlaps(tree.leafBox(b)));
}

TEST(RayScene, BlocksWhatExactRaysMeet) {
    rig::Random random(31);
    const Mesh soup = gridSoup(32, 300, 9);
    for (const double away : {0.0, 1e6}) {
        Mesh m = soup;
        for (Point& p : m.positions) p += Point::Constant(away);
        const space::RayScene occlusion(m);
        const TriangleTree tree(m);
        int blocked = 0;
        for (int i = 0; i < 2000; ++i) {
            const Point from = Point::Constant(away + 4) + 8 * Point(randomPoint(random, 1));
            const Point direction = randomPoint(random, 1);
            const bool hit = tree.firstHit(from, direction).has_value();
            EXPECT_EQ(occlusion.blocks(from, direction), hit) << i;
            blocked += hit;
        }
        EXPECT_GT(blocked, 200);
        EXPECT_LT(blocked, 1800);
    }
    EXPECT_FALSE(space::RayScene(Mesh()).blocks(Point(0, 0, 0), Point(1, 0, 0)));
}

TEST(TriangleTree, RaysHitTheNearSideOfABox) {
    const Mesh m = unitBox();
    const TriangleTree tree(m);
    const auto hit = tree.firstHit(Point(-3, 0.3, 0.4), Point(1, 0, 0));
    ASSERT_TRUE(hit);
    EXPECT_DOUBLE_EQ(hit->t, 3);
    EXPECT_FALSE(tree.firstHit(Point(-3, 0.3, 0.4), Point(-1, 0, 0)));
    EXPECT_FALSE(tree.firstHit(Point(-3, 1.3, 0.4), Point(1, 0, 0)));
}

TEST(TriangleTree, SameOrderForOneThread) {
    const Mesh m = sphere(10, 120, 80);
    const auto run = [&] { return TriangleTree(m).order(); };
    EXPECT_EQ(run(), withOneThread(run));
}

TEST(NearestOnTriangle, InEveryRegionAndOnDegenerates) {
    const Point a(0, 0, 0), b(2, 0, 0), c(0, 2, 0);
    EXPECT_EQ(space::nearestOnTriangle(Point(-1, -1, 1), a, b, c), a);
    EXPECT_EQ(space::nearestOnTriangle(Point(4, -1, 1), a, b, c), b);
    EXPECT_EQ(space::nearestOnTriangle(Point(-1, 5, 1), a, b, c), c);
    EXPECT_EQ(space::nearestOnTriangle(Point(1, -1, 0), a, b, c), Point(1, 0, 0));
    EXPECT_EQ(space::nearestOnTriangle(Point(2, 2, 0), a, b, c), Point(1, 1, 0));
    EXPECT_EQ(space::nearestOnTriangle(Point(0.5, 0.5, 3), a, b, c), Point(0.5, 0.5, 0));
    EXPECT_EQ(space::nearestOnTriangle(Point(1, 1, 0), a, b, b), Point(1, 0, 0));
    EXPECT_EQ(space::nearestOnTriangle(Point(1, 1, 0), a, a, a), a);
}

TEST(FloatBox, ContainsWhatItWasMadeOf) {
    rig::Random random(26);
    for (int i = 0; i < 1000; ++i) {
        Box box;
        box.add(randomPoint(random, 1e5));
        box.add(randomPoint(random, 1e-5));
        const space::FloatBox f(box);
        for (unsigned k = 0; k < 3; ++k) {
            EXPECT_LE(static_cast<double>(f.min[k]), box.min[k]);
            EXPECT_GE(static_cast<double>(f.max[k]), box.max[k]);
        }
    }
}

TEST(Hilbert, NeighboursOnTheCurveAreNeighboursInSpace) {
    constexpr unsigned bits = 3;
    std::map<std::uint64_t, std::array<std::uint32_t, 3>> curve;
    for (std::uint32_t x = 0; x < 8; ++x)
        for (std::uint32_t y = 0; y < 8; ++y)
            for (std::uint32_t z = 0; z < 8; ++z) curve[mesh::hilbertKey({x, y, z}, bits)] = {x, y, z};
    ASSERT_EQ(curve.size(), 512U);
    for (auto it = std::next(curve.begin()); it != curve.end(); ++it) {
        const auto& a = std::prev(it)->second;
        const auto& b = it->second;
        int distance = 0;
        for (unsigned k = 0; k < 3; ++k) distance += std::abs(static_cast<int>(a[k]) - static_cast<int>(b[k]));
        EXPECT_EQ(distance, 1);
    }
}

}  // namespace
}  // namespace zither::tests
