// What the view is given of a part: what a ray meets, corners for a card, lines of the findings, the colour of picks.
#include "session/state/display.h"

#include <gtest/gtest.h>

#include "check/catalogue.h"
#include "mesh/progress.h"
#include "session/lens/colours.h"
#include "session/reading/palette.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using session::Display;

std::shared_ptr<const Display> shown(const Mesh& m) {
    const auto part = std::make_shared<const check::Surveyed>(m);
    auto d = session::prepareDisplay(part, **part->survey({}, silent()), silent());
    return d ? *d : nullptr;
}

TEST(Display, CornersAreThoseOfTheMeshAboutItsMiddleHoweverFarOut) {
    Mesh m = sphere(1, 12, 8);
    const Point far(1e7, -3e6, 2e5);
    for (Point& p : m.positions) p += far;
    const auto d = shown(m);
    ASSERT_TRUE(d);
    const std::vector<float> corners = session::cornersForCard(*d);
    ASSERT_EQ(corners.size(), 9 * m.triangles.size());
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        for (unsigned k = 0; k < 3; ++k) {
            const float* c = &corners[9 * static_cast<std::size_t>(t) + 3 * k];
            // Floats at 1e7 are a unit apart; about the middle they are not.
            EXPECT_LT((Point(c[0], c[1], c[2]) + d->origin - m.corner(t, k)).norm(), 1e-6);
        }
}

TEST(Display, ARayMeetsWhatLiesFirstAlongIt) {
    Mesh m = sphere(1, 24, 12);
    const Point far(1e6, 0, -3e6);
    for (Point& p : m.positions) p += far;
    const auto d = shown(m);
    ASSERT_TRUE(d);
    const space::TriangleTree tree(m);
    rig::Random random(5);
    int hits = 0;
    for (int i = 0; i < 200; ++i) {
        const Point from = far + Point(random.between(-1.2, 1.2), random.between(-1.2, 1.2), 9);
        const Point down(0, 0, -2);
        const auto hit = tree.firstHit(from, down);
        const auto met = d->met(from, down);
        ASSERT_EQ(met.has_value(), hit.has_value()) << i;
        if (!met) continue;
        ++hits;
        EXPECT_NEAR(met->along, hit->t, 1e-9);
    }
    EXPECT_GT(hits, 80);
}

TEST(Display, LinesAreOfTheClassesThatFailAndLieAtThem) {
    const Mesh m = without(sphere(), {40});
    const auto d = shown(m);
    ASSERT_TRUE(d);
    ASSERT_EQ(d->lines.size(), 1U);
    EXPECT_EQ(d->lines[0].defect, check::openEdges);
    // Three edges, two points each, three floats a point; each point is a corner of the triangle that is missing.
    ASSERT_EQ(d->lines[0].points.size(), 18U);
    for (std::size_t i = 0; i < 18; i += 3) {
        const Point p = Point(d->lines[0].points[i], d->lines[0].points[i + 1], d->lines[0].points[i + 2]) + d->origin;
        double nearest = 1;
        for (unsigned k = 0; k < 3; ++k)
            nearest = std::min(nearest, (p - sphere().corner(mesh::TriangleId(40), k)).norm());
        EXPECT_LT(nearest, 1e-5);
    }
}

TEST(Display, CancelledAtAnyTickGivesNothing) {
    const auto part = std::make_shared<const check::Surveyed>(sphere());
    for (int tick = 1; tick <= 3; ++tick) {
        CancelAtTick progress(tick);
        EXPECT_FALSE(session::prepareDisplay(part, **part->survey({}, silent()), progress)) << tick;
    }
}

TEST(Display, OnlyWhatIsPickedHasTheColourOfPicks) {
    const Mesh m = unitBox();
    std::vector<std::uint32_t> colours;
    session::paintPick(colours, m, mesh::Pick(), session::lightPaper().picked);
    EXPECT_TRUE(colours.empty());
    session::paintPick(colours, m, mesh::Pick(std::vector<mesh::TriangleId>{mesh::TriangleId(3), mesh::TriangleId(7)}),
                       session::lightPaper().picked);
    ASSERT_EQ(colours.size(), 12U);
    for (std::size_t t = 0; t < 12; ++t)
        EXPECT_EQ(colours[t] == session::packed(session::lightPaper().picked), t == 3 || t == 7) << t;
}

}  // namespace
}  // namespace zither::tests
