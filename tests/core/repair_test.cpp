// Clean, orient and drop-shells.
#include <set>

#include "measure/mass.h"
#include "repair/absorb.h"
#include "repair/clean.h"
#include "repair/drop_shells.h"
#include "repair/orient.h"
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

TEST(Orient, ABodyWithinABodyIsNotTurned) {
    const Mesh m = together(together(box(Point(0, 0, 0), Point(10, 10, 10)), box(Point(2, 2, 2), Point(8, 8, 8))),
                            flipped(box(Point(4, 4, 4), Point(6, 6, 6))));
    const auto r = repair::orient(m, Pick(), silent());
    const auto s = surveyed(r->mesh);
    EXPECT_EQ(s.counts.inwardShells, 0U);
    EXPECT_EQ(s.counts.buriedShells, 1U);
    EXPECT_DOUBLE_EQ(s.mass.volume, 1000 + 216 - 8);
    EXPECT_EQ(r->flipped, 0U);
}

TEST(Orient, WhatFacesInwardIsTurnedWithAllThatItHolds) {
    const Mesh outer = box(Point(0, 0, 0), Point(10, 10, 10));
    const Mesh middle = box(Point(2, 2, 2), Point(8, 8, 8));
    const Mesh inner = box(Point(4, 4, 4), Point(6, 6, 6));
    // A hollow body with a body in its void, inside out as a whole.
    const Mesh m = together(together(flipped(outer), middle), flipped(inner));
    const auto r = repair::orient(m, Pick(), silent());
    const auto s = surveyed(r->mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_DOUBLE_EQ(s.mass.volume, 1000 - 216 + 8);
    EXPECT_EQ(r->shellsTurned, 3U);
    // In a void a shell that faces inward is a body turned inside out.
    const auto in = repair::orient(together(together(outer, flipped(middle)), flipped(inner)), Pick(), silent());
    EXPECT_EQ(in->shellsTurned, 1U);
    EXPECT_DOUBLE_EQ(surveyed(in->mesh).mass.volume, 1000 - 216 + 8);
}

TEST(Orient, ACavityWhoseTrianglesDisagreeStaysOneByItsLargerArea) {
    Mesh m = together(box(Point(0, 0, 0), Point(10, 10, 10)), flipped(box(Point(2, 2, 2), Point(8, 8, 8))));
    for (std::size_t t = 12; t < 16; ++t) std::swap(m.triangles[t][1], m.triangles[t][2]);
    const auto r = repair::orient(m, Pick(), silent());
    EXPECT_EQ(r->flipped, 4U);
    EXPECT_DOUBLE_EQ(surveyed(r->mesh).mass.volume, 1000 - 216);
}

TEST(Orient, ACavityInABodyWithAHoleStaysOne) {
    Mesh m = together(box(Point(0, 0, 0), Point(10, 10, 10)), flipped(box(Point(2, 2, 2), Point(8, 8, 8))));
    m.regions.clear();
    m.triangles.erase(m.triangles.begin());
    EXPECT_EQ(repair::orient(m, Pick(), silent())->flipped, 0U);
    // Beside it such a shell is a body inside out.
    m = together(m, flipped(box(Point(20, 0, 0), Point(21, 1, 1))));
    EXPECT_EQ(repair::orient(m, Pick(), silent())->flipped, 12U);
}

// ---- absorb

TEST(Absorb, SkinsOfBodiesWithinBodiesGoAndWhatTheyEnclosedStaysFull) {
    const Mesh outer = box(Point(0, 0, 0), Point(10, 10, 10));
    const Mesh middle = box(Point(2, 2, 2), Point(8, 8, 8));
    const Mesh inner = box(Point(4, 4, 4), Point(6, 6, 6));
    const auto r = repair::absorb(together(together(outer, middle), inner), Pick(), repair::Buried::Material, silent());
    ASSERT_EQ(r->shells.size(), 2U);
    EXPECT_EQ(r->shells[0].triangles, 12U);
    EXPECT_DOUBLE_EQ(r->shells[0].volume, 216);
    EXPECT_TRUE(surveyed(r->mesh).solid);
    EXPECT_DOUBLE_EQ(surveyed(r->mesh).mass.volume, 1000);
    // A void of the inner body alone is full of the outer one.
    const auto hollow =
        repair::absorb(together(together(outer, middle), flipped(inner)), Pick(), repair::Buried::Material, silent());
    EXPECT_DOUBLE_EQ(surveyed(hollow->mesh).mass.volume, 1000);
    // What lies in a void is no part of what is around it.
    const auto loose =
        repair::absorb(together(together(outer, flipped(middle)), inner), Pick(), repair::Buried::Material, silent());
    EXPECT_TRUE(loose->shells.empty());
}

TEST(Absorb, AsVoidsTheyAreTurnedWithAllThatTheyHold) {
    const Mesh outer = box(Point(0, 0, 0), Point(10, 10, 10));
    const Mesh middle = box(Point(2, 2, 2), Point(8, 8, 8));
    const Mesh inner = box(Point(4, 4, 4), Point(6, 6, 6));
    const auto one = repair::absorb(together(outer, middle), Pick(), repair::Buried::Void, silent());
    EXPECT_TRUE(surveyed(one->mesh).solid);
    EXPECT_DOUBLE_EQ(one->emptied, 216);
    EXPECT_DOUBLE_EQ(surveyed(one->mesh).mass.volume, 1000 - 216);
    // Its own void is a body then.
    const auto two =
        repair::absorb(together(together(outer, middle), flipped(inner)), Pick(), repair::Buried::Void, silent());
    EXPECT_TRUE(surveyed(two->mesh).solid);
    EXPECT_DOUBLE_EQ(surveyed(two->mesh).mass.volume, 1000 - 216 + 8);
}

TEST(Absorb, WhatCrossesOrIsNotPickedStays) {
    const Mesh outer = box(Point(0, 0, 0), Point(10, 10, 10));
    const Mesh within = box(Point(2, 2, 2), Point(4, 4, 4));
    const Mesh across = box(Point(3, 3, 3), Point(5, 5, 5));
    const Mesh m = together(together(outer, within), across);
    EXPECT_TRUE(repair::absorb(m, Pick(), repair::Buried::Material, silent())->shells.empty());
    const Mesh two = together(together(outer, within), box(Point(6, 6, 6), Point(7, 7, 7)));
    std::vector<mesh::TriangleId> picked;
    for (mesh::TriangleId t = 24; t < 36; ++t) picked.push_back(t);
    const auto r = repair::absorb(two, Pick(picked), repair::Buried::Material, silent());
    ASSERT_EQ(r->shells.size(), 1U);
    EXPECT_DOUBLE_EQ(r->shells[0].volume, 1);
}

TEST(Orient, OpenSheetKeepsWhatMostOfItHad) {
    Mesh m = uglyMeshes()[5].second;
    for (std::size_t t = 0; t < 4; ++t) std::swap(m.triangles[t][1], m.triangles[t][2]);
    const auto r = repair::orient(m, Pick(), silent());
    ASSERT_EQ(r->open.size(), 1U);
    EXPECT_TRUE(r->open[0].byMajority);
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
