// Even triangles: lines stay, sizes are met, what is solid stays solid, and nothing comes farther than is asked.
#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "fit/fuse.h"
#include "measure/mass.h"
#include "shape/even_triangles.h"
#include "shape/remesh.h"
#include "steps/call.h"
#include "steps/step.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;
using shape::FeatureLines;
using shape::LinkedSurface;
using shape::lockedLine;
using shape::noLine;

// ---- a surface that knows its neighbours

// A shuffled deck of changes, each only where it may be made.
void changeAtRandom(LinkedSurface& s, rig::Random& random, int changes) {
    for (int i = 0; i < changes; ++i) {
        const auto h = static_cast<mesh::HalfEdge>(random.below(3 * s.triangleSlots()));
        if (!s.isAlive(h / 3)) continue;
        switch (random.below(3)) {
            case 0:
                s.split(h, 0.5 * (s.at(s.from(h)) + s.at(s.to(h))));
                break;
            case 1:
                if (s.mayCollapse(h)) s.collapse(h);
                break;
            default:
                if (s.mayFlip(h)) s.flip(h);
        }
    }
}

TEST(LinkedSurface, StaysConsistentAndKeepsItsTopology) {
    Mesh twoCubes = unitBox();  // that touch at a corner
    mesh::append(twoCubes, box(Point(1, 1, 1), Point(2, 2, 2)));
    mesh::joinEqualVertices(twoCubes);
    for (const Mesh& m : {sphere(), unitBox(), without(sphere(), {3, 4, 50, 51}), twoCubes})
        for (std::uint64_t seed = 0; seed < seedsOf(8, 200); ++seed) {
            rig::Random random(seed);
            const mesh::Edges edges(m);
            LinkedSurface s(m, edges);
            ASSERT_EQ(s.validate(), "");
            changeAtRandom(s, random, 400);
            ASSERT_EQ(s.validate(), "") << seed;
            const auto compact = s.compact(m);
            ASSERT_EQ(mesh::validate(compact.mesh), "");
            ASSERT_EQ(compact.mesh.triangles.size(), s.alive());
            const check::Survey before = surveyed(m);
            const check::Survey after = surveyed(compact.mesh);
            EXPECT_EQ(after.counts.nonmanifoldEdges, before.counts.nonmanifoldEdges) << seed;
            EXPECT_EQ(after.counts.nonmanifoldVertices, before.counts.nonmanifoldVertices) << seed;
            EXPECT_EQ(after.counts.misorientedEdges, before.counts.misorientedEdges) << seed;
            EXPECT_EQ(after.counts.holes, before.counts.holes) << seed;
            EXPECT_EQ(after.counts.shells, before.counts.shells) << seed;
            // Euler: vertices and triangles go together.
            const auto euler = [](const check::Survey& survey) {
                return 2 * static_cast<long>(survey.counts.vertices) - static_cast<long>(survey.counts.triangles) -
                       static_cast<long>(survey.counts.boundaryEdges);
            };
            EXPECT_EQ(euler(after), euler(before)) << seed;
        }
}

// ---- lines

TEST(FeatureLines, OfABoxAreItsEdges) {
    const Mesh m = unitBox();
    const mesh::Edges edges(m);
    const FeatureLines lines = shape::featureLinesOf(m, edges, {});
    EXPECT_EQ(lines.lines.size(), 12U);
    for (const auto& line : lines.lines) EXPECT_EQ(line.length(), 1);
    for (const auto& place : lines.places) EXPECT_TRUE(place.isFixed());
    EXPECT_EQ(std::count(lines.lineOf.begin(), lines.lineOf.end(), noLine), 6);
}

TEST(FeatureLines, RimsThatGoRoundHaveThreeEnds) {
    const Mesh m = cylinder(5, 8, 48);
    const mesh::Edges edges(m);
    const FeatureLines lines = shape::featureLinesOf(m, edges, {});
    ASSERT_EQ(lines.lines.size(), 6U);
    double length = 0;
    for (const auto& line : lines.lines) {
        EXPECT_NE(line.first(), line.last());
        length += line.length();
        for (std::size_t i = 1; i + 1 < line.vertices().size(); ++i) {
            const auto& place = lines.places[line.vertices()[i]];
            EXPECT_EQ(line.at(place.along), m.positions[line.vertices()[i]]);
        }
    }
    EXPECT_NEAR(length, 2 * 48 * 2 * 5 * std::sin(std::numbers::pi / 48), 1e-5);
}

TEST(FeatureLines, LockedTrianglesRegionsAndSpurs) {
    Mesh m = unitBox();
    m.regionNames = {"a", "b"};
    m.regions.assign(m.triangles.size(), 0);
    m.regions[0] = 1;
    const mesh::Edges edges(m);
    // The diagonal beside triangle 0 is a border of regions.
    EXPECT_EQ(shape::featureLinesOf(m, edges, {}).lines.size(), 13U);
    shape::LineOptions options;
    options.locked.assign(m.triangles.size(), 0);
    options.locked[0] = 1;
    const FeatureLines locked = shape::featureLinesOf(m, edges, options);
    EXPECT_EQ(std::count(locked.lineOf.begin(), locked.lineOf.end(), lockedLine), 3);
    // A single bent edge in a ball is noise where spurs are dropped.
    Mesh dented = sphere(10, 48, 24);
    dented.positions[300] *= 0.93;
    const mesh::Edges dentedEdges(dented);
    shape::LineOptions noise;
    noise.creaseDeg = 25;
    const std::size_t with = shape::featureLinesOf(dented, dentedEdges, noise).lines.size();
    noise.spur = 100;
    EXPECT_LE(shape::featureLinesOf(dented, dentedEdges, noise).lines.size(), with);
}

// ---- lengths

TEST(TargetLengths, FollowCurvatureWithinTheirLimitsAndGrowSlowly) {
    const Mesh m = sphere(10, 96, 48);
    const mesh::Edges edges(m);
    const FeatureLines none{
        {}, std::vector<shape::VertexPlace>(m.positions.size()), std::vector<shape::LineId>(edges.count(), noLine)};
    shape::TargetOptions options;
    options.longest = 100;
    options.shortest = 0.1;
    const auto expect = [&](double length, double within) {
        const auto lengths = shape::targetLengths(m, edges, none, options);
        const auto [least, most] = std::minmax_element(lengths.begin(), lengths.end());
        EXPECT_NEAR(*least, length, within);
        EXPECT_NEAR(*most, length, within);
    };
    expect(20 * std::numbers::pi / 180 / 0.2, 0.6);  // both curvatures of a ball count
    options.shortest = options.longest = 3;
    expect(3, 0);
    options.deviation = 0.1;
    expect(std::sqrt(0.3 / 0.2), 0.2);
    options.deviation = 1e-9;
    expect(3 * shape::leastOfShortest, 0);
    std::vector<double> lengths(m.positions.size(), 50);
    lengths[0] = 1;
    shape::limitGrowth(lengths, m, 0.3);
    for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
        const mesh::HalfEdge h = edges.around(e)[0];
        const double way = (m.positions[fromVertex(m, h)] - m.positions[toVertex(m, h)]).norm();
        EXPECT_LE(std::abs(lengths[fromVertex(m, h)] - lengths[toVertex(m, h)]), 0.3 * way + 1e-9);
    }
}

// ---- the whole

shape::Remeshed remeshed(const Mesh& m, const shape::RemeshOptions& options, const Pick& pick = {}) {
    auto result = shape::remesh(check::Surveyed(m), pick, options, silent());
    EXPECT_TRUE(result) << (result ? "" : result.error().message);
    return result ? std::move(result.value()) : shape::Remeshed{};
}

shape::RemeshOptions even(double length, double deviation) {
    shape::RemeshOptions options;
    options.target.longest = options.target.shortest = length;
    options.target.deviation = deviation;
    return options;
}

TEST(Remesh, ABoxKeepsItsEdgesAndItsShape) {
    const Mesh m = box(Point(0, 0, 0), Point(10, 6, 4));
    const auto result = remeshed(m, even(0.7, 0.01));
    const check::Survey survey = surveyed(result.mesh());
    EXPECT_TRUE(survey.solid);
    EXPECT_NEAR(survey.mass.volume, 240, 1e-9);
    EXPECT_NEAR(survey.mass.area, 248, 1e-9);
    EXPECT_LT(farthest(m, result.mesh()), 1e-9);
    EXPECT_GT(result.smallestAngleDeg, 30);
    EXPECT_NEAR(result.meanEdge, 0.7, 0.1);
    EXPECT_EQ(result.lines, 12U);
    EXPECT_EQ(result.heldTriangles, 0U);
    EXPECT_LT(survey.edgeLength.max, 0.7 * 2);
}

TEST(Remesh, CurvedPartsAreEvenAndWithinTheirLimit) {
    for (const Mesh& m : {sphere(10, 200, 100), cylinder(5, 8, 96), sphere(10, 20, 10)})
        for (const double length : {0.8, 2.0}) {
            const auto result = remeshed(m, even(length, 0.1));
            const check::Survey survey = surveyed(result.mesh());
            EXPECT_TRUE(survey.solid);
            EXPECT_LE(farthest(m, result.mesh()), 0.1);
            EXPECT_LE(result.deviation, 0.1);
            EXPECT_LT(result.shareBelow30, 0.001);
            EXPECT_GT(result.smallestAngleDeg, 10);
            EXPECT_NEAR(survey.mass.volume, surveyed(m).mass.volume, 0.1 * survey.mass.area);
        }
}

// What is told as the farthest is a bound: no point of either surface, densely sampled, is farther.
TEST(Remesh, NoPointIsFartherThanIsTold) {
    for (std::uint64_t seed = 0; seed < seedsOf(4, 60); ++seed) {
        rig::Random random(700 + seed);
        Mesh m = sphere(10, 20 + random.below(60), 10 + random.below(30));
        for (Point& p : m.positions)
            p += 0.4 * Point(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1));
        const double limit = random.between(0.05, 0.4);
        const auto result = remeshed(m, even(random.between(0.6, 2), limit));
        if (result.heldTriangles == m.triangles.size()) continue;
        EXPECT_LE(result.deviation, limit) << seed;
        const space::TriangleTree given(m);
        const space::TriangleTree made(result.mesh());
        const auto farthestOf = [](const Mesh& of, const space::TriangleTree& to) {
            double most = 0;
            constexpr int n = 6;
            for (mesh::TriangleId t = 0; t < of.triangles.size(); ++t)
                for (int i = 0; i <= n; ++i)
                    for (int j = 0; i + j <= n; ++j) {
                        const Point p = (of.corner(t, 0) * i + of.corner(t, 1) * j + of.corner(t, 2) * (n - i - j)) / n;
                        most = std::max(most, to.nearest(p)->distanceSquared);
                    }
            return std::sqrt(most);
        };
        constexpr double rounding = 1e-9;
        EXPECT_LE(farthestOf(m, made), result.deviation + rounding) << seed;
        EXPECT_LE(farthestOf(result.mesh(), given), result.deviation + rounding) << seed;
    }
}

TEST(Remesh, SizedByCurvatureSmallWhereItIsRoundAndLargeWhereItIsFlat) {
    // A slab with a round rim.
    Mesh m = sphere(10, 120, 60);
    for (Point& p : m.positions) p.z() = std::clamp(p.z(), -2.0, 2.0);
    const check::Surveyed given(m);
    shape::RemeshOptions options;
    options.target.longest = 3;
    options.target.shortest = 0.3;
    options.target.deviation = 0.1;
    const auto result = remeshed(fit::fuse(m, Pick(), {}, silent())->mesh, options);
    EXPECT_TRUE(surveyed(result.mesh()).solid);
    double flat = 0;
    double round = 1e300;
    for (mesh::TriangleId t = 0; t < result.mesh().triangles.size(); ++t) {
        const Point c = mesh::centroid(result.mesh(), t);
        const double edge = (result.mesh().corner(t, 0) - result.mesh().corner(t, 1)).norm();
        if (std::abs(c.z()) > 1.999 && std::hypot(c.x(), c.y()) < 4) flat = std::max(flat, edge);
        if (std::abs(c.z()) < 1) round = std::min(round, edge);
    }
    EXPECT_GT(flat, 1.5);
    EXPECT_LT(round, 1.2);
}

TEST(Remesh, OpenBordersAndRegionsStay) {
    Mesh m = without(sphere(10, 48, 24), {0, 1, 2, 3, 4, 5});
    m.regionNames = {"upper", "lower"};
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) m.regions.push_back(mesh::centroid(m, t).z() > 0 ? 0 : 1);
    const auto result = remeshed(m, even(1, 0.1));
    ASSERT_EQ(result.mesh().regions.size(), result.mesh().triangles.size());
    EXPECT_EQ(result.mesh().regionNames, m.regionNames);
    const check::Survey before = surveyed(m);
    const check::Survey after = surveyed(result.mesh());
    EXPECT_EQ(after.counts.holes, before.counts.holes);
    EXPECT_EQ(after.counts.selfIntersectingPairs, 0U);
    const auto areaOf = [](const Mesh& of, std::uint32_t region) {
        double area = 0;
        for (mesh::TriangleId t = 0; t < of.triangles.size(); ++t)
            if (of.regions[t] == region) area += 0.5 * mesh::areaVector(of, t).norm();
        return area;
    };
    for (const std::uint32_t region : {0U, 1U})
        EXPECT_NEAR(areaOf(result.mesh(), region), areaOf(m, region), 0.01 * areaOf(m, region));
    EXPECT_LE(farthest(m, result.mesh()), 0.1);
}

TEST(Remesh, OfAPickAllElseKeepsItsBits) {
    const Mesh m = sphere(10, 48, 24);
    std::vector<mesh::TriangleId> upper;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        if (mesh::centroid(m, t).z() > 3) upper.push_back(t);
    const auto result = remeshed(m, even(0.6, 0.1), Pick(upper));
    EXPECT_TRUE(surveyed(result.mesh()).solid);
    const double kept = measure::keptOf(m, result.mesh()).share;
    EXPECT_NEAR(kept, 1 - static_cast<double>(upper.size()) / static_cast<double>(m.triangles.size()), 1e-9);
}

// Two walls nearer to each other than edges are long: what cannot be even stays as it came, and sound.
TEST(Remesh, AThinCurvedWallStaysSound) {
    Mesh m = sphere(10, 64, 32);
    mesh::append(m, flipped(sphere(9.97, 64, 32)));
    ASSERT_TRUE(surveyed(m).solid);
    const auto result = remeshed(m, even(3, 0.5));
    EXPECT_TRUE(surveyed(result.mesh()).solid);
    EXPECT_LE(farthest(m, result.mesh()), 0.5);
}

TEST(Remesh, WhatMeetsOthersAlreadyStaysAndNothingGetsWorse) {
    for (const auto& [name, m] : uglyMeshes()) {
        if (m.triangles.size() > 5000) continue;
        const check::Survey before = surveyed(m);
        const double size = mesh::boxOf(m).diagonal();
        if (!(size > 0) || !std::isfinite(size)) continue;
        const auto result = remeshed(m, even(size / 12, size / 100));
        const check::Survey after = surveyed(result.mesh());
        EXPECT_LE(after.counts.selfIntersectingPairs, before.counts.selfIntersectingPairs) << name;
        EXPECT_LE(after.counts.nonmanifoldEdges, before.counts.nonmanifoldEdges) << name;
        EXPECT_LE(after.counts.degenerateTriangles, before.counts.degenerateTriangles) << name;
        EXPECT_LE(after.counts.holes, before.counts.holes) << name;
    }
}

TEST(Remesh, RandomSolidsStaySolid) {
    for (std::uint64_t seed = 0; seed < seedsOf(6, 100); ++seed) {
        rig::Random random(seed);
        Mesh m = sphere(3, 24, 12);
        for (int i = 0; i < 3; ++i) {
            const Point low(random.between(-3, 2), random.between(-3, 2), random.between(-3, 2));
            mesh::append(m,
                         box(low, low + Point(random.between(0.5, 4), random.between(0.5, 4), random.between(0.5, 4))));
        }
        m = fit::fuse(m, Pick(), {}, silent())->mesh;
        const double limit = 0.05;
        const auto result = remeshed(m, even(random.between(0.2, 1.2), limit));
        const check::Survey survey = surveyed(result.mesh());
        EXPECT_TRUE(survey.solid) << seed;
        EXPECT_LE(farthest(m, result.mesh()), limit) << seed;
        // Once more: the same bits.
        EXPECT_NEAR(survey.mass.volume, surveyed(m).mass.volume, 0.02 * survey.mass.volume) << seed;
    }
}

// ---- split only

TEST(Remesh, TheSameForAnyNumberOfThreads) {
    const Mesh m = sphere(10, 60, 30);
    const auto many = remeshed(m, even(1, 0.1));
    const auto one = withOneThread([&] { return remeshed(m, even(1, 0.1)); });
    EXPECT_EQ(many.mesh().triangles, one.mesh().triangles);
    EXPECT_EQ(many.mesh().positions.size(), one.mesh().positions.size());
}

TEST(Remesh, CanBeCancelledAndSaysWhatIsTooMuch) {
    const Mesh m = sphere(10, 60, 30);
    for (const int tick : {1, 3, 8}) {
        CancelAtTick progress(tick);
        const auto result = shape::remesh(check::Surveyed(m), Pick(), even(1, 0.1), progress);
        ASSERT_FALSE(result);
        EXPECT_TRUE(result.error().cancelled());
    }
    const auto tooMany = shape::remesh(check::Surveyed(m), Pick(), even(1e-7, 1), silent());
    ASSERT_FALSE(tooMany);
    EXPECT_NE(tooMany.error().message.find("memory"), std::string::npos);
    const auto done = steps::runStep(*steps::parseStepCall("remesh"), shared(m), Pick(), silent());
    ASSERT_TRUE(done);
    EXPECT_GT(done->record.number("mean_edge").value(), 0);
    EXPECT_LE(done->record.number("deviation_bound").value(), 0.1 * done->used.find("length")->second.number());
    EXPECT_FALSE(steps::runStep(*steps::parseStepCall("remesh length=1 shortest=2"), shared(m), Pick(), silent()));
}

}  // namespace
}  // namespace zither::tests
