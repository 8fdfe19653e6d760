// Rounding always ends: patches over what no file can hold, and no needles left behind.
#include <Eigen/Geometry>
#include <random>

#include "arrange/skin.h"
#include "check/check_tolerances.h"
#include "fit/fit.h"
#include "fit/fit_tolerances.h"
#include "fit/settle.h"
#include "fit/spots.h"
#include "measure/mass.h"
#include "steps/automatic_repair.h"
#include "tests/core/assemblies.h"
#include "tests/core/enclosed.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::TriangleId;

// Boxes of a grid of which no two neighbours in a row are there: they touch along edges only.
Mesh chequered(int side) {
    std::vector<Mesh> boxes;
    for (int x = 0; x < side; ++x)
        for (int y = 0; y < side; ++y)
            for (int z = 0; z < side; ++z)
                if ((x + y + z) % 2 == 0) boxes.push_back(box(Point(x, y, z), Point(x + 1, y + 1, z + 1)));
    Mesh m = assembled(boxes);
    mesh::joinEqualVertices(m);
    return m;
}

std::vector<std::uint8_t> meeting(const Mesh& m) {
    std::vector<std::uint8_t> flags(m.triangles.size(), 0);
    for (const auto& [a, b] : surveyed(m).crossingPairs) flags[a] = flags[b] = 1;
    return flags;
}

fit::Spots patchedSpots(const Mesh& m, const std::vector<std::uint8_t>& marked, double tolerance) {
    auto spots = fit::patchSpots(m, marked, tolerance, silent());
    EXPECT_TRUE(spots);
    EXPECT_EQ(mesh::validate(spots.value().mesh), "");
    EXPECT_EQ(spots.value().sourceOf.size(), spots.value().mesh.triangles.size());
    for (TriangleId t = 0; t < spots.value().sourceOf.size(); ++t) {
        if (spots.value().sourceOf[t] == mesh::noIndex) continue;
        for (unsigned k = 0; k < 3; ++k)
            EXPECT_EQ(spots.value().mesh.corner(t, k), m.corner(spots.value().sourceOf[t], k));
    }
    return std::move(spots.value());
}

TEST(Spots, WhatCrossesIsCutOutAndClosedAndTheRestStays) {
    // Vertices of a sphere a hair beyond their neighbours: some of their triangles turn over and cross others.
    std::size_t tried = 0;
    std::size_t solid = 0;
    for (std::uint64_t seed = 0; seed < 20; ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed);
        Mesh m = sphere(10, 160, 100);
        for (int i = 0; i < 6; ++i) {
            const mesh::Triangle& t = m.triangles[TriangleId(random.below(m.triangles.size()))];
            m.positions[t[0]] = 1.4 * m.positions[t[1]] - 0.4 * m.positions[t[0]];
        }
        const std::vector<std::uint8_t> marked = meeting(m);
        const auto count = static_cast<std::size_t>(std::count(marked.begin(), marked.end(), 1));
        if (count == 0) continue;
        ++tried;
        const fit::Spots spots = patchedSpots(m, marked, 1);
        const check::Survey s = surveyed(spots.mesh);
        EXPECT_EQ(s.counts.boundaryEdges, 0U);
        EXPECT_LE(s.counts.selfIntersectingPairs, surveyed(m).counts.selfIntersectingPairs);
        // What could not be closed without loss is said to be left; all else is sound, but for crumbs inside out.
        if (spots.left.empty())
            EXPECT_TRUE(s.solid || s.counts.inwardShells + s.counts.buriedShells > 0);
        else
            EXPECT_FALSE(s.solid);
        solid += s.solid;
        EXPECT_GE(spots.mesh.triangles.size() + 12 * count, m.triangles.size());
        EXPECT_FALSE(spots.patched.empty());
    }
    EXPECT_GT(tried, 10U);
    EXPECT_GT(2 * solid, tried);
}

TEST(Spots, WhatWouldBeSeenGoneStays) {
    // The top of a box: no patch over its rim but the one that was there, or one across the middle of the sides.
    const Mesh m = box(Point(0, 0, 0), Point(1, 1, 1));
    std::vector<std::uint8_t> marked(m.triangles.size(), 0);
    for (TriangleId t = 0; t < marked.size(); ++t) marked[t] = mesh::centroid(m, t).z() > 0.1;
    const fit::Spots spots = patchedSpots(m, marked, 0.01);
    EXPECT_TRUE(Bits(spots.mesh) == Bits(m));
    EXPECT_EQ(spots.left.size(), static_cast<std::size_t>(std::count(marked.begin(), marked.end(), 1)));
    EXPECT_TRUE(spots.patched.empty());
}

TEST(Settle, AFaceWrittenOnItsBackEnclosesNothing) {
    Mesh m = box(Point(0, 0, 0), Point(1, 1, 1));
    const mesh::VertexId first = m.positions.size();
    for (const Point& p : {Point(2, 0, 0), Point(3, 0, 0), Point(2, 1, 0)}) m.positions.push_back(p);
    m.triangles.push_back({first, first + 1, first + 2});
    m.triangles.push_back({first, first + 2, first + 1});
    const auto settled = fit::settle(m, mesh::Precision::Single, silent());
    ASSERT_TRUE(settled);
    EXPECT_TRUE(settled->unsound.empty());
    EXPECT_TRUE(surveyed(settled->mesh).solid);
    EXPECT_EQ(settled->mesh.triangles.size(), 12U);
}

TEST(Fit, WhatNothingWasMadeOfKeepsItsBits) {
    const Mesh m = sphere();
    const auto fit = fit::makeFit(m, {}, silent());
    ASSERT_TRUE(fit);
    EXPECT_TRUE(fit->unsound.empty());
    EXPECT_TRUE(Bits(fit->mesh) == Bits(m));
}

TEST(Fit, WhatIsOnlyRoundedKeepsTheCapsThatItCameWith) {
    // A corner a hair above the middle of an edge of a box, and the cap under it.
    Mesh m = box(Point(0, 0, 0), Point(1, 1, 1));
    const mesh::Edges edges(m);
    const auto around = edges.around(edges.edgeOf(0));
    ASSERT_EQ(around.size(), 2U);
    const mesh::VertexId a = mesh::fromVertex(m, around[0]);
    const mesh::VertexId b = mesh::toVertex(m, around[0]);
    const mesh::VertexId c = mesh::oppositeVertex(m, around[0]);
    const Point out = mesh::areaVector(m, mesh::triangleOf(around[0])).normalized() +
                      mesh::areaVector(m, mesh::triangleOf(around[1])).normalized();
    const auto middle = static_cast<mesh::VertexId>(m.positions.size());
    m.positions.push_back(0.5 * (m.positions[a] + m.positions[b]) + 0x1p-30 * out);
    m.triangles[mesh::triangleOf(around[0])] = {a, middle, c};
    m.triangles.push_back({middle, b, c});
    m.triangles.push_back({a, b, middle});
    ASSERT_TRUE(surveyed(m).solid);
    ASSERT_EQ(surveyed(m).counts.needles, 1U);
    const auto fit = fit::makeFit(m, {.precision = mesh::Precision::Double}, silent());
    ASSERT_TRUE(fit);
    EXPECT_TRUE(Bits(fit->mesh) == Bits(m));
    EXPECT_EQ(fit->swapped + fit->collapsed, 0U);
}

// Plates that lie on each other within less than a file holds, turned at random: films, tips of wedges and zebra.
TEST(Fit, PlatesAHairFromEachOtherEndSolid) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> number(-1, 1);
    for (int round = 0; round < (longMode() ? 200 : 12); ++round) {
        const Eigen::Quaterniond turn(number(random), number(random), number(random), number(random));
        std::vector<Mesh> plates;
        for (int i = 0; i < 3; ++i) {
            Eigen::Affine3d by = Eigen::Affine3d::Identity();
            by.rotate(turn.normalized());
            // A hair off the plane of the one before, and tilted by as little.
            by.translate(Point(0.37 * i, 0.21 * i, (i + 1e-8 * number(random))));
            by.rotate(Eigen::AngleAxisd(3e-8 * number(random), Point::UnitX()));
            plates.push_back(moved(box(Point(0, 0, 0), Point(5, 4, 1)), by, true));
        }
        const Mesh m = assembled(plates);
        enclose::VolumesOptions options;
        options.precision = mesh::Precision::Double;
        auto v = enclose::fullOrEmpty(check::Surveyed(m), options, silent());
        ASSERT_TRUE(v);
        const check::Survey s = surveyed(v->mesh);
        EXPECT_TRUE(s.solid) << round << ": " << s.counts.selfIntersectingPairs << " crossing, "
                             << s.counts.nonmanifoldEdges << " non-manifold, " << s.counts.boundaryEdges << " open";
        EXPECT_NEAR(s.mass.volume, 60, 0.01) << round;
        EXPECT_LT(lossBetween(m, v->mesh).lost, 0.002) << round;
    }
}

TEST(Fit, ChequeredBoxesTurnedAtRandomEndSolid) {
    std::mt19937 random(11);
    std::uniform_real_distribution<double> number(-1, 1);
    for (int round = 0; round < (longMode() ? 50 : 4); ++round) {
        Eigen::Affine3d by = Eigen::Affine3d::Identity();
        by.rotate(Eigen::Quaterniond(number(random), number(random), number(random), number(random)).normalized());
        // Rounded to 32 bits they touch no more exactly: gaps and crossings of a few last places all over.
        const Mesh m = moved(chequered(3), by, false);
        auto v = enclose::fullOrEmpty(check::Surveyed(m), {}, silent());
        ASSERT_TRUE(v);
        EXPECT_TRUE(surveyed(v->mesh).solid) << round;
        EXPECT_NEAR(surveyed(v->mesh).mass.volume, 14, 0.01) << round;
        EXPECT_LT(lossBetween(m, v->mesh).lost, 0.002) << round;
    }
}

TEST(Fit, CuttingLeavesNoNeedles) {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> number(-1, 1);
    std::vector<Mesh> parts;
    for (int i = 0; i < 5; ++i) {
        Eigen::Affine3d by = Eigen::Affine3d::Identity();
        by.translate(3 * Point(number(random), number(random), number(random)));
        by.rotate(Eigen::Quaterniond(number(random), number(random), number(random), number(random)).normalized());
        parts.push_back(moved(cylinder(2, 6, 48), by, false));
    }
    const Mesh m = assembled(parts);
    auto v = enclose::fullOrEmpty(check::Surveyed(m), {}, silent());
    ASSERT_TRUE(v);
    const check::Survey s = surveyed(v->mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_GT(v->cut, 100U);
    EXPECT_EQ(s.counts.needles, 0U);
}

// Whatever way it takes: a repair makes no needles that a mesher would refuse, within the precision of the file.
TEST(Fit, RepairsOfAssembliesLeaveNoNeedlesOfTheirOwn) {
    std::size_t had = 0;
    for (std::uint64_t seed = 0; seed < 28; ++seed) {
        const Assembly a = AssemblyMaker(seed + 40).make(seed);
        if (!a.closed || a.wide) continue;
        SCOPED_TRACE(a.kind);
        steps::RepairOptions options;
        options.closeOpenings = true;
        options.sheets = steps::SheetWay::Thicken;
        options.narrow = true;
        const auto r = steps::repairAutomatically(shared(a.mesh), options, silent());
        ASSERT_TRUE(r);
        if (r->steps.empty()) continue;
        const check::Counts before = surveyed(a.mesh).counts;
        const check::Survey after = surveyed(r->steps.back().part->mesh());
        EXPECT_TRUE(after.solid);
        EXPECT_LE(after.counts.needles, before.needles);
        ++had;
    }
    EXPECT_GT(had, 8U);
}

TEST(Fit, SmallAnglesGoWhereTheSurfaceStaysAndTheRestAreCounted) {
    // Balls of narrow triangles through each other: cutting leaves slivers along the curves in which they meet.
    std::size_t before = 0;
    std::size_t after = 0;
    for (std::uint64_t seed = 0; seed < 6; ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed);
        Mesh m = sphere(10, 48, 24);
        for (int i = 0; i < 2; ++i)
            mesh::appendPart(m,
                             fromSoup(rig::sphere(Point(random.between(-6, 6), random.between(-6, 6), 5), 8, 40, 20)));
        const check::Surveyed s(m);
        const auto raw = arrange::skinOf(s, {}, silent());
        ASSERT_TRUE(raw);
        std::vector<std::uint8_t> made;
        for (const mesh::VertexId v : raw->givenVertex) made.push_back(v == mesh::noIndex);
        std::vector<std::uint8_t> whole(raw->mesh.triangles.size(), 0);
        std::fill(whole.begin(), whole.begin() + static_cast<std::ptrdiff_t>(raw->whole), 1);
        const auto fit = fit::makeFit(raw->mesh, {.made = made, .untouched = whole}, silent());
        ASSERT_TRUE(fit);
        ASSERT_TRUE(surveyed(fit->mesh).solid);
        const auto small = [](const Mesh& of) {
            std::size_t count = 0;
            for (TriangleId t = 0; t < of.triangles.size(); ++t)
                count += measure::smallestAngleDeg(of, t) < tolerance::fitAngleDeg;
            return count;
        };
        // None of the balls' own is so small: what is left was made, and is counted.
        ASSERT_EQ(small(m), 0U);
        EXPECT_EQ(fit->smallAngles, small(fit->mesh));
        before += small(raw->mesh);
        after += small(fit->mesh);
        EXPECT_LE(fit->farthestMoved, 4 * tolerance::needleHeight * mesh::boxOf(m).diagonal());
        std::size_t stands = 0;
        for (TriangleId t = 0; t < fit->sourceOf.size(); ++t)
            if (fit->sourceOf[t] != mesh::noIndex && whole[fit->sourceOf[t]])
                for (unsigned k = 0; k < 3; ++k)
                    stands += fit->mesh.corner(t, k) == raw->mesh.corner(fit->sourceOf[t], k);
        EXPECT_EQ(stands, 3 * raw->whole);
    }
    EXPECT_GT(before, 20U);
    EXPECT_LT(4 * after, before);
}

}  // namespace
}  // namespace zither::tests
