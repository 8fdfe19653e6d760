#include <set>

#include "measure/mass.h"
#include "repair/loop_triangulation.h"
#include "repair/repair.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;

double keptShare(const Mesh& before, const Mesh& after) {
    return measure::keptOf(before, after).share;
}

// ---- clean

TEST(Clean, RemovesCollapsedAndSurplusAndKeepsTheRest) {
    Mesh m = unitBox();
    m.triangles.push_back({0, 0, 1});
    m.triangles.push_back({2, 0, 1});
    m.triangles.push_back({1, 0, 2});
    m.positions.emplace_back(9, 9, 9);
    const auto r = repair::clean(m, Pick(), silent());
    ASSERT_TRUE(r);
    EXPECT_EQ(r->collapsed, 1U);
    EXPECT_EQ(r->duplicates, 2U);
    EXPECT_EQ(r->unusedVertices, 1U);
    EXPECT_EQ(r->mesh.triangles, unitBox().triangles);
    EXPECT_TRUE(surveyed(r->mesh).solid);
}

TEST(Clean, OnlyInThePick) {
    Mesh m = unitBox();
    m.triangles.push_back({0, 0, 1});
    m.triangles.push_back({5, 5, 1});
    const auto r = repair::clean(m, Pick({13}), silent());
    EXPECT_EQ(r->collapsed, 1U);
    EXPECT_EQ(r->mesh.triangles.size(), 13U);
}

// ---- orient

TEST(Orient, FlippedPatchesOfAClosedSphere) {
    Mesh m = sphere();
    for (std::size_t t = 40; t < 90; ++t) std::swap(m.triangles[t][1], m.triangles[t][2]);
    const auto r = repair::orient(m, Pick(), silent());
    EXPECT_EQ(r->flipped, 50U);
    EXPECT_TRUE(surveyed(r->mesh).solid);
    EXPECT_EQ(keptShare(m, r->mesh), 1);
}

TEST(Orient, MostlyFlippedStillEndsOutwards) {
    Mesh m = flipped(sphere());
    for (std::size_t t = 0; t < 20; ++t) std::swap(m.triangles[t][1], m.triangles[t][2]);
    const auto r = repair::orient(m, Pick(), silent());
    EXPECT_TRUE(surveyed(r->mesh).solid);
}

TEST(Orient, NestedShellsBecomeCavities) {
    const Mesh m = together(together(box(Point(0, 0, 0), Point(10, 10, 10)), box(Point(2, 2, 2), Point(8, 8, 8))),
                            flipped(box(Point(4, 4, 4), Point(6, 6, 6))));
    const auto r = repair::orient(m, Pick(), silent());
    const auto s = surveyed(r->mesh);
    EXPECT_EQ(s.counts.inwardShells, 0U);
    EXPECT_DOUBLE_EQ(s.mass.volume, 1000 - 216 + 8);
    EXPECT_EQ(r->shellsTurned, 1U);
}

TEST(Orient, OpenSheetKeepsWhatMostOfItHad) {
    Mesh m = uglyMeshes()[5].second;
    for (std::size_t t = 0; t < 4; ++t) std::swap(m.triangles[t][1], m.triangles[t][2]);
    const auto r = repair::orient(m, Pick(), silent());
    EXPECT_EQ(r->keptByMajority, 1U);
    for (mesh::TriangleId t = 0; t < r->mesh.triangles.size(); ++t) EXPECT_GT(mesh::areaVector(r->mesh, t).z(), 0);
}

TEST(Orient, AMoebiusStripIsSaid) {
    Mesh m;
    constexpr mesh::VertexId n = 12;
    for (mesh::VertexId i = 0; i < n; ++i) {
        const double a = 2 * 3.14159265358979 * i / n;
        const Point out(std::cos(a), std::sin(a), 0);
        const Point across = 0.3 * (std::cos(a / 2) * out + std::sin(a / 2) * Point(0, 0, 1));
        m.positions.push_back(3 * out + across);
        m.positions.push_back(3 * out - across);
    }
    for (mesh::VertexId i = 0; i < n; ++i) {
        const bool last = i + 1 == n;
        const mesh::VertexId a = 2 * i, b = 2 * i + 1, c = last ? 1 : 2 * i + 2, d = last ? 0 : 2 * i + 3;
        m.triangles.push_back({a, b, c});
        m.triangles.push_back({b, d, c});
    }
    const auto r = repair::orient(m, Pick(), silent());
    EXPECT_EQ(r->oneSidedPatches, 1U);
    EXPECT_GE(surveyed(r->mesh).counts.misorientedEdges, 1U);
}

TEST(Orient, LeavesWhatIsNotPicked) {
    Mesh m = together(flipped(unitBox()), flipped(box(Point(3, 0, 0), Point(4, 1, 1))));
    std::vector<mesh::TriangleId> second;
    for (mesh::TriangleId t = 12; t < 24; ++t) second.push_back(t);
    const auto r = repair::orient(m, Pick(second), silent());
    EXPECT_EQ(r->flipped, 12U);
    EXPECT_EQ(surveyed(r->mesh).counts.inwardShells, 1U);
}

TEST(Orient, GridSoupsEndWithoutMisorientedEdgesUnlessOneSided) {
    for (std::uint64_t seed = 0; seed < 60; ++seed) {
        const Mesh m = gridSoup(seed, 40, 4);
        const auto r = repair::orient(m, Pick(), silent());
        if (r->oneSidedPatches == 0) {
            EXPECT_EQ(surveyed(r->mesh).counts.misorientedEdges, 0U) << seed;
        }
        EXPECT_EQ(keptShare(m, r->mesh), 1);
    }
}

// ---- weld

TEST(Weld, ClosesACrackBetweenHalves) {
    Mesh m = sphere(10, 24, 12);
    Mesh upper = without(m, {});
    std::vector<std::uint8_t> keepUpper(m.triangles.size()), keepLower(m.triangles.size());
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        keepLower[t] = !(keepUpper[t] = mesh::centroid(m, t).z() > 0);
    upper = mesh::keepTriangles(m, keepUpper);
    for (Point& p : upper.positions) p += Point(0.001, 0.002, -0.001);
    const Mesh cracked = together(upper, mesh::keepTriangles(m, keepLower));
    EXPECT_GT(surveyed(cracked).counts.boundaryEdges, 0U);
    const double distance = repair::proposedWeldDistance(cracked);
    EXPECT_GT(distance, std::sqrt(6e-6));
    EXPECT_LT(distance, 0.01);
    const auto r = repair::weld(cracked, Pick(), {.distance = distance}, silent());
    EXPECT_TRUE(surveyed(r->mesh).solid);
    EXPECT_LE(r->farthestMoved, distance);
    EXPECT_GT(keptShare(cracked, r->mesh), 0.8);
}

TEST(Weld, SplitsEdgesAtTJunctions) {
    // A box whose top has one more vertex on an edge than the side has.
    Mesh m = unitBox();
    const auto middle = static_cast<mesh::VertexId>(m.positions.size());
    m.positions.emplace_back(0.5, 0, 1);
    m.triangles.erase(m.triangles.begin() + 2);  // {4, 5, 6}
    m.triangles.push_back({4, middle, 6});
    m.triangles.push_back({middle, 5, 6});
    EXPECT_EQ(surveyed(m).counts.boundaryEdges, 3U);
    const auto r = repair::weld(m, Pick(), {.distance = 1e-6}, silent());
    EXPECT_EQ(r->split, 1U);
    EXPECT_TRUE(surveyed(r->mesh).solid);
}

TEST(Weld, DoesNotJoinNeighboursOrClosedSurface) {
    const Mesh m = unitBox();
    const auto r = repair::weld(m, Pick(), {.distance = 2}, silent());
    EXPECT_EQ(r->joined, 0U);
    EXPECT_EQ(r->mesh.triangles, m.triangles);
    const Mesh open = without(m, {0});
    EXPECT_EQ(repair::weld(open, Pick(), {.distance = 1.01}, silent())->joined, 0U);
}

TEST(Weld, NegativeDistanceIsRefused) {
    EXPECT_EQ(repair::weld(unitBox(), Pick(), {.distance = -1}, silent()).error().message,
              "weld: the distance must not be negative");
    EXPECT_EQ(repair::weld(unitBox(), Pick(), {.distance = 0}, silent())->mesh.triangles, unitBox().triangles);
}

// ---- fill

TEST(Fill, HolesOfASphereAndNothingElseMoves) {
    const Mesh m = without(sphere(10, 24, 12), {30, 31, 32, 33, 34, 200, 201, 250});
    const auto r = repair::fill(m, Pick(), {}, silent());
    ASSERT_TRUE(r);
    const auto s = surveyed(r->mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_EQ(keptShare(m, r->mesh), 1);
    EXPECT_TRUE(std::equal(m.triangles.begin(), m.triangles.end(), r->mesh.triangles.begin()));
    EXPECT_EQ(r->added, r->mesh.triangles.size() - m.triangles.size());
}

TEST(Fill, LeavesOpeningsAboveTheSizeAndSaysSo) {
    const Mesh m = without(unitBox(), {0, 1});
    const auto r = repair::fill(m, Pick(), {.maxSize = 1.2}, silent());
    EXPECT_EQ(r->filled, 0U);
    ASSERT_EQ(r->left.size(), 1U);
    EXPECT_DOUBLE_EQ(r->left[0].size, std::sqrt(2.0));
    EXPECT_EQ(r->left[0].edges, 4U);
    EXPECT_TRUE(surveyed(repair::fill(m, Pick(), {.maxSize = 1.5}, silent())->mesh).solid);
}

TEST(Fill, RimsThatTouchAtAVertex) {
    // Two holes of a sphere that meet in one vertex: one hole by count, two loops to fill.
    const Mesh whole = sphere(10, 24, 12);
    const mesh::Corners corners(whole);
    const mesh::VertexId v = 100;
    const auto at = corners.at(v);
    const Mesh m = without(whole, {mesh::triangleOf(at[0]), mesh::triangleOf(at[3])});
    const auto before = surveyed(m);
    EXPECT_EQ(before.counts.holes, 1U);
    EXPECT_EQ(before.counts.nonmanifoldVertices, 1U);
    const auto r = repair::fill(m, Pick(), {}, silent());
    EXPECT_EQ(r->filled, 2U);
    EXPECT_TRUE(surveyed(r->mesh).solid);
}

// Corners of a rim on one straight line have no area between them: the smallest patch must not be made of those.
TEST(Fill, StraightRimsGiveNoDegenerateTriangles) {
    Mesh m = uglyMeshes()[5].second;  // a flat 4 by 4 grid
    std::vector<std::uint8_t> keep(m.triangles.size(), 1);
    for (mesh::TriangleId t = 0; t < keep.size(); ++t) {
        const Point c = mesh::centroid(m, t);
        keep[t] = !(c.x() > 1 && c.x() < 3 && c.y() > 1 && c.y() < 3);
    }
    m = mesh::keepTriangles(m, keep);
    const auto r = repair::fill(m, Pick(), {.maxSize = 3}, silent());
    EXPECT_EQ(r->filled, 1U);
    const auto s = surveyed(r->mesh);
    EXPECT_EQ(s.counts.degenerateTriangles, 0U);
    EXPECT_EQ(s.counts.selfIntersectingPairs, 0U);
    EXPECT_DOUBLE_EQ(s.mass.area, 16);
}

TEST(Fill, ALongRim) {
    const Mesh m = [] {
        const Mesh s = sphere(10, 1200, 40);
        std::vector<std::uint8_t> keep(s.triangles.size());
        for (mesh::TriangleId t = 0; t < s.triangles.size(); ++t) keep[t] = mesh::centroid(s, t).z() < 3;
        return mesh::keepTriangles(s, keep);
    }();
    EXPECT_GE(surveyed(m).counts.boundaryEdges, 1200U);
    const auto r = repair::fill(m, Pick(), {}, silent());
    const auto s = surveyed(r->mesh);
    EXPECT_TRUE(s.watertight);
    EXPECT_EQ(s.counts.nonmanifoldVertices, 0U);
}

TEST(Fill, ALoneTriangleBecomesClosedWithoutADuplicate) {
    const Mesh one = uglyMeshes()[3].second;
    const auto r = repair::fill(one, Pick(), {}, silent());
    const auto s = surveyed(r->mesh);
    EXPECT_EQ(s.counts.boundaryEdges, 0U);
    EXPECT_EQ(s.counts.duplicateTriangles, 0U);
}

TEST(Fill, MisorientedRimsAreCountedNotMangled) {
    Mesh m = uglyMeshes()[5].second;
    std::swap(m.triangles[0][1], m.triangles[0][2]);
    const auto r = repair::fill(m, Pick(), {}, silent());
    ASSERT_TRUE(r);
    EXPECT_GT(r->notClosed, 0U);
}

TEST(Fill, NeverMakesNonManifoldEdgesOnSoups) {
    for (std::uint64_t seed = 0; seed < 60; ++seed) {
        const Mesh m = gridSoup(seed, 24, 4);
        const auto before = surveyed(m);
        const auto r = repair::fill(m, Pick(), {}, silent());
        const auto after = surveyed(r->mesh);
        EXPECT_LE(after.counts.nonmanifoldEdges, before.counts.nonmanifoldEdges) << seed;
        EXPECT_LE(after.counts.boundaryEdges, before.counts.boundaryEdges) << seed;
        EXPECT_EQ(keptShare(m, r->mesh), 1);
    }
}

TEST(LoopTriangulation, ASquareAndAForbiddenDiagonal) {
    const std::vector<Point> positions = {Point(0, 0, 0), Point(1, 0, 0), Point(1, 1, 0), Point(0, 1, 0)};
    const repair::Loop loop{{0, 1, 2, 3}, std::vector<Point>(4, Point(0, 0, 1))};
    const auto diagonal = [&](mesh::VertexId x, mesh::VertexId y) {
        const auto t = repair::triangulateLoop(
            positions, loop, [=](auto a, auto b) { return std::minmax(a, b) == std::minmax(x, y); }, silent());
        return *t;
    };
    for (const auto& [x, y] : {std::pair{0U, 2U}, {1U, 3U}}) {
        const auto triangles = diagonal(x, y);
        ASSERT_EQ(triangles.size(), 2U);
        for (const auto& t : triangles)
            EXPECT_FALSE(std::count(t.begin(), t.end(), x) && std::count(t.begin(), t.end(), y));
    }
    EXPECT_TRUE(repair::triangulateLoop(
                    positions, loop, [](auto, auto) { return true; }, silent())
                    ->empty());
}

// ---- drop-shells

TEST(DropShells, ListsWhatGoesAndNeverTheLargest) {
    const Mesh m = together(together(sphere(), box(Point(20, 0, 0), Point(20.5, 0.5, 0.5))),
                            box(Point(30, 0, 0), Point(34, 4, 4)));
    const auto r = repair::dropShells(m, Pick(), {.belowSizeShare = 0.1, .belowTriangleShare = 0.5}, silent());
    ASSERT_EQ(r->dropped.size(), 1U);
    EXPECT_EQ(r->dropped[0].triangles, 12U);
    EXPECT_NEAR(r->dropped[0].volume, 0.125, 1e-9);
    EXPECT_TRUE(r->dropped[0].closed);
    EXPECT_EQ(r->kept, 2U);
    const auto all = repair::dropShells(m, Pick(), {.belowSizeShare = 2, .belowTriangleShare = 2}, silent());
    EXPECT_EQ(surveyed(all->mesh).counts.shells, 1U);
}

}  // namespace
}  // namespace zither::tests
