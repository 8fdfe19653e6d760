// Lost and added (definitions.md), on surfaces whose shares are known.
#include <cmath>

#include "check/tight_shells.h"
#include "measure/full_space.h"
#include "steps/lost.h"
#include "tests/core/assemblies.h"
#include "tests/core/enclosed.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

TEST(Loss, NothingIsLostOfASurfaceInItself) {
    for (const Mesh& m : {sphere(), unitBox(), without(sphere(), {3, 4})}) {
        const measure::Loss loss = lossBetween(m, m);
        EXPECT_EQ(loss.lost, 0);
        EXPECT_EQ(loss.added, 0);
        EXPECT_TRUE(loss.pieces.empty());
        EXPECT_GE(loss.points, 40'000U);
    }
}

TEST(Loss, APieceThatIsGoneIsFoundWithItsShare) {
    const Mesh both = together(boxAt(0, 0, 0, 4), boxAt(10, 0, 0, 2));
    const measure::Loss loss = lossBetween(both, boxAt(0, 0, 0, 4));
    EXPECT_NEAR(loss.lost, 24.0 / 120, 0.005);
    ASSERT_EQ(loss.pieces.size(), 1U);
    EXPECT_FALSE(loss.pieces[0].speck);
    EXPECT_NEAR(loss.pieces[0].area, 24, 1e-9);
    ASSERT_EQ(loss.lostPlaces.size(), 1U);
    EXPECT_NEAR(loss.lostPlaces[0].area, 24, 0.5);
    EXPECT_NEAR(lossBetween(boxAt(0, 0, 0, 4), both).added, 24.0 / 120, 0.005);
}

TEST(Loss, WhatIsFarIsToldWithoutLookingWhetherItIsSeen) {
    const Mesh outer = boxAt(0, 0, 0, 4);
    const Mesh all = together(together(outer, boxAt(10, 0, 0, 2)), boxAt(1, 1, 1));
    const check::Surveyed from(all);
    const auto far = [&](const Mesh& to) {
        return *measure::farShare({from.tree(), from.shells()}, space::TriangleTree(to), silent());
    };
    EXPECT_EQ(far(all), 0);
    EXPECT_NEAR(far(outer), 48.0 / 144, 0.005);
    EXPECT_EQ(far(Mesh()), 1);
    // What is lost is part of that.
    const measure::Loss loss = lossBetween(all, outer);
    double sum = 0;
    for (const measure::LostPoint& p : loss.lostPoints) {
        EXPECT_GT(mesh::centroid(all, p.triangle).x(), 9);
        EXPECT_FALSE(p.mayGo);
        sum += p.area;
    }
    EXPECT_NEAR(sum, loss.lost * loss.seenArea, 1e-9);
}

// Shells that enclose a body by themselves only shorten the search: what is seen is the same.
TEST(Loss, TightShellsChangeNothingOfWhatIsSeen) {
    std::size_t hidden = 0;
    for (std::uint64_t seed = 0; seed < 42; ++seed) {
        const Assembly a = AssemblyMaker(seed).make(seed);
        SCOPED_TRACE(a.kind);
        const check::Surveyed part(a.mesh);
        ASSERT_TRUE(part.survey({}, silent()));
        const std::vector<std::int8_t> tight = check::tightShells(part);
        const measure::SeenPoints plain({{part.tree(), part.shells()}, part.rays()});
        const measure::SeenPoints quick({{part.tree(), part.shells()}, part.rays(), tight});
        using Side = measure::SeenPoints::Side;
        const std::size_t count = plain.points().size();
        ASSERT_EQ(count, quick.points().size());
        std::size_t others = 0;
        for (std::size_t i = 0; i < count; ++i) {
            for (const Side side : {Side::Front, Side::Back}) others += plain.isSeen(i, side) != quick.isSeen(i, side);
            hidden += !plain.isSeen(i, Side::Front) && !plain.isSeen(i, Side::Back);
        }
        // A ray may slip between two triangles, or along a face that others lie on.
        EXPECT_LE(others, count / 10'000);
    }
    EXPECT_GT(hidden, 10'000U);
}

TEST(TightShells, AreClosedDirectedAlikeAndMeetThemselvesNowhere) {
    const auto of = [](const Mesh& m) {
        const check::Surveyed part(m);
        EXPECT_TRUE(part.survey({}, silent()));
        return check::tightShells(part);
    };
    const auto all = [](const Mesh& m, std::int8_t value) {
        return std::vector<std::int8_t>(m.triangles.size(), value);
    };
    EXPECT_EQ(of(sphere()), all(sphere(), 1));
    EXPECT_EQ(of(flipped(sphere())), all(sphere(), -1));
    EXPECT_EQ(of(without(sphere(), {3})), all(without(sphere(), {3}), 0));
    Mesh turned = sphere();
    std::swap(turned.triangles[5][0], turned.triangles[5][1]);
    EXPECT_EQ(of(turned), all(turned, 0));
    // Two that cross are each tight; one that is pushed through itself is not.
    const Mesh both = together(boxAt(0, 0, 0, 4), boxAt(2, 1, 1, 4));
    EXPECT_EQ(of(both), all(both, 1));
    Mesh pushed = sphere(10, 24, 12);
    for (Point& p : pushed.positions)
        if (p.z() > 9) p.z() -= 25;
    EXPECT_EQ(of(pushed), all(pushed, 0));
}

TEST(Loss, WhatIsHiddenIsNotSeen) {
    const Mesh outer = boxAt(0, 0, 0, 4);
    EXPECT_EQ(lossBetween(together(outer, boxAt(1, 1, 1)), outer).lost, 0);
    // Through an opening it is, unless the opening is closed on the user's word.
    const Mesh open = together(cup(), boxAt(1, 1, 1));
    EXPECT_GT(lossBetween(open, outer).lost, 0.05);
    Mesh lid;
    lid.positions = outer.positions;
    lid.triangles = {outer.triangles[0], outer.triangles[1]};
    const measure::ToldTrees closing(measure::Told{.closing = lid});
    const check::Surveyed from(open);
    const check::Surveyed to(outer);
    const auto loss = measure::lossBetween({{from.tree(), from.shells()}, from.rays()}, {to.tree(), to.shells()},
                                           {.facing = true, .told = &closing}, silent());
    EXPECT_LT(loss->lost, 0.001);
}

TEST(Loss, TheSideThatIsSeenMustBeFaced) {
    const Mesh ball = sphere();
    EXPECT_GT(lossBetween(flipped(ball), ball).lost, -1);
    // A body turned inside out shows its back: as a solid the other way round it stands for what was seen.
    EXPECT_EQ(lossBetween(flipped(ball), ball).lost, 0);
    // Specks are told apart.
    Mesh speck = ball;
    for (Point& p : speck.positions) p = 0.005 * p + Point(20, 0, 0);
    const measure::Loss loss = lossBetween(together(ball, speck), ball);
    ASSERT_EQ(loss.pieces.size(), 1U);
    EXPECT_TRUE(loss.pieces[0].speck);
    EXPECT_NEAR(loss.lost, loss.lostListed, 1e-12);
    EXPECT_TRUE(measure::losesNothing(loss));
}

TEST(Loss, OneThreadGivesTheSame) {
    const Mesh a = sphere();
    const Mesh b = sphere(10, 12, 6);
    const auto run = [&] {
        const measure::Loss loss = lossBetween(a, b);
        return std::pair{loss.lost, loss.added};
    };
    EXPECT_EQ(run(), withOneThread(run));
}

// ---- full space

double emptied(const Mesh& was, const Mesh& is, const std::vector<std::uint8_t>& closed) {
    const check::Surveyed part(was);
    return measure::FullSpace(part.tree(), closed, measure::lossTolerance(was)).emptiedBy(is);
}

double emptied(const Mesh& was, const Mesh& is) {
    return emptied(was, is, std::vector<std::uint8_t>(was.triangles.size(), 1));
}

TEST(FullSpace, WhatBecameEmptyIsToldAsAShare) {
    const Mesh body = boxAt(0, 0, 0, 10);
    const Mesh hollow = together(body, flipped(boxAt(2, 2, 2, 5)));
    EXPECT_EQ(emptied(body, body), 0);
    EXPECT_NEAR(emptied(body, hollow), 0.125, 0.03);
    EXPECT_NEAR(emptied(body, boxAt(0, 0, 0, 5)), 0.875, 0.03);
    EXPECT_EQ(emptied(body, Mesh()), 1);
    // More that is full is not what it tells, nor the space of a void.
    EXPECT_EQ(emptied(hollow, body), 0);
    EXPECT_EQ(emptied(hollow, hollow), 0);
    // A body within a body is full, whether its skin is there or not; as a void it is not.
    const Mesh nested = together(body, boxAt(2, 2, 2, 5));
    EXPECT_EQ(emptied(nested, body), 0);
    EXPECT_NEAR(emptied(nested, hollow), 0.125, 0.03);
    // What has moved less than anybody sees, and a surface with a triangle missing.
    EXPECT_EQ(emptied(body, moved(body, Eigen::Affine3d(Eigen::Translation3d(0.01, 0.01, 0.01)), true)), 0);
    EXPECT_EQ(emptied(sphere(), without(sphere(), {3})), 0);
    // A void whose skin is torn, in a closed body.
    const Mesh torn = together(body, without(flipped(boxAt(2, 2, 2, 5)), {0}));
    std::vector<std::uint8_t> onlyBody(torn.triangles.size(), 0);
    std::fill(onlyBody.begin(), onlyBody.begin() + 12, 1);
    EXPECT_EQ(emptied(torn, hollow, onlyBody), 0);
    EXPECT_GT(emptied(torn, boxAt(0, 0, 0, 5), onlyBody), 0.5);
    // Nothing is closed; and too little to tell.
    EXPECT_EQ(emptied(body, Mesh(), std::vector<std::uint8_t>(12, 0)), 0);
    EXPECT_EQ(emptied(Mesh(), body), 0);
    Mesh flat = body;
    for (Point& p : flat.positions) p.z() = 0;
    EXPECT_EQ(emptied(flat, Mesh()), 0);
    // Far from the origin, and small.
    Eigen::Affine3d away(Eigen::Translation3d(1e6, -1e6, 1e6));
    away.scale(1e-2);
    EXPECT_NEAR(emptied(moved(body, away, true), moved(hollow, away, true)), 0.125, 0.03);
}

}  // namespace
}  // namespace zither::tests
