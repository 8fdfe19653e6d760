// Cracks that close, and borders that must not.
#include "repair/stitch.h"

#include <cmath>
#include <numbers>

#include "measure/mass.h"
#include "space/triangle_tree.h"
#include "steps/all_steps.h"
#include "steps/call.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;

double keptShare(const Mesh& before, const Mesh& after) {
    return measure::keptOf(before, after).share;
}

TEST(Stitch, ClosesACrackBetweenHalves) {
    Mesh m = sphere(10, 24, 12);
    Mesh upper = without(m, {});
    std::vector<std::uint8_t> keepUpper(m.triangles.size()), keepLower(m.triangles.size());
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        keepLower[t] = !(keepUpper[t] = mesh::centroid(m, t).z() > 0);
    upper = mesh::keepTriangles(m, keepUpper);
    for (Point& p : upper.positions) p += Point(0.001, 0.002, -0.001);
    const Mesh cracked = together(upper, mesh::keepTriangles(m, keepLower));
    EXPECT_GT(surveyed(cracked).counts.boundaryEdges, 0U);
    const double distance = repair::proposedStitchDistance(cracked);
    EXPECT_GT(distance, std::sqrt(6e-6));
    EXPECT_LT(distance, 0.02);
    const auto r = repair::stitch(cracked, Pick(), {.distance = distance}, silent());
    EXPECT_TRUE(surveyed(r->mesh).solid);
    EXPECT_LE(r->farthestMoved, distance);
    EXPECT_GT(keptShare(cracked, r->mesh), 0.8);
}

TEST(Stitch, SplitsEdgesAtTJunctions) {
    // A box whose top has one more vertex on an edge than the side has.
    Mesh m = unitBox();
    const auto middle = static_cast<mesh::VertexId>(m.positions.size());
    m.positions.emplace_back(0.5, 0, 1);
    m.triangles.erase(m.triangles.begin() + 2);  // {4, 5, 6}
    m.triangles.push_back({4, middle, 6});
    m.triangles.push_back({middle, 5, 6});
    EXPECT_EQ(surveyed(m).counts.boundaryEdges, 3U);
    const auto r = repair::stitch(m, Pick(), {.distance = 1e-6}, silent());
    EXPECT_EQ(r->split, 1U);
    EXPECT_TRUE(surveyed(r->mesh).solid);
}

TEST(Stitch, DoesNotJoinNeighboursOrClosedSurface) {
    const Mesh m = unitBox();
    const auto r = repair::stitch(m, Pick(), {.distance = 2}, silent());
    EXPECT_EQ(r->joined, 0U);
    EXPECT_EQ(r->mesh.triangles, m.triangles);
    const Mesh open = without(m, {0});
    EXPECT_EQ(repair::stitch(open, Pick(), {.distance = 1.01}, silent())->joined, 0U);
}

// A tube between two rings whose rims have chords of their own; the tube's wall is `wall` chords around, the ends
// `end`.
Mesh tubeWithEndsByThemselves(double outer, double inner, std::size_t wall, std::size_t end) {
    Mesh m;
    const auto ring = [&](double r, double z, double s, double y, std::size_t chords) {
        const auto at = [&](std::size_t i, double radius, double height) {
            const double angle = 2 * std::numbers::pi * static_cast<double>(i % chords) / static_cast<double>(chords);
            return Point(radius * std::cos(angle), radius * std::sin(angle), height);
        };
        for (std::size_t i = 0; i < chords; ++i) {
            const auto first = static_cast<mesh::VertexId>(m.positions.size());
            m.positions.insert(m.positions.end(), {at(i, r, z), at(i + 1, r, z), at(i + 1, s, y), at(i, s, y)});
            m.triangles.push_back({first, first + 1, first + 2});
            m.triangles.push_back({first, first + 2, first + 3});
        }
    };
    ring(outer, 0, outer, 8, wall);
    ring(outer, 8, inner, 8, end);
    ring(inner, 8, inner, 0, wall);
    ring(inner, 0, outer, 0, end);
    mesh::joinEqualVertices(m);
    return m;
}

TEST(Stitch, TheSideMovesWhoseSurfaceLiesAlongTheWay) {
    const Mesh m = tubeWithEndsByThemselves(10, 4, 24, 37);
    const double distance = repair::proposedStitchDistance(m);
    const auto r = repair::stitch(m, Pick(), {.distance = distance}, silent());
    ASSERT_TRUE(r);
    EXPECT_TRUE(surveyed(r->mesh).solid);
    EXPECT_LE(r->farthestMoved, distance);
    // The wall stands where it stood: each corner of the result is one of its own, or lies on one of its chords. Moved
    // onto the ends' rims it would bulge by what their chords lie farther out, 0.09.
    const space::TriangleTree import(m);
    for (const Point& p : r->mesh.positions) EXPECT_LT(import.nearest(p)->distanceSquared, 1e-18);
    EXPECT_NEAR(measure::massOf(r->mesh).volume, 8 * 24 * std::sin(2 * std::numbers::pi / 24) / 2 * (100 - 16), 0.5);
}

TEST(Stitch, AFineRimIsNotCrushedByTheDistanceOfACoarseOne) {
    // Twice the gaps of the outer rim are more than an edge of the inner one.
    const Mesh m = tubeWithEndsByThemselves(10, 0.4, 40, 57);
    const double distance = repair::proposedStitchDistance(m);
    EXPECT_GT(distance, 2 * std::numbers::pi * 0.4 / 57);
    const auto r = repair::stitch(m, Pick(), {.distance = distance}, silent());
    ASSERT_TRUE(r);
    EXPECT_TRUE(surveyed(r->mesh).solid);
}

TEST(Stitch, NegativeDistanceIsRefused) {
    EXPECT_EQ(repair::stitch(unitBox(), Pick(), {.distance = -1}, silent()).error().message,
              "stitch: the distance must not be negative");
    EXPECT_EQ(repair::stitch(unitBox(), Pick(), {.distance = 0}, silent())->mesh.triangles, unitBox().triangles);
}

// Two sheets that pass by each other edge over edge: near, parallel, and not to be joined.
TEST(Stitch, LeavesSurfacesThatPassByEachOtherApart) {
    Mesh sheets;
    for (const double z : {0.0, 0.01}) {
        const auto first = static_cast<mesh::VertexId>(sheets.positions.size());
        for (const Point& p : {Point(0, 0, z), Point(1, 0, z), Point(1, 1, z), Point(0, 1, z)})
            sheets.positions.push_back(p);
        sheets.triangles.push_back({first, first + 1, first + 2});
        sheets.triangles.push_back({first, first + 2, first + 3});
    }
    EXPECT_TRUE(repair::gapsOf(sheets).empty());
    EXPECT_EQ(repair::proposedStitchDistance(sheets), 0);
    const auto r = repair::stitch(sheets, Pick(), {.distance = 0.05}, silent());
    EXPECT_EQ(r->joined + r->split, 0U);
}

TEST(Stitch, JoinsPatchesThatFaceOppositeWaysUnlessToldNotTo) {
    Mesh m;
    m.positions = {Point(0, 0, 0),    Point(1, 0, 0),        Point(0, 1, 0),
                   Point(1, 1e-4, 0), Point(0, 1 + 1e-4, 0), Point(1, 1, 0)};
    m.triangles = {{0, 1, 2}, {4, 3, 5}};  // (3, 5, 4) would face as the first does
    std::swap(m.triangles[1][1], m.triangles[1][2]);
    Mesh twisted = m;
    std::swap(twisted.triangles[1][1], twisted.triangles[1][2]);
    for (const bool same : {false, true}) {
        EXPECT_EQ(repair::stitch(twisted, Pick(), {0.001, same}, silent())->joined +
                      repair::stitch(m, Pick(), {0.001, same}, silent())->joined,
                  same ? 2U : 4U);
    }
}

TEST(Stitch, NeverMovesFartherThanTheDistanceOnSoups) {
    for (std::uint64_t seed = 0; seed < 80; ++seed) {
        const Mesh m = gridSoup(seed, 30, 5);
        for (const double distance : {0.5, 1.0, 2.5}) {
            const auto r = repair::stitch(m, Pick(), {.distance = distance}, silent());
            ASSERT_TRUE(r);
            EXPECT_EQ(mesh::validate(r->mesh), "");
            EXPECT_LE(r->farthestMoved, distance);
            EXPECT_LE(surveyed(r->mesh).counts.boundaryEdges, surveyed(m).counts.boundaryEdges + 3 * r->split) << seed;
        }
    }
}

// Zeros that are not quite zero tear corners apart by nothing. What is then proposed closes that, and not the gaps of
// the part itself.
TEST(Stitch, WhereEdgesWouldGetThreeTrianglesCracksStayIfAsked) {
    // A crack through a ball, and a sheet that ends a hair from the edge of a box.
    Mesh ball = sphere(10, 24, 12);
    std::vector<std::uint8_t> upper(ball.triangles.size());
    std::vector<std::uint8_t> lower(ball.triangles.size());
    for (mesh::TriangleId t = 0; t < ball.triangles.size(); ++t)
        lower[t] = !(upper[t] = mesh::centroid(ball, t).z() > 0);
    Mesh top = mesh::keepTriangles(ball, upper);
    for (Point& p : top.positions) p += Point(0.001, 0.002, -0.001);
    const Mesh cracked = together(top, mesh::keepTriangles(ball, lower));
    const auto quad = [](const Point& a, const Point& b, const Point& c, const Point& d) {
        Mesh m;
        m.positions = {a, b, c, d};
        m.triangles = {{0, 1, 2}, {0, 2, 3}};
        return m;
    };
    const Point o(40, 0, 0);
    Mesh sheets = quad(o, o + Point(0, 10, 0), o + Point(-10, 10, 0), o + Point(-10, 0, 0));
    for (const Point& to : {Point(10, 0, 0.002), Point(0.002, 0, 10)})
        mesh::appendPart(sheets,
                         quad(o + 0.0002 * to, o + 0.0002 * to + Point(0, 10, 0), o + to + Point(0, 10, 0), o + to));
    const Mesh m = together(cracked, sheets);
    const auto stitched = [&](const std::string& worse) {
        auto done = steps::runStep({&steps::stitchStep(), {{"distance", 0.01}, {"worse", steps::Value(worse)}}},
                                   std::make_shared<const check::Surveyed>(m), Pick(), silent());
        EXPECT_TRUE(done);
        return done.value();
    };
    const steps::StepDone all = stitched("keep");
    ASSERT_GT(surveyed(all.part->mesh()).counts.nonmanifoldEdges, 0U);
    const steps::StepDone some = stitched("put-back");
    const check::Counts counts = surveyed(some.part->mesh()).counts;
    EXPECT_EQ(counts.nonmanifoldEdges, 0U);
    EXPECT_EQ(counts.boundaryEdges, surveyed(sheets).counts.boundaryEdges);
    // Only what stayed joined is told.
    EXPECT_LT(some.record.number("vertices_joined").value(), all.record.number("vertices_joined").value());
    EXPECT_EQ(some.record.number("vertices_joined").value(),
              static_cast<double>(surveyed(m).counts.vertices - counts.vertices));
    ASSERT_EQ(some.record.listed.size(), 1U);
    EXPECT_EQ(some.record.listed[0].kind, steps::Listed::AsItCame);
    EXPECT_NE(some.record.listed[0].text.find("non-manifold edges"), std::string::npos) << some.record.listed[0].text;
}

TEST(Stitch, NoiseAroundZeroSaysNothingOfWiderGaps) {
    rig::Random random(5);
    // A plate with a slot through it, whose sides lie nearer to each other than the plate is wide.
    Mesh plate = together(box(Point(0, 0, 0), Point(4, 10, 1)), box(Point(4.1, 0, 0), Point(8, 10, 1)));
    ASSERT_TRUE(surveyed(plate).solid);
    Mesh torn = loose(soupOf(plate).triangles);
    for (Point& p : torn.positions)
        for (double& c : p)
            if (c == 0) c = 1e-16 * static_cast<double>(random.below(3));
    mesh::joinEqualVertices(torn);
    ASSERT_GT(surveyed(torn).counts.boundaryEdges, 0U);
    const double distance = repair::proposedStitchDistance(torn);
    EXPECT_GT(distance, 0);
    EXPECT_LT(distance, 1e-4);
    const auto r = repair::stitch(torn, Pick(), {.distance = distance}, silent());
    ASSERT_TRUE(r);
    EXPECT_TRUE(surveyed(r->mesh).solid);
    EXPECT_EQ(surveyed(r->mesh).counts.shells, 2U);
}

// What exporters do that round each triangle by itself: six corners that belong together lie anywhere in a small cube.
TEST(Stitch, CornersThatCameTogetherInTurnsAreAllJoined) {
    for (std::uint64_t seed = 1; seed <= 3; ++seed) {
        rig::Random random(seed);
        const Mesh whole = sphere(10, 60, 40);
        Mesh torn = loose(soupOf(whole).triangles);
        for (Point& p : torn.positions)
            for (double& c : p) c += random.between(-5e-5, 5e-5);
        const double distance = repair::proposedStitchDistance(torn);
        const auto r = repair::stitch(torn, Pick(), {.distance = distance}, silent());
        ASSERT_TRUE(r);
        EXPECT_EQ(r->joined, torn.positions.size() - whole.positions.size());
        EXPECT_EQ(r->mesh.triangles.size(), whole.triangles.size());
        EXPECT_TRUE(surveyed(r->mesh).solid);
        EXPECT_LE(r->farthestMoved, distance);
    }
}

// A wall of long strips: its open edges are long, so that what lies across a missing strip or behind the wall is near.
TEST(Stitch, AMissingStripIsNoCrack) {
    Mesh torn = tubeWithEndsByThemselves(10, 8, 48, 48);
    for (Point& p : torn.positions) p.z() *= 4;
    // Of the wall outside and the wall within, not of the ends.
    const auto goes = [&](const mesh::Triangle& t) {
        const auto height = [&](int k) { return torn.positions[t[static_cast<std::size_t>(k)]].z(); };
        if (height(0) == height(1) && height(1) == height(2)) return false;
        return std::all_of(t.begin(), t.end(), [&](mesh::VertexId v) {
            const Point& p = torn.positions[v];
            return p.x() > 0 && p.y() > -1e-9 && p.y() < 10 * std::sin(2 * std::numbers::pi / 48) + 1e-9;
        });
    };
    ASSERT_GT(std::erase_if(torn.triangles, goes), 2U);
    EXPECT_EQ(repair::proposedStitchDistance(torn), 0);
}

}  // namespace
}  // namespace zither::tests
