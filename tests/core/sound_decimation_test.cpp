// What is solid stays solid however few triangles are left of it (promise 6); what crosses already does not cross more.
#include <algorithm>

#include "fit/fuse.h"
#include "shape/decimate.h"
#include "shape/decimate_pass.h"
#include "tests/core/enclosed.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;
using shape::decimate;

Mesh ballAt(const Point& centre, double radius, std::size_t around, std::size_t along) {
    return fromSoup(rig::sphere(centre, radius, around, along));
}

// Solids that a decimation without eyes makes unsound: thin walls, skins a hair apart, links, folds, struts.
Mesh solidOf(std::uint64_t seed) {
    rig::Random random(seed);
    switch (seed % 5) {
        case 0: {  // a hollow ball with a thin wall, finer inside than outside
            const double gap = random.between(0.02, 0.4);
            return together(ballAt(Point::Zero(), 10, 60, 36), flipped(ballAt(Point::Zero(), 10 - gap, 36, 20)));
        }
        case 1: {  // balls through each other, with small angles along the cuts
            Mesh m = ballAt(Point::Zero(), 10, 40, 24);
            for (int i = 0; i < 3; ++i) m = together(m, ballAt(12 * random.direction(), random.between(2, 7), 30, 18));
            return fit::fuse(check::Surveyed(m), Pick(), {}, silent())->mesh;
        }
        case 2: {  // balls of one size in a row, a hair apart
            Mesh m;
            const double gap = random.between(1e-4, 0.05);
            for (int i = 0; i < 4; ++i) mesh::appendPart(m, ballAt(Point(i * (10 + gap), 0, 0), 5, 40, 24));
            return m;
        }
        case 3: {  // a body with a crumpled skin, as far as it does not cross itself
            for (double depth = 0.5;; depth *= 0.7) {
                Mesh m = ballAt(Point::Zero(), 10, 60, 40);
                rig::Random again(seed);
                for (Point& p : m.positions) p = rig::rounded(p + depth * again.uniform() * again.direction());
                if (surveyed(m).solid) return m;
            }
        }
        default: {  // struts between balls
            Mesh m;
            for (int i = 0; i < 5; ++i) {
                const Point low(random.between(0, 20), random.between(0, 20), random.between(0, 20));
                mesh::appendPart(m, ballAt(low, 3, 24, 14));
                mesh::appendPart(m, box(low - Point(0.3, 0.3, 10), low + Point(0.3, 0.3, 10)));
                mesh::appendPart(m, box(low - Point(10, 0.31, 0.31), low + Point(10, 0.31, 0.31)));
            }
            return fit::fuse(check::Surveyed(m), Pick(), {}, silent())->mesh;
        }
    }
}

TEST(SoundDecimation, SolidsStaySolidAtEveryShare) {
    std::size_t reached = 0;
    std::size_t runs = 0;
    for (std::uint64_t seed = 0; seed < seedsOf(15, 1000); ++seed) {
        const Mesh m = solidOf(seed);
        ASSERT_TRUE(surveyed(m).solid) << seed;
        for (const std::size_t share : {2, 5, 20, 100}) {
            SCOPED_TRACE(std::to_string(seed) + " to one in " + std::to_string(share));
            const auto r = decimate(m, Pick(), {.targetTriangles = m.triangles.size() / share}, silent());
            ASSERT_TRUE(r);
            EXPECT_EQ(mesh::validate(r->mesh), "");
            EXPECT_TRUE(mesh::fitsPrecision(r->mesh, mesh::Precision::Single));
            const check::Survey s = surveyed(r->mesh);
            EXPECT_TRUE(s.solid);
            EXPECT_EQ(s.counts.inwardShells, 0U);
            EXPECT_EQ(s.counts.shells, surveyed(m).counts.shells);
            EXPECT_FALSE(r->reachedTarget && r->heldBack);
            reached += r->reachedTarget;
            ++runs;
        }
    }
    EXPECT_GT(2 * reached, runs);
}

TEST(SoundDecimation, WithinABoundAsWell) {
    for (const std::uint64_t seed : {0U, 1U, 2U, 4U}) {
        SCOPED_TRACE(seed);
        const Mesh m = solidOf(seed);
        const auto r = decimate(m, Pick(), {.targetTriangles = 0, .maxDeviation = 0.3}, silent());
        ASSERT_TRUE(r);
        EXPECT_TRUE(surveyed(r->mesh).solid);
        EXPECT_LE(r->measuredDeviation, 0.3);
        EXPECT_FALSE(r->heldBack);
        EXPECT_GT(r->removed, 0U);
    }
}

TEST(SoundDecimation, WhatCrossesAlreadyDoesNotFreezeTheRest) {
    // Balls that were never fused: their crossing stays, and both are brought down.
    const Mesh m = together(ballAt(Point::Zero(), 10, 60, 36), ballAt(Point(12, 0, 0), 10, 60, 36));
    const check::Surveyed unknown(m);
    const check::Surveyed known(m);
    const check::Survey before = **known.survey({}, silent());
    ASSERT_GT(before.counts.selfIntersectingPairs, 0U);
    for (const check::Surveyed* surface : {&unknown, &known}) {
        const auto r = decimate(*surface, Pick(), {.targetTriangles = m.triangles.size() / 5}, silent());
        ASSERT_TRUE(r);
        EXPECT_LT(r->mesh.triangles.size(), m.triangles.size() / 3);
        EXPECT_TRUE(surveyed(r->mesh).watertight);
        EXPECT_LE(surveyed(r->mesh).counts.selfIntersectingPairs, before.counts.selfIntersectingPairs);
    }
}

TEST(SoundDecimation, WhatIsNotPickedStaysWhileOthersAreHeld) {
    const Mesh m = solidOf(2);
    std::vector<mesh::TriangleId> picked;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        if (mesh::centroid(m, t).x() < 15) picked.push_back(t);
    const auto r = decimate(m, Pick(picked), {.targetTriangles = m.triangles.size() / 3}, silent());
    ASSERT_TRUE(r);
    EXPECT_TRUE(surveyed(r->mesh).solid);
    std::size_t others = 0;
    for (mesh::TriangleId t = 0; t < r->mesh.triangles.size(); ++t) others += mesh::centroid(r->mesh, t).x() > 15.5;
    std::size_t were = 0;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) were += mesh::centroid(m, t).x() > 15.5;
    EXPECT_EQ(others, were);
}

TEST(SoundDecimation, RedoneWithoutHoldingAPassIsTheSame) {
    for (const std::size_t around : {40U, 420U}) {  // whole, and in pieces
        const Mesh m = sphere(10, around, around / 2);
        const shape::PassOptions options{.box = mesh::boxOf(m), .targetTriangles = m.triangles.size() / 3};
        const auto pass = shape::decimatePass(m, {}, options, silent());
        ASSERT_TRUE(pass);
        const std::vector<std::uint8_t> none(m.positions.size(), 0);
        const shape::Pass again = shape::redoWithout(none, pass->made, m, {}, options);
        EXPECT_EQ(again.mesh.triangles.size(), pass->mesh.triangles.size());
        // Held fast, all of it stays.
        const std::vector<std::uint8_t> all(m.positions.size(), 1);
        EXPECT_TRUE(Bits(shape::redoWithout(all, pass->made, m, {}, options).mesh) == Bits(m));
        // What each vertex went into is said.
        for (mesh::VertexId v = 0; v < m.positions.size(); ++v) {
            ASSERT_LT(pass->wentTo[v], pass->mesh.positions.size());
            EXPECT_LT((pass->mesh.positions[pass->wentTo[v]] - m.positions[v]).norm(), 8);
        }
        for (mesh::TriangleId t = 0; t < pass->sourceOf.size(); ++t)
            for (unsigned k = 0; k < 3; ++k)
                EXPECT_EQ(pass->wentTo[m.triangles[pass->sourceOf[t]][k]], pass->mesh.triangles[t][k]);
    }
}

TEST(SoundDecimation, TheSameForOneThreadAndCancelledAtAnyTick) {
    const Mesh m = solidOf(0);
    const auto run = [&] {
        return Bits(decimate(m, Pick(), {.targetTriangles = m.triangles.size() / 20}, silent())->mesh);
    };
    EXPECT_EQ(run(), withOneThread(run));
    for (int tick = 1; tick < 6; ++tick) {
        CancelAtTick progress(tick);
        const auto r = decimate(m, Pick(), {.targetTriangles = m.triangles.size() / 20}, progress);
        ASSERT_FALSE(r) << tick;
        EXPECT_TRUE(r.error().cancelled());
    }
}

}  // namespace
}  // namespace zither::tests
