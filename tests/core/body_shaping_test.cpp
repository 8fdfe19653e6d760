// Bodies hollowed, grown, shrunk, thickened where they are thin, smoothed and flattened: known answers, bits that stay,
// and nothing that breaks.
#include <fmt/format.h>

#include <cmath>
#include <numbers>
#include <set>

#include "fit/fuse.h"
#include "io/surface_file.h"
#include "measure/mass.h"
#include "measure/wall.h"
#include "project/delivery.h"
#include "shape/distance_field.h"
#include "shape/flatten.h"
#include "shape/hollow.h"
#include "shape/offset.h"
#include "shape/refine.h"
#include "shape/smooth.h"
#include "shape/soften.h"
#include "shape/thin_places.h"
#include "steps/call.h"
#include "steps/step.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;
using mesh::TriangleId;
using mesh::VertexId;

constexpr double pi = std::numbers::pi;

double volumeOf(const Mesh& m) {
    return measure::massOf(m).volume;
}

bool isSolid(const Mesh& m) {
    return surveyed(m).solid;
}

steps::StepDone done(const Mesh& m, const std::string& text, const Pick& pick = {}) {
    const auto call = steps::parseStepCall(text);
    EXPECT_TRUE(call) << call.error().message;
    auto result = steps::runStep(call.value(), shared(m), pick, silent());
    EXPECT_TRUE(result) << result.error().message;
    return std::move(result.value());
}

// A box whose triangles are no longer than `length`.
Mesh fineBox(const Point& low, const Point& high, double length) {
    const check::Surveyed coarse(box(low, high));
    return shape::refine(coarse, Pick(), {.length = length}, silent())->mesh;
}

// Two balls and a bar between them.
Mesh dumbbell(double bar) {
    Mesh m = sphere(5);
    for (Point& p : m.positions) p.z() -= 8;
    Mesh other = sphere(5);
    for (Point& p : other.positions) p.z() += 8;
    mesh::append(m, other);
    mesh::append(m, cylinder(bar, 12, 24));
    mesh::roundAndJoin(m, mesh::Precision::Single);
    return fit::fuse(m, Pick(), {}, silent())->mesh;
}

// ---- offset

TEST(Offset, OfABoxIsABoxWithTheSameTriangles) {
    const Mesh m = box(Point(0, 0, 0), Point(10, 20, 30));
    for (const double d : {1.0, 0.25, -1.0, -4.0}) {
        const auto grown = shape::offset(m, {.distance = d, .cell = std::abs(d) / 3}, silent());
        ASSERT_TRUE(grown) << grown.error().message;
        EXPECT_FALSE(grown->anew);
        EXPECT_EQ(grown->mesh.triangles, m.triangles);
        EXPECT_NEAR(volumeOf(grown->mesh), (10 + 2 * d) * (20 + 2 * d) * (30 + 2 * d), 1e-3);
        EXPECT_NEAR(grown->nearest, std::abs(d), 1e-6);
    }
}

TEST(Offset, WithRoundCornersHoldsWhatSteinerSays) {
    // V + A d + pi d^2 (a + b + c) + 4/3 pi d^3.
    const Mesh m = box(Point(0, 0, 0), Point(10, 20, 30));
    const double d = 2;
    const auto grown = shape::offset(m, {.distance = d, .sharp = false, .cell = 0.4}, silent());
    ASSERT_TRUE(grown);
    EXPECT_TRUE(grown->anew);
    EXPECT_TRUE(isSolid(grown->mesh));
    const double expected = 6000 + 2200 * d + pi * d * d * 60 + 4.0 / 3 * pi * d * d * d;
    EXPECT_NEAR(volumeOf(grown->mesh) / expected, 1, 1e-3);
    EXPECT_GT(grown->nearest, 0.98 * d);
    EXPECT_LT(grown->farthest, 1.02 * d);
}

TEST(Offset, WhatFoldsIsMadeAnewAndMayComeApart) {
    const Mesh m = dumbbell(1);
    ASSERT_TRUE(isSolid(m));
    const auto shrunk = shape::offset(m, {.distance = -2, .cell = 0.4}, silent());
    ASSERT_TRUE(shrunk);
    EXPECT_TRUE(shrunk->anew);
    const check::Survey survey = surveyed(shrunk->mesh);
    EXPECT_TRUE(survey.solid);
    EXPECT_EQ(survey.counts.shells, 2U);
    // Nothing is so deep.
    const auto none = shape::offset(m, {.distance = -7, .cell = 0.4}, silent());
    ASSERT_TRUE(none);
    EXPECT_TRUE(none->mesh.triangles.empty());
    EXPECT_TRUE(done(m, "offset distance=-7").part->mesh().triangles == m.triangles);
}

TEST(Offset, OfRandomSolidsIsSolidAndNowhereNearerThanAsked) {
    for (std::uint64_t seed = 0; seed < seedsOf(12, 100); ++seed) {
        AssemblyMaker maker(seed);
        const Assembly a = maker.make(seed);
        const auto fused = fit::fuse(a.mesh, Pick(), {.precision = mesh::precisionOf(a.mesh)}, silent());
        if (!fused || !isSolid(fused->mesh)) continue;
        rig::Random random(seed);
        const double size = mesh::boxOf(fused->mesh).diagonal();
        const double d = (random.below(2) ? 1 : -1) * size * random.between(0.01, 0.1);
        SCOPED_TRACE(fmt::format("{} {} by {}", seed, a.kind, d));
        const auto result = shape::offset(fused->mesh,
                                          {.distance = d,
                                           .sharp = random.below(2) == 0,
                                           .cell = std::abs(d) / 3,
                                           .precision = mesh::precisionOf(fused->mesh)},
                                          silent());
        if (!result) {
            EXPECT_NE(result.error().message.find("far from the origin"), std::string::npos) << result.error().message;
            continue;
        }
        if (result->mesh.triangles.empty()) continue;
        EXPECT_TRUE(isSolid(result->mesh));
        EXPECT_GT(result->nearest, 0.7 * std::abs(d));
        EXPECT_GT(d * (volumeOf(result->mesh) - volumeOf(fused->mesh)), 0);
    }
}

TEST(Offset, RefusesWhatIsNoSolid) {
    const auto refused = shape::offset(without(unitBox(), {0}), {.distance = 0.1, .cell = 0.03}, silent());
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().message.find("repair it first"), std::string::npos);
}

// ---- hollow

TEST(Hollow, OfABoxLeavesTheWallAndEveryTriangleOfTheBox) {
    const Mesh m = box(Point(0, 0, 0), Point(10, 20, 30));
    const auto hollow = shape::hollow(m, {.wall = 1, .cell = 0.4}, silent());
    ASSERT_TRUE(hollow) << hollow.error().message;
    EXPECT_EQ(hollow->made, 1U);
    EXPECT_TRUE(isSolid(hollow->mesh));
    EXPECT_EQ(measure::keptOf(m, hollow->mesh).share, 1);
    EXPECT_NEAR(volumeOf(hollow->mesh), 6000 - 8.0 * 18 * 28, 12);
    EXPECT_NEAR(hollow->removed, 8.0 * 18 * 28, 12);
    EXPECT_GE(hollow->thinnest, 1 - 2e-3);
    const check::Survey survey = surveyed(hollow->mesh);
    EXPECT_EQ(survey.counts.shells, 2U);
    EXPECT_EQ(survey.counts.inwardShells, 0U);
}

TEST(Hollow, WallsAreNowhereThinnerThanAskedAlsoAroundReentrantEdges) {
    Mesh m = fromSoup(soupOf(box(Point(0, 0, 0), Point(20, 20, 20))));
    const Mesh notch = box(Point(10, 10, -1), Point(21, 21, 21));
    m = fit::fuse(m, Pick(), {.with = &notch, .solid = arrange::Solid::Difference}, silent())->mesh;
    const auto hollow = shape::hollow(m, {.wall = 1.5, .cell = 0.6}, silent());
    ASSERT_TRUE(hollow);
    EXPECT_TRUE(isSolid(hollow->mesh));
    EXPECT_GE(hollow->thinnest, 1.5 * (1 - 2e-3));
    const check::Surveyed s(hollow->mesh);
    const auto walls = measure::wallsOf({s.mesh(), s.edges(), s.rays(), true}, {.limit = 1.5 * (1 - 2e-3)}, silent());
    ASSERT_TRUE(walls);
    EXPECT_TRUE(walls->places.empty());
}

TEST(Hollow, DrainsLeadOutAtTheLowestPlaces) {
    const Mesh m = sphere(10, 48, 24);
    shape::HollowOptions options{.wall = 1, .cell = 0.4, .drains = 2, .drainDiameter = 2};
    const auto hollow = shape::hollow(m, options, silent());
    ASSERT_TRUE(hollow);
    ASSERT_EQ(hollow->drains.size(), 2U);
    EXPECT_TRUE(hollow->undrilled.empty());
    EXPECT_LT(hollow->drains[0].to.z(), -9);
    EXPECT_LT(hollow->drains[1].to.z(), -4);
    const check::Survey survey = surveyed(hollow->mesh);
    EXPECT_TRUE(survey.solid);
    EXPECT_EQ(survey.counts.shells, 1U);  // the void opens into the outside
    // Two holes of 32 sides through a wall of 1.
    const auto closed = shape::hollow(m, {.wall = 1, .cell = 0.4}, silent());
    const double hole = 16 * std::sin(2 * pi / 32);
    EXPECT_NEAR(hollow->removed - closed->removed, 2 * hole, 0.1 * hole);
    // Upside down, from what is picked, and from a direction that is typed.
    options.up = -Point::UnitZ();
    EXPECT_GT(shape::hollow(m, options, silent())->drains[0].to.z(), 9);
    options.at = {Point(20, 0, 0)};
    const auto asked = shape::hollow(m, options, silent());
    ASSERT_EQ(asked->drains.size(), 1U);
    EXPECT_GT(asked->drains[0].to.x(), 9);
}

TEST(Hollow, AVoidThatIsThereIsDrainedToo) {
    Mesh m = box(Point(0, 0, 0), Point(20, 20, 20));
    mesh::append(m, flipped(box(Point(2, 2, 2), Point(18, 18, 18))));
    const auto hollow = shape::hollow(m, {.wall = 2, .cell = 0.8, .drains = 1, .drainDiameter = 3}, silent());
    ASSERT_TRUE(hollow);
    EXPECT_EQ(hollow->made, 0U);
    ASSERT_EQ(hollow->drains.size(), 1U);
    EXPECT_EQ(surveyed(hollow->mesh).counts.shells, 1U);
    EXPECT_NEAR(hollow->removed, 2 * 1.5 * 1.5 * 16 * std::sin(2 * pi / 32), 1e-3);
}

// As an OBJ may have them.
TEST(Hollow, VerticesThatNoTriangleUsesKeepNoDrainFromBeingDrilled) {
    Mesh m = box(Point(0, 0, 0), Point(20, 20, 20));
    m.positions.emplace_back(5, 5, 5);
    m.positions.emplace_back(50, 50, 50);
    const auto hollow = shape::hollow(m, {.wall = 2, .cell = 0.8, .drains = 1, .drainDiameter = 3}, silent());
    ASSERT_TRUE(hollow);
    EXPECT_EQ(hollow->drains.size(), 1U);
    EXPECT_EQ(surveyed(hollow->mesh).counts.shells, 1U);
    // Nor do they make a change of what runs through the part.
    Mesh plate = box(Point(0, 0, 0), Point(20, 20, 0.4));
    plate.positions.emplace_back(5, 5, 5);
    const auto thicker = shape::thickenThinPlaces(plate, Pick(), {.wall = 1}, silent());
    ASSERT_TRUE(thicker);
    EXPECT_FALSE(thicker->otherHoles);
}

TEST(Hollow, ADrainThatWouldBreakThePartIsRefusedAndTold) {
    // As wide as the part itself.
    const auto step = done(box(Point(0, 0, 0), Point(10, 10, 10)), "hollow wall=1 drains=1 diameter=30");
    EXPECT_TRUE(isSolid(step.part->mesh()));
    EXPECT_EQ(step.record.number("drains").value(), 0);
    EXPECT_EQ(step.record.count(steps::Listed::Left), 1U);
    EXPECT_EQ(step.record.number("voids_made").value(), 1);
}

TEST(Hollow, ThinPartsAndBrokenOnesAreLeftAndTold) {
    const Mesh plate = box(Point(0, 0, 0), Point(10, 10, 1));
    const auto step = done(plate, "hollow wall=0.6");
    EXPECT_FALSE(step.changed);
    ASSERT_FALSE(step.record.sentences.empty());
    const auto open = done(without(plate, {0}), "hollow wall=0.1");
    EXPECT_FALSE(open.changed);
    EXPECT_NE(open.record.sentences.front().find("repair it first"), std::string::npos);
}

TEST(Hollow, OfRandomSolidsIsSolidWithWallsAsAsked) {
    for (std::uint64_t seed = 0; seed < seedsOf(6, 100); ++seed) {
        AssemblyMaker maker(seed + 500);
        const Assembly a = maker.make(seed);
        const auto fused = fit::fuse(a.mesh, Pick(), {.precision = mesh::precisionOf(a.mesh)}, silent());
        if (!fused || !isSolid(fused->mesh)) continue;
        rig::Random random(seed);
        const double wall = mesh::boxOf(fused->mesh).diagonal() * random.between(0.01, 0.05);
        SCOPED_TRACE(fmt::format("{} {} wall {}", seed, a.kind, wall));
        const auto hollow = shape::hollow(fused->mesh,
                                          {.wall = wall,
                                           .cell = 0.4 * wall,
                                           .drains = random.below(3),
                                           .drainDiameter = wall,
                                           .precision = mesh::precisionOf(fused->mesh)},
                                          silent());
        if (!hollow) {
            EXPECT_NE(hollow.error().message.find("far from the origin"), std::string::npos) << hollow.error().message;
            continue;
        }
        EXPECT_TRUE(isSolid(hollow->mesh));
        if (hollow->made == 0) continue;
        EXPECT_GE(hollow->thinnest, 0.99 * wall);
        EXPECT_GT(hollow->removed, 0);
    }
}

// ---- thin places

std::size_t thinPlaces(const Mesh& m, double limit) {
    const check::Surveyed s(m);
    return measure::wallsOf({s.mesh(), s.edges(), s.rays(), true}, {.limit = limit}, silent())->places.size();
}

TEST(ThinPlaces, APlateGetsWhatItLacks) {
    // A block with a fin of 0.4.
    Mesh m = fromSoup(soupOf(box(Point(0, 0, 0), Point(10, 10, 10))));
    const Mesh fin = box(Point(4, 4, 9), Point(4.4, 9, 20));
    m = fit::fuse(m, Pick(), {.with = &fin}, silent())->mesh;
    ASSERT_GT(thinPlaces(m, 1), 0U);
    const auto thicker = shape::thickenThinPlaces(m, Pick(), {.wall = 1}, silent());
    ASSERT_TRUE(thicker) << thicker.error().message;
    EXPECT_GT(thicker->placesIn, 0U);
    EXPECT_EQ(thicker->placesLeft, 0U);
    EXPECT_NEAR(thicker->thinnestIn, 0.4, 1e-5);
    EXPECT_FALSE(thicker->otherHoles);
    EXPECT_TRUE(isSolid(thicker->mesh));
    EXPECT_EQ(thinPlaces(thicker->mesh, 1), 0U);
    EXPECT_LT(thicker->farthest, 0.7);
    // The block is as it was.
    EXPECT_EQ(mesh::boxOf(thicker->mesh).min, Point(0, 0, 0));
}

TEST(ThinPlaces, AKnifeEdgeIsBluntedAndWhatIsNotPickedStays) {
    // Two wedges that end in nothing.
    const auto wedge = [](double y) {
        Mesh m;
        m.positions = {Point(0, y, 0),     Point(0, y, 4),     Point(10, y, 2),
                       Point(0, y + 9, 0), Point(0, y + 9, 4), Point(10, y + 9, 2)};
        m.triangles = {{0, 2, 1}, {3, 4, 5}, {0, 1, 4}, {0, 4, 3}, {1, 2, 5}, {1, 5, 4}, {2, 0, 3}, {2, 3, 5}};
        return flipped(m);
    };
    Mesh m = wedge(0);
    if (volumeOf(m) < 0) m = flipped(m);
    Mesh other = m;
    for (Point& p : other.positions) p.y() += 20;
    const std::size_t one = m.triangles.size();
    mesh::append(m, other);
    ASSERT_TRUE(isSolid(m));
    const auto all = done(m, "thicken thickness=0.5");
    EXPECT_TRUE(isSolid(all.part->mesh()));
    EXPECT_EQ(all.record.number("thin_places_after").value(), 0);
    std::vector<TriangleId> second;
    for (std::size_t t = one; t < m.triangles.size(); ++t) second.push_back(static_cast<TriangleId>(t));
    const auto picked = done(m, "thicken thickness=0.5", Pick(second));
    EXPECT_TRUE(isSolid(picked.part->mesh()));
    const measure::Kept kept = measure::keptOf(m, picked.part->mesh());
    for (std::size_t t = 0; t < one; ++t) EXPECT_TRUE(kept.of[t]);
    EXPECT_GT(thinPlaces(picked.part->mesh(), 0.5), 0U);
}

// A ray from an edge may meet the triangle beside it, at once: that is no thin place.
TEST(ThinPlaces, EdgesWithinAFaceAreNotThinnerThanWhatIsBesideThem) {
    Mesh plate = done(box(Point(0, 0, 0), Point(20, 20, 0.6)), "refine length=3").part->mesh();
    rig::Random random(4);
    const auto within = [](double x) { return x > 0.5 && x < 19.5; };
    for (Point& p : plate.positions)
        if (within(p.x()) && within(p.y())) p.z() += random.between(-0.02, 0.02);
    mesh::roundAndJoin(plate, mesh::Precision::Single);
    ASSERT_TRUE(isSolid(plate));
    const auto thicker = shape::thickenThinPlaces(check::Surveyed(plate), Pick(), {.wall = 1}, silent());
    ASSERT_TRUE(thicker) << thicker.error().message;
    EXPECT_TRUE(isSolid(thicker->mesh));
    EXPECT_EQ(thicker->placesLeft, 0U);
    // Half of what is missing, on either side; over the rim, half the wall.
    const mesh::Box box = mesh::boxOf(thicker->mesh);
    EXPECT_LT(box.max.z(), 0.6 + 0.02 + 0.2 + 0.1);
    EXPECT_GT(box.min.z(), -0.02 - 0.2 - 0.1);
    EXPECT_LT(thicker->farthest, 0.6);
}

TEST(ThinPlaces, WhereNothingIsThinNothingChanges) {
    const auto step = done(unitBox(), "thicken thickness=0.5");
    EXPECT_FALSE(step.changed);
    EXPECT_EQ(step.record.number("thin_places_before").value(), 0);
}

// ---- smooth

Mesh ripply(double height, std::uint64_t seed, std::size_t around = 96) {
    Mesh m = sphere(10, around, around / 2);
    rig::Random random(seed);
    for (Point& p : m.positions) p *= 1 + height * random.between(-1, 1) / 10;
    mesh::roundAndJoin(m, mesh::Precision::Single);
    return m;
}

double roughness(const Mesh& m, double radius) {
    double sum = 0;
    for (const Point& p : m.positions) sum += std::pow(p.norm() - radius, 2);
    return std::sqrt(sum / static_cast<double>(m.positions.size()));
}

TEST(Smooth, RipplesGoAndNothingShrinks) {
    const Mesh m = ripply(0.05, 3);
    ASSERT_TRUE(isSolid(m));
    const auto smoothed = shape::smooth(m, Pick(), {.scale = 5, .deviation = 1, .creaseDeg = 90}, silent());
    ASSERT_TRUE(smoothed);
    const Mesh& now = smoothed->part->mesh();
    EXPECT_EQ(now.triangles, m.triangles);
    EXPECT_LT(roughness(now, 10), 0.4 * roughness(m, 10));
    EXPECT_NEAR(volumeOf(now) / volumeOf(m), 1, 1e-3);
    EXPECT_TRUE(isSolid(now));
    // What it says is a bound, both ways.
    const auto c = compare(m, now, silent());
    EXPECT_LE(c->aToB.found, smoothed->farthest);
    EXPECT_LE(c->bToA.found, smoothed->farthest);
}

TEST(Smooth, NoVertexGoesFartherThanAsked) {
    const Mesh m = ripply(0.2, 4, 48);
    const auto smoothed = shape::smooth(m, Pick(), {.scale = 10, .deviation = 0.01, .creaseDeg = 179}, silent());
    ASSERT_TRUE(smoothed);
    EXPECT_GT(smoothed->moved, 0U);
    EXPECT_GT(smoothed->heldBack, 0U);
    EXPECT_LE(smoothed->farthest, 0.01);
    for (std::size_t v = 0; v < m.positions.size(); ++v)
        EXPECT_LE((smoothed->part->mesh().positions[v] - m.positions[v]).norm(), 0.01);
}

TEST(Smooth, CreasesAndBordersKeepTheirBits) {
    for (const bool open : {false, true}) {
        Mesh m = fineBox(Point(0, 0, 0), Point(10, 10, 10), 1.5);
        if (open) m = without(m, {0, 1, 2});
        const check::Surveyed s(m);
        std::vector<std::uint8_t> onEdge(m.positions.size());
        rig::Random random(5);
        for (std::size_t v = 0; v < onEdge.size(); ++v) {
            int sides = 0;
            for (int k = 0; k < 3; ++k) sides += m.positions[v][k] == 0 || m.positions[v][k] == 10;
            onEdge[v] = sides > 1;
            if (!onEdge[v])
                for (int k = 0; k < 3; ++k)
                    if (m.positions[v][k] == 0 || m.positions[v][k] == 10)
                        m.positions[v][k] += random.between(-0.03, 0.03);
        }
        mesh::roundAndJoin(m, mesh::Precision::Single);
        const auto smoothed = shape::smooth(m, Pick(), {.scale = 6, .deviation = 0.5}, silent());
        ASSERT_TRUE(smoothed);
        double before = 0;
        double after = 0;
        const auto off = [](const Point& p) {
            double least = 10;
            for (int k = 0; k < 3; ++k) least = std::min({least, std::abs(p[k]), std::abs(p[k] - 10)});
            return least;
        };
        for (std::size_t v = 0; v < onEdge.size(); ++v) {
            const Point& now = smoothed->part->mesh().positions[v];
            if (onEdge[v]) {
                EXPECT_EQ(now, m.positions[v]);
            }
            before += off(m.positions[v]);
            after += off(now);
        }
        EXPECT_LT(after, 0.5 * before);
    }
}

TEST(Smooth, OfAPickOnlyItsInsideMovesAndWhatIsSolidStaysSo) {
    for (std::uint64_t seed = 0; seed < seedsOf(8, 60); ++seed) {
        rig::Random random(seed);
        // Two spiky shells so close that they would run into each other.
        Mesh m = ripply(0.3, seed, 32);
        Mesh inner = m;
        for (Point& p : inner.positions) p *= 0.95;
        mesh::append(m, flipped(inner));
        mesh::roundAndJoin(m, mesh::Precision::Single);
        if (!isSolid(m)) continue;
        std::vector<TriangleId> chosen;
        for (TriangleId t = 0; t < m.triangles.size(); ++t)
            if (mesh::centroid(m, t).x() > 0) chosen.push_back(t);
        const Pick pick(chosen);
        const auto smoothed = shape::smooth(
            m, seed % 2 ? pick : Pick(), {.scale = random.between(3, 20), .deviation = 2, .creaseDeg = 179}, silent());
        ASSERT_TRUE(smoothed);
        EXPECT_TRUE(isSolid(smoothed->part->mesh())) << seed;
        if (seed % 2 == 0) continue;
        const std::vector<std::uint8_t> mask = pick.mask(m);
        for (TriangleId t = 0; t < mask.size(); ++t)
            for (unsigned k = 0; k < 3 && !mask[t]; ++k) EXPECT_EQ(smoothed->part->mesh().corner(t, k), m.corner(t, k));
    }
}

// ---- soften

double sharpest(const Mesh& m) {
    const mesh::Edges edges(m);
    double most = 0;
    for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
        const Point a = mesh::areaVector(m, mesh::triangleOf(edges.around(e)[0]));
        const Point b = mesh::areaVector(m, mesh::triangleOf(edges.around(e)[1]));
        most = std::max(most, std::atan2(a.cross(b).norm(), a.dot(b)) * 180 / pi);
    }
    return most;
}

TEST(Soften, RidgesOfABoxBecomeRoundAndFacesStay) {
    const Mesh m = box(Point(0, 0, 0), Point(10, 10, 10));
    const auto step = done(m, "soften radius=2");
    const Mesh& now = step.part->mesh();
    EXPECT_TRUE(isSolid(now));
    EXPECT_LT(sharpest(now), 75);
    EXPECT_GT(step.record.number("farthest_moved").value(), 0.2);
    EXPECT_LE(step.record.number("farthest_moved").value(), 2);
    EXPECT_NEAR(step.record.number("ridge_length").value(), 120, 1e-9);
    // Nothing within 2 of no ridge moved.
    for (const Point& p : now.positions) {
        int inside = 0;
        for (int k = 0; k < 3; ++k) inside += p[k] > 2.001 && p[k] < 7.999;
        if (inside == 2) {
            double off = 10;
            for (int k = 0; k < 3; ++k) off = std::min({off, std::abs(p[k]), std::abs(p[k] - 10)});
            EXPECT_LT(off, 1e-6);
        }
    }
    EXPECT_LT(volumeOf(now), 1000);
    EXPECT_GT(volumeOf(now), 900);
}

TEST(Soften, TheSeamOfAFuseAloneWhereItIsPicked) {
    Mesh m = box(Point(0, 0, 0), Point(20, 20, 5));
    const Mesh post = box(Point(7, 7, 4), Point(13, 13, 20));
    m = fit::fuse(m, Pick(), {.with = &post}, silent())->mesh;
    std::vector<TriangleId> seam;
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        for (unsigned k = 0; k < 3; ++k)
            if (m.corner(t, k).z() == 5 && m.corner(t, k).x() >= 7 && m.corner(t, k).x() <= 13) {
                seam.push_back(t);
                break;
            }
    const auto step = done(m, "soften radius=1.5", Pick(seam));
    EXPECT_TRUE(isSolid(step.part->mesh()));
    EXPECT_GT(step.record.number("vertices_moved").value(), 0);
    EXPECT_NEAR(volumeOf(step.part->mesh()) / volumeOf(m), 1, 0.02);
    // What is not near a ridge of the pick keeps its bits.
    for (const Point& p : {Point(0, 0, 0), Point(20, 20, 0), Point(0, 20, 5)})
        EXPECT_TRUE(std::find(step.part->mesh().positions.begin(), step.part->mesh().positions.end(), p) !=
                    step.part->mesh().positions.end());
    EXPECT_FALSE(done(sphere(10, 48, 24), "soften radius=1").changed);
}

TEST(Soften, ThinBarsWhoseSidesAreRidgesStayBars) {
    // A bar of six sides, thinner than the radius: all of it is beside a ridge.
    const Mesh m = cylinder(1, 20, 6);
    const auto step = done(m, "soften radius=2");
    EXPECT_TRUE(isSolid(step.part->mesh()));
    EXPECT_GT(volumeOf(step.part->mesh()), 0.6 * volumeOf(m));
}

// ---- flatten

TEST(Flatten, AnUnevenBaseComesToOnePlane) {
    Mesh m = fineBox(Point(0, 0, 0), Point(10, 10, 10), 2);
    rig::Random random(6);
    std::set<std::size_t> base;
    for (std::size_t v = 0; v < m.positions.size(); ++v)
        if (m.positions[v].z() == 0) {
            base.insert(v);
            m.positions[v].z() = random.between(-0.05, 0.05);
        }
    mesh::roundAndJoin(m, mesh::Precision::Single);
    ASSERT_TRUE(isSolid(m));
    const auto step = done(m, "flatten within=0.2");
    const Mesh& now = step.part->mesh();
    EXPECT_TRUE(isSolid(now));
    EXPECT_EQ(step.record.number("vertices_moved").value(), static_cast<double>(base.size()));
    for (std::size_t v = 0; v < now.positions.size(); ++v) {
        if (base.contains(v)) {
            EXPECT_EQ(now.positions[v].z(), now.positions[*base.begin()].z());
        } else {
            EXPECT_EQ(now.positions[v], m.positions[v]);
        }
    }
    // Too little to reach.
    EXPECT_LT(done(m, "flatten within=0.001").record.number("vertices_moved").value(),
              static_cast<double>(base.size()));
}

TEST(Flatten, RimsComeToThePlaneThatFitsThem) {
    Mesh m = fineBox(Point(0, 0, 0), Point(10, 10, 10), 2);
    std::vector<std::uint8_t> keep(m.triangles.size());
    for (TriangleId t = 0; t < keep.size(); ++t) keep[t] = mesh::areaVector(m, t).normalized().z() < 0.9;
    m = mesh::keepTriangles(m, keep);
    rig::Random random(7);
    for (Point& p : m.positions)
        if (p.z() == 10) p.z() += random.between(-0.05, 0.05);
    mesh::roundAndJoin(m, mesh::Precision::Single);
    const auto step = done(m, "flatten what=rims within=0.2");
    EXPECT_EQ(step.record.number("planes").value(), 1);
    std::set<double> heights;
    for (const Point& p : step.part->mesh().positions)
        if (p.z() > 9.9) heights.insert(p.z());
    EXPECT_EQ(heights.size(), 1U);
    EXPECT_EQ(done(m, "flatten what=rims within=0.001").record.number("too_uneven").value(), 1);
}

TEST(Flatten, WhatWouldBreakTheSolidIsNotDone) {
    // A spike through the base: brought down, the ring around it would pass through it.
    Mesh m = box(Point(0, 0, 0), Point(10, 10, 1));
    Mesh lid = box(Point(2, 2, 1.0005), Point(8, 8, 2));
    mesh::append(m, lid);
    mesh::roundAndJoin(m, mesh::Precision::Single);
    ASSERT_TRUE(isSolid(m));
    std::vector<TriangleId> lower;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        const double z = mesh::centroid(m, t).z();
        if (z > 0.999 && z < 1.001) lower.push_back(t);
    }
    const auto step = done(m, "flatten within=0.01", Pick(lower));
    EXPECT_FALSE(step.changed);
    EXPECT_TRUE(isSolid(step.part->mesh()));
}

// ---- whatever comes in

TEST(BodyShaping, UglyMeshesAreRefusedOrLeftNoWorse) {
    for (const auto& [name, m] : uglyMeshes())
        for (const char* text :
             {"hollow wall=0.1 drains=1", "offset distance=0.1", "offset distance=-0.1 corners=round",
              "thicken thickness=0.1", "smooth", "soften", "flatten", "flatten what=rims"}) {
            SCOPED_TRACE(name + ": " + text);
            const auto call = steps::parseStepCall(text);
            ASSERT_TRUE(call);
            const auto result = steps::runStep(*call, shared(m), Pick(), silent());
            if (!result) {
                EXPECT_FALSE(result.error().message.empty());
                continue;
            }
            EXPECT_EQ(mesh::validate(result->part->mesh()), "");
            if (surveyed(m).solid) {
                EXPECT_TRUE(isSolid(result->part->mesh()));
            }
        }
}

TEST(BodyShaping, CancelledMidwayGivesNothing) {
    const Mesh m = dumbbell(2);
    for (const char* text : {"hollow wall=0.5 drains=2", "offset distance=0.5", "offset distance=0.5 corners=round",
                             "thicken thickness=5", "smooth scale=2", "flatten"})
        for (int tick = 1; tick < 40; tick += 5) {
            CancelAtTick cancel(tick);
            const auto call = steps::parseStepCall(text);
            const auto result = steps::runStep(*call, shared(m), Pick(), cancel);
            if (!result) {
                EXPECT_EQ(result.error().code, mesh::errorcode::cancelled) << text;
            }
        }
}

TEST(BodyShaping, TheNumberOfThreadsChangesNothing) {
    const Mesh m = dumbbell(2);
    for (const char* text : {"hollow wall=0.5 drains=2", "offset distance=0.5 corners=round", "thicken thickness=5",
                             "smooth scale=2 deviation=1"}) {
        const auto many = done(m, text);
        withOneThread([&] { EXPECT_EQ(done(m, text).part->mesh().positions, many.part->mesh().positions) << text; });
    }
}

// What takes long is said before it is done, within a factor of three of what comes out.
TEST(BodyShaping, HowMuchWorkItIsIsForeseen) {
    const check::SurveyedPtr part = shared(box(Point(0, 0, 0), Point(10, 10, 10)));
    const auto foreseen = [&](const char* call) {
        const auto parsed = *steps::parseStepCall(call);
        steps::Arguments values = steps::proposedArguments(*parsed.step, *part);
        for (const auto& [name, value] : parsed.given) values.insert_or_assign(name, value);
        return parsed.step->foresee(*part, values);
    };
    EXPECT_TRUE(foreseen("hollow wall=1").starts_with("About ")) << foreseen("hollow wall=1");
    EXPECT_TRUE(foreseen("hollow wall=1").ends_with("in a moment."));
    EXPECT_TRUE(foreseen("offset distance=0.01").find("minutes") != std::string::npos);
    EXPECT_TRUE(foreseen("soften radius=0.02").find("seconds") != std::string::npos) << foreseen("soften radius=0.02");
    const shape::SoftenOptions options{.radius = 0.5};
    const auto soft = shape::soften(*part, Pick(), options, silent());
    ASSERT_TRUE(soft);
    const double told = shape::trianglesToSoften(*part, Pick(), options);
    const auto made = static_cast<double>(soft->part->mesh().triangles.size());
    EXPECT_LT(told, 3 * made);
    EXPECT_GT(told, made / 3);
}

}  // namespace
}  // namespace zither::tests
