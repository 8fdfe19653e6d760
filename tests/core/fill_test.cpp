// Holes of every kind, the ways of closing them, and what is left open.
#include <cmath>
#include <numbers>

#include "demo/shapes.h"
#include "enclose/volumes.h"
#include "holes/bridge.h"
#include "holes/fill.h"
#include "holes/patches.h"
#include "measure/mass.h"
#include "shape/refine.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;

double keptShare(const Mesh& before, const Mesh& after) {
    return measure::keptOf(before, after).share;
}

TEST(Fill, HolesOfASphereAndNothingElseMoves) {
    const Mesh m = without(sphere(10, 24, 12), {30, 31, 32, 33, 34, 200, 201, 250});
    const auto r = holes::fill(m, Pick(), {}, silent());
    ASSERT_TRUE(r);
    const auto s = surveyed(r->mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_EQ(keptShare(m, r->mesh), 1);
    EXPECT_TRUE(std::equal(m.triangles.begin(), m.triangles.end(), r->mesh.triangles.begin()));
    EXPECT_EQ(r->added, r->mesh.triangles.size() - m.triangles.size());
}

TEST(Fill, LeavesOpeningsAboveTheSizeAndSaysSo) {
    const Mesh m = without(unitBox(), {0, 1});
    const auto r = holes::fill(m, Pick(), {.maxSize = 1.2}, silent());
    EXPECT_EQ(r->filled.size(), 0U);
    ASSERT_EQ(r->left.size(), 1U);
    EXPECT_DOUBLE_EQ(r->left[0].size, std::sqrt(2.0));
    EXPECT_EQ(r->left[0].edges, 4U);
    EXPECT_TRUE(surveyed(holes::fill(m, Pick(), {.maxSize = 1.5}, silent())->mesh).solid);
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
    const auto r = holes::fill(m, Pick(), {}, silent());
    EXPECT_EQ(r->filled.size(), 2U);
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
    const auto r = holes::fill(m, Pick(), {.maxSize = 3}, silent());
    EXPECT_EQ(r->filled.size(), 1U);
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
    const auto r = holes::fill(m, Pick(), {}, silent());
    const auto s = surveyed(r->mesh);
    EXPECT_TRUE(s.watertight);
    EXPECT_EQ(s.counts.nonmanifoldVertices, 0U);
}

TEST(Fill, ALoneTriangleBecomesClosedWithoutADuplicate) {
    const Mesh one = uglyMeshes()[3].second;
    const auto r = holes::fill(one, Pick(), {}, silent());
    const auto s = surveyed(r->mesh);
    EXPECT_EQ(s.counts.boundaryEdges, 0U);
    EXPECT_EQ(s.counts.duplicateTriangles, 0U);
}

TEST(Fill, MisorientedRimsAreCountedNotMangled) {
    Mesh m = uglyMeshes()[5].second;
    std::swap(m.triangles[0][1], m.triangles[0][2]);
    const auto r = holes::fill(m, Pick(), {}, silent());
    ASSERT_TRUE(r);
    EXPECT_GT(r->notClosed, 0U);
}

TEST(Fill, NeverMakesNonManifoldEdgesOnSoups) {
    for (std::uint64_t seed = 0; seed < 60; ++seed) {
        const Mesh m = gridSoup(seed, 24, 4);
        const auto before = surveyed(m);
        const auto r = holes::fill(m, Pick(), {}, silent());
        const auto after = surveyed(r->mesh);
        EXPECT_LE(after.counts.nonmanifoldEdges, before.counts.nonmanifoldEdges) << seed;
        EXPECT_LE(after.counts.boundaryEdges, before.counts.boundaryEdges) << seed;
        EXPECT_EQ(keptShare(m, r->mesh), 1);
    }
}

TEST(Fill, TautPatchesKeepOffForbiddenDiagonals) {
    const std::vector<Point> positions = {Point(0, 0, 0), Point(1, 0, 0), Point(1, 1, 0), Point(0, 1, 0)};
    const holes::Loop loop{{0, 1, 2, 3}, std::vector<Point>(4, Point(0, 0, 1))};
    for (const auto& [x, y] : {std::pair{0U, 2U}, {1U, 3U}}) {
        const auto isEdge = [x = x, y = y](std::uint32_t a, std::uint32_t b) {
            return std::minmax({a, b}) == std::pair{std::min(x, y), std::max(x, y)};
        };
        const auto patch = holes::tautPatch(positions, loop, {isEdge}, silent());
        ASSERT_EQ(patch->triangles.size(), 2U);
        for (const auto& t : patch->triangles)
            EXPECT_FALSE(std::count(t.begin(), t.end(), x) && std::count(t.begin(), t.end(), y));
    }
    EXPECT_TRUE(holes::tautPatch(positions, loop, {[](auto, auto) { return true; }}, silent())->triangles.empty());
}

Mesh withoutCap(const Mesh& m, const Point& axis, double halfAngleDeg) {
    std::vector<std::uint8_t> keep(m.triangles.size());
    for (mesh::TriangleId t = 0; t < keep.size(); ++t)
        keep[t] = mesh::centroid(m, t).normalized().dot(axis.normalized()) < std::cos(halfAngleDeg * M_PI / 180);
    return mesh::keepTriangles(m, keep);
}

// A cap of 60 degrees comes back round within 1 % of the radius.
TEST(Fill, SmoothBringsTheCapOfASphereBack) {
    for (const Point& axis : {Point(0, 0, 1), Point(1, 0.3, 0.2)}) {
        const Mesh open = withoutCap(sphere(10, 80, 40), axis, 30);
        const auto r = holes::fill(open, Pick(), {.way = holes::FillWay::Smooth}, silent());
        ASSERT_EQ(r->filled.size(), 1U);
        EXPECT_EQ(r->filled[0].way, holes::FillWay::Smooth);
        EXPECT_TRUE(surveyed(r->mesh).solid);
        for (const Point& p : r->mesh.positions) EXPECT_NEAR(p.norm(), 10, 0.1);
    }
}

// A patch is as dense as its rim, but not where that would take for ever: some edges of this rim are a millionth of the
// hole.
TEST(Fill, TinyEdgesInAWideRimDoNotMakeMillionsOfTriangles) {
    Mesh open = withoutCap(sphere(10, 40, 20), Point(0, 0, 1), 60);
    const check::Surveyed s(open);
    // Every rim edge is split close to its start.
    std::vector<mesh::Triangle> more;
    for (mesh::EdgeId e = 0; e < s.edges().count(); ++e) {
        if (s.edges().degree(e) != 1) continue;
        const mesh::HalfEdge h = s.edges().around(e)[0];
        const auto t = mesh::triangleOf(h);
        const unsigned k = mesh::cornerOf(h);
        const mesh::VertexId a = open.triangles[t][k];
        const mesh::VertexId b = open.triangles[t][(k + 1) % 3];
        const mesh::VertexId c = open.triangles[t][(k + 2) % 3];
        const auto v = static_cast<mesh::VertexId>(open.positions.size());
        open.positions.push_back(open.positions[a] + 1e-5 * (open.positions[b] - open.positions[a]));
        open.triangles[t] = {a, v, c};
        more.push_back({v, b, c});
    }
    ASSERT_GT(more.size(), 20U);
    open.triangles.insert(open.triangles.end(), more.begin(), more.end());
    const auto r = holes::fill(open, Pick(), {.way = holes::FillWay::Smooth}, silent());
    ASSERT_TRUE(r);
    EXPECT_LT(r->mesh.triangles.size(), open.triangles.size() + 25'000);
    EXPECT_TRUE(surveyed(r->mesh).solid);
}

TEST(Fill, ChoosesByTheRimAndSaysWhy) {
    const auto chosen = [](const Mesh& m) {
        const auto r = holes::fill(m, Pick(), {}, silent());
        EXPECT_EQ(r->filled.size(), 1U);
        EXPECT_FALSE(r->filled[0].why.empty());
        EXPECT_TRUE(surveyed(r->mesh).solid);
        return r->filled[0].way;
    };
    EXPECT_EQ(chosen(withoutCap(sphere(10, 60, 30), Point(1, 1, 1), 20)), holes::FillWay::Smooth);
    EXPECT_EQ(chosen(without(unitBox(), {0, 1})), holes::FillWay::Taut);
    Mesh pipe = fromSoup(rig::strut(Point(0, 0, 0), Point(0, 0, 20), 4, 32, 24));
    std::vector<std::uint8_t> keep(pipe.triangles.size());
    for (mesh::TriangleId t = 0; t < keep.size(); ++t) keep[t] = mesh::areaVector(pipe, t).normalized().z() < 0.9;
    EXPECT_EQ(chosen(mesh::keepTriangles(pipe, keep)), holes::FillWay::Flat);
}

// A tube standing in a hole of a plate: the ring between the two rims is closed, not each rim for itself.
TEST(Fill, AnIslandInsideARimInOnePlane) {
    Mesh plate = box(Point(-5, -5, -1), Point(5, 5, 0));
    Mesh column = box(Point(-1, -1, 0), Point(1, 1, 4));
    const auto withoutFacing = [](const Mesh& m, double z, double direction) {
        std::vector<std::uint8_t> keep(m.triangles.size());
        for (mesh::TriangleId t = 0; t < keep.size(); ++t)
            keep[t] = !(std::abs(mesh::centroid(m, t).z() - z) < 1e-9 &&
                        mesh::areaVector(m, t).normalized().z() * direction > 0.9);
        return mesh::keepTriangles(m, keep);
    };
    const Mesh m = together(withoutFacing(plate, 0, 1), withoutFacing(column, 0, -1));
    EXPECT_EQ(surveyed(m).counts.holes, 2U);
    const auto r = holes::fill(m, Pick(), {}, silent());
    ASSERT_EQ(r->filled.size(), 1U);
    EXPECT_EQ(r->filled[0].way, holes::FillWay::Flat);
    const auto s = surveyed(r->mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_EQ(s.counts.shells, 1U);
    EXPECT_DOUBLE_EQ(s.mass.volume, 100 + 16);
}

TEST(Fill, OpeningsLikelyMeantWaitForAYes) {
    const Mesh cup = withoutCap(sphere(10, 60, 30), Point(0, 0, 1), 50);
    const auto asked = holes::fill(cup, Pick(), {.closeMeant = false}, silent());
    EXPECT_TRUE(asked->filled.empty());
    ASSERT_EQ(asked->left.size(), 1U);
    EXPECT_EQ(asked->left[0].why, "large against the part");
    const Mesh port = withoutCap(sphere(10, 60, 30), Point(0, 0, 1), 10);
    EXPECT_EQ(holes::fill(port, Pick(), {.closeMeant = false}, silent())->left.at(0).why, "flat and round");
    EXPECT_EQ(holes::fill(port, Pick(), {}, silent())->filled.size(), 1U);
}

// A blade stands in the way of the smallest patch; another one goes around it.
TEST(Fill, PatchesKeepOffWhatStandsInTheHole) {
    Mesh m = without(box(Point(0, 0, 0), Point(4, 4, 4)), {2, 3});
    const auto open = surveyed(m);
    ASSERT_EQ(open.counts.boundaryEdges, 4U);
    // A thin closed body through the middle of one of the two diagonals.
    const Mesh pillar = box(Point(0.6, 0.6, 1), Point(0.9, 0.9, 6));
    const auto r = holes::fill(together(m, pillar), Pick(), {}, silent());
    ASSERT_EQ(r->filled.size(), 1U);
    EXPECT_TRUE(r->filled[0].crosses);  // every patch over this rim crosses the pillar, and that is said
}

TEST(Fill, RuledBetweenTwoSides) {
    Mesh m = fromSoup(rig::strut(Point(0, 0, 0), Point(0, 0, 20), 4, 32, 24));
    std::vector<std::uint8_t> keep(m.triangles.size());
    for (mesh::TriangleId t = 0; t < keep.size(); ++t) {
        const Point c = mesh::centroid(m, t);
        keep[t] = !(c.x() > 2.5 && c.z() > 3 && c.z() < 17);
    }
    const Mesh open = mesh::keepTriangles(m, keep);
    const auto r = holes::fill(open, Pick(), {.way = holes::FillWay::Ruled}, silent());
    ASSERT_FALSE(r->filled.empty());
    EXPECT_TRUE(surveyed(r->mesh).solid);
    EXPECT_NEAR(measure::massOf(r->mesh).volume, measure::massOf(m).volume, 0.05 * measure::massOf(m).volume);
}

// A box with fine triangles, without those that have a corner in a ball.
Mesh brokenBox(const Point& at, double radius) {
    Mesh m = box(Point(0, 0, 0), Point(10, 8, 6));
    m = shape::refine(check::Surveyed(m), Pick(), {.length = 1}, silent())->mesh;
    mesh::roundAndJoin(m, mesh::Precision::Single);
    std::vector<std::uint8_t> keep(m.triangles.size(), 1);
    for (mesh::TriangleId t = 0; t < keep.size(); ++t)
        for (unsigned k = 0; k < 3; ++k) keep[t] &= (m.corner(t, k) - at).norm() > radius;
    return mesh::keepTriangles(m, keep);
}

TEST(Fill, SharpBringsABrokenCornerAndARidgeBack) {
    for (const Point& at : {Point(10, 8, 6), Point(0, 0, 0), Point(5, 8, 6), Point(10, 4, 0)}) {
        SCOPED_TRACE(at.transpose());
        const Mesh m = brokenBox(at, 2.2);
        ASSERT_EQ(surveyed(m).counts.holes, 1U);
        const auto r = holes::fill(m, Pick(), {.way = holes::FillWay::Sharp}, silent());
        ASSERT_TRUE(r);
        ASSERT_EQ(r->filled.size(), 1U);
        EXPECT_EQ(r->filled[0].way, holes::FillWay::Sharp) << r->filled[0].why;
        EXPECT_TRUE(surveyed(r->mesh).solid);
        EXPECT_NEAR(measure::massOf(r->mesh).volume / (10 * 8 * 6), 1, 1e-6);
        EXPECT_EQ(keptShare(m, r->mesh), 1);
    }
}

// A cylinder of radius 10 and height 20 in small triangles, without those whose middle lies within a ball; and as it was.
std::pair<Mesh, Mesh> brokenCylinder(const Point& at, double radius) {
    constexpr std::size_t around = 64;
    std::vector<std::pair<double, double>> profile;  // distance from the axis, height
    for (int i = 0; i < 6; ++i) profile.emplace_back(10.0 * i / 6, 0);
    for (int i = 0; i < 12; ++i) profile.emplace_back(10, 20.0 * i / 12);
    for (int i = 0; i <= 6; ++i) profile.emplace_back(10 - 10.0 * i / 6, 20);
    const auto point = [&](std::size_t i, std::size_t j) {
        const double angle = 2 * std::numbers::pi * static_cast<double>(i % around) / around;
        const auto [r, z] = profile[j];
        return Point(r * std::cos(angle), r * std::sin(angle), z);
    };
    std::vector<std::array<Point, 3>> all;
    for (std::size_t i = 0; i < around; ++i)
        for (std::size_t j = 0; j + 1 < profile.size(); ++j) {
            const std::array<Point, 4> quad{point(i, j), point(i + 1, j), point(i + 1, j + 1), point(i, j + 1)};
            if (j > 0) all.push_back({quad[0], quad[1], quad[2]});
            if (j + 2 < profile.size()) all.push_back({quad[0], quad[2], quad[3]});
        }
    Mesh whole = loose(all);
    mesh::joinEqualVertices(whole);
    std::vector<std::uint8_t> keep(whole.triangles.size());
    for (mesh::TriangleId t = 0; t < keep.size(); ++t) keep[t] = (mesh::centroid(whole, t) - at).norm() > radius;
    return {mesh::keepTriangles(whole, keep), whole};
}

TEST(Fill, AnEdgeThatRunsIntoAHoleIsCarriedOn) {
    // Where cap and wall meet. What a taut patch cuts off is gone but for a twentieth, which it still cuts off the wall.
    for (const double radius : {3.0, 4.0, 6.0}) {
        SCOPED_TRACE(radius);
        const auto [broken, whole] = brokenCylinder(Point(10 * std::cos(0.1), 10 * std::sin(0.1), 20), radius);
        const double volume = measure::massOf(whole).volume;
        const auto flat = holes::fill(broken, Pick(), {.way = holes::FillWay::Taut}, silent());
        const auto chosen = holes::fill(broken, Pick(), {}, silent());
        ASSERT_TRUE(flat && chosen);
        ASSERT_EQ(chosen->filled.size(), 1U);
        EXPECT_EQ(chosen->filled[0].way, holes::FillWay::Sharp) << chosen->filled[0].why;
        EXPECT_TRUE(surveyed(chosen->mesh).solid);
        EXPECT_LT(std::abs(measure::massOf(chosen->mesh).volume - volume),
                  0.05 * std::abs(measure::massOf(flat->mesh).volume - volume));
        EXPECT_LT(farthest(chosen->mesh, whole), 0.02 * 2 * radius);
    }
    for (const Point& at : {Point(10, 8, 6), Point(5, 8, 6)}) {
        const auto r = holes::fill(brokenBox(at, 2.2), Pick(), {}, silent());
        EXPECT_NEAR(measure::massOf(r->mesh).volume / (10 * 8 * 6), 1, 1e-6) << "nobody need ask for it";
    }
}

TEST(Fill, EnclosingCarriesEdgesOnAsWell) {
    const auto [broken, whole] = brokenCylinder(Point(10, 0, 20), 5);
    const auto result = enclose::fullOrEmpty(check::Surveyed(broken), {.closeMeant = true}, silent());
    ASSERT_TRUE(result);
    EXPECT_TRUE(surveyed(result->mesh).solid);
    EXPECT_NEAR(measure::massOf(result->mesh).volume / measure::massOf(whole).volume, 1, 2e-4);
}

TEST(Fill, WhereNoFacesMeetSharpTakesAnotherWayAndSaysWhy) {
    const Mesh m = without(sphere(10, 24, 12), {30, 31, 32, 33, 34, 200, 201, 250});
    const auto r = holes::fill(m, Pick(), {.way = holes::FillWay::Sharp}, silent());
    ASSERT_TRUE(r);
    EXPECT_TRUE(surveyed(r->mesh).solid);
    for (const holes::FilledHole& hole : r->filled) {
        if (hole.edges <= 4) continue;
        EXPECT_NE(hole.way, holes::FillWay::Sharp);
        EXPECT_EQ(hole.why, "the faces around do not meet in a ridge or a corner");
    }
}

TEST(Fill, ABridgeMakesOneHoleTwo) {
    const Mesh open = withoutCap(sphere(10, 60, 30), Point(0, 0, 1), 30);
    const auto bridged = holes::bridge(open, Point(5, 0, 8.7), Point(-5, 0, 8.7), silent());
    ASSERT_TRUE(bridged);
    EXPECT_EQ(bridged->triangles.size(), open.triangles.size() + 2);
    const auto r = holes::fill(*bridged, Pick(), {}, silent());
    EXPECT_EQ(r->filled.size(), 2U);
    EXPECT_TRUE(surveyed(r->mesh).watertight);
    EXPECT_EQ(holes::bridge(unitBox(), Point(0, 0, 0), Point(1, 1, 1), silent()).error().message,
              "bridge: this part has no open edges");
}

}  // namespace
}  // namespace zither::tests
