// Finer triangles: on the faces that there are, or on the curved surface that they stand for.
#include "shape/refine.h"

#include <cmath>
#include <numbers>

#include "measure/mass.h"
#include "shape/curved_patches.h"
#include "steps/call.h"
#include "steps/step.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;

Mesh refined(const Mesh& m, const std::string& values, const Pick& pick = {}) {
    const auto done = steps::runStep(*steps::parseStepCall("refine " + values), shared(m), pick, silent());
    EXPECT_TRUE(done) << values;
    return done ? done.value().part->mesh() : Mesh();
}

TEST(Refine, SplitsWhatIsLongerAndChangesNoShape) {
    const Mesh m = box(Point(0, 0, 0), Point(10, 6, 4));
    const auto done = steps::runStep(*steps::parseStepCall("refine length=0.7"), shared(m), Pick(), silent());
    ASSERT_TRUE(done);
    const check::Survey survey = surveyed(done->part->mesh());
    EXPECT_TRUE(survey.solid);
    EXPECT_LE(survey.edgeLength.max, 0.7);
    EXPECT_GT(survey.edgeLength.min, 0.1);
    EXPECT_LT(farthest(m, done->part->mesh()), 2e-5);
    EXPECT_NEAR(survey.mass.volume, 240, 1e-4);
    // Once more: nothing is longer.
    const auto again = steps::runStep(*steps::parseStepCall("refine length=0.7"), done->part, Pick(), silent());
    ASSERT_TRUE(again);
    EXPECT_EQ(again->part, done->part);
    EXPECT_FALSE(steps::runStep(*steps::parseStepCall("refine length=1e-9"), shared(m), Pick(), silent()));
}

TEST(Refine, OfAPickOthersKeepTheirBitsAndBrokenPartsGetNoWorse) {
    const Mesh m = sphere(10, 24, 12);
    std::vector<mesh::TriangleId> upper;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        if (mesh::centroid(m, t).z() > 0) upper.push_back(t);
    const auto done = steps::runStep(*steps::parseStepCall("refine length=0.5"), shared(m), Pick(upper), silent());
    ASSERT_TRUE(done);
    EXPECT_TRUE(surveyed(done->part->mesh()).solid);
    EXPECT_GE(measure::keptOf(m, done->part->mesh()).share, 0.5);
    EXPECT_GT(done->part->mesh().triangles.size(), 2000U);
    for (const auto& [name, ugly] : uglyMeshes()) {
        const double size = mesh::boxOf(ugly).diagonal();
        if (ugly.triangles.size() > 5000 || !(size > 0) || !std::isfinite(size)) continue;
        const auto refined = steps::runStep(*steps::parseStepCall("refine length=" + std::to_string(size / 9)),
                                            shared(ugly), Pick(), silent());
        if (!refined) continue;
        const check::Survey before = surveyed(ugly);
        const check::Survey after = surveyed(refined->part->mesh());
        EXPECT_EQ(after.counts.nonmanifoldVertices, before.counts.nonmanifoldVertices) << name;
        EXPECT_EQ(after.counts.holes, before.counts.holes) << name;
        EXPECT_EQ(after.counts.shells, before.counts.shells) << name;
    }
}

// Farthest that any vertex of a mesh lies from a ball about the origin.
double offBall(const Mesh& m, double radius) {
    double most = 0;
    for (const Point& p : m.positions) most = std::max(most, std::abs(p.norm() - radius));
    return most;
}

TEST(Refine, ABallBecomesRounder) {
    for (const std::size_t around : {12U, 24U, 48U}) {
        const Mesh m = sphere(10, around, around / 2);
        const double flat = 10 * (1 - std::cos(std::numbers::pi / static_cast<double>(around)));
        const Mesh curved = refined(m, "length=0 deviation=0.005 shape=curved");
        EXPECT_GT(curved.triangles.size(), m.triangles.size());
        EXPECT_LT(offBall(curved, 10), flat / 5) << around;
        EXPECT_TRUE(surveyed(curved).solid);
        const double ball = 4.0 / 3 * std::numbers::pi * 1000;
        EXPECT_LT(std::abs(measure::massOf(curved).volume - ball), 0.15 * std::abs(measure::massOf(m).volume - ball));
    }
}

// A drum: its rim is a crease and becomes rounder, its ends stay flat, and straight edges stay straight.
Mesh drum(double radius, double height, std::size_t around) {
    std::vector<std::array<Point, 3>> all;
    const auto rim = [&](std::size_t i, double z) {
        const double angle = 2 * std::numbers::pi * static_cast<double>(i % around) / static_cast<double>(around);
        return Point(radius * std::cos(angle), radius * std::sin(angle), z);
    };
    for (std::size_t i = 0; i < around; ++i) {
        all.push_back({Point(0, 0, 0), rim(i + 1, 0), rim(i, 0)});
        all.push_back({Point(0, 0, height), rim(i, height), rim(i + 1, height)});
        all.push_back({rim(i, 0), rim(i + 1, 0), rim(i + 1, height)});
        all.push_back({rim(i, 0), rim(i + 1, height), rim(i, height)});
    }
    Mesh m = loose(all);
    for (Point& p : m.positions) p = mesh::rounded(mesh::Precision::Single, p);
    mesh::joinEqualVertices(m);
    return m;
}

TEST(Refine, CreasesFollowTheirLineAndFlatFacesStayFlat) {
    const Mesh m = drum(10, 15, 24);
    const Mesh curved = refined(m, "length=2 shape=curved");
    EXPECT_TRUE(surveyed(curved).solid);
    const double flat = 10 * (1 - std::cos(std::numbers::pi / 24));
    for (const Point& p : curved.positions) {
        EXPECT_GE(p.z(), 0);
        EXPECT_LE(p.z(), 15);
        // On the wall and its rims a vertex lies on the cylinder; inside of the rims on an end.
        const double off = std::abs(p.head<2>().norm() - 10);
        EXPECT_TRUE(off < flat / 10 || p.z() == 0 || p.z() == 15) << p.transpose();
    }
    EXPECT_NEAR(surveyed(curved).mass.volume, std::numbers::pi * 100 * 15, 0.002 * std::numbers::pi * 1500);
}

TEST(Refine, WhatHasOnlyFlatFacesKeepsItsShape) {
    const Mesh m = box(Point(0, 0, 0), Point(10, 6, 4));
    const Mesh curved = refined(m, "length=1 shape=curved");
    EXPECT_NEAR(measure::massOf(curved).volume, 240, 1e-4);
    EXPECT_LT(farthest(m, curved), 1e-5);
    // By distance alone there is nothing to split.
    EXPECT_EQ(refined(m, "length=0 deviation=0.001 shape=curved").triangles.size(), 12U);
}

TEST(Refine, NoEdgeIsSplitBelowTheSmallest) {
    const Mesh curved = refined(sphere(10, 12, 6), "length=0 deviation=1e-9 smallest=0.8 shape=curved");
    EXPECT_GT(curved.triangles.size(), 1000U);
    EXPECT_GT(surveyed(curved).edgeLength.min, 0.3);
    // Flat as well: the distance says where, and the shape stays.
    const Mesh m = sphere(10, 12, 6);
    const Mesh flat = refined(m, "length=0 deviation=0.05");
    EXPECT_GT(flat.triangles.size(), m.triangles.size());
    EXPECT_LT(farthest(m, flat), 1e-5);
}

TEST(Refine, WhereTheCurveWouldMeetSomethingItStaysFlat) {
    // A coarse ball with a plate right above the middle of one of its faces.
    Mesh m = sphere(10, 12, 6);
    mesh::TriangleId face = 0;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        if (mesh::areaVector(m, t).norm() > mesh::areaVector(m, face).norm()) face = t;
    const Point middle = mesh::centroid(m, face);
    const Point out = mesh::areaVector(m, face).normalized();
    m = together(m, box(middle + 0.1 * out + Point(0, 0, -0.05), middle + 2 * out + Point(0.3, 0.3, 0.05)));
    ASSERT_TRUE(surveyed(m).solid);
    const auto done =
        steps::runStep(*steps::parseStepCall("refine length=0.7 shape=curved"), shared(m), Pick(), silent());
    ASSERT_TRUE(done);
    EXPECT_TRUE(surveyed(done->part->mesh()).solid);
    EXPECT_GT(done->record.number("triangles_kept_flat").value(), 0);
    EXPECT_LT(done->record.number("triangles_kept_flat").value(), 20);
}

// What it wants is told beforehand, and needles do not count as squares.
TEST(Refine, LongNeedlesAreSplitAndWhatNoMemoryHoldsIsRefused) {
    std::vector<std::array<Point, 3>> needles;
    for (int i = 0; i < 20; ++i)
        needles.push_back({Point(0, 0.001 * i, 0), Point(1000, 0.001 * i, 0), Point(1000, 0.001 * (i + 1), 0)});
    Mesh m = loose(needles);
    mesh::joinEqualVertices(m);
    const Mesh fine = refined(m, "length=4");
    EXPECT_GT(fine.triangles.size(), 5000U);
    const auto error =
        steps::runStep(*steps::parseStepCall("refine length=0 deviation=1e-15"), shared(sphere()), Pick(), silent());
    ASSERT_FALSE(error);
    EXPECT_NE(error.error().message.find("memory"), std::string::npos);
}

TEST(Refine, CurvedOfAPickOthersKeepTheirBits) {
    const Mesh m = sphere(10, 24, 12);
    std::vector<mesh::TriangleId> upper;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        if (mesh::centroid(m, t).z() > 0) upper.push_back(t);
    const Mesh curved = refined(m, "length=0.5 shape=curved", Pick(upper));
    EXPECT_TRUE(surveyed(curved).solid);
    EXPECT_GE(measure::keptOf(m, curved).share, 0.5);
    // Off the seam it is rounder.
    double most = 0;
    for (const Point& p : curved.positions)
        if (p.z() > 4) most = std::max(most, std::abs(p.norm() - 10));
    EXPECT_LT(most, 0.03);
}

TEST(Refine, CurvedUglyPartsGetNoWorseWithoutAWord) {
    for (const auto& [name, ugly] : uglyMeshes()) {
        const double size = mesh::boxOf(ugly).diagonal();
        if (ugly.triangles.size() > 5000 || !(size > 0) || !std::isfinite(size)) continue;
        const auto done =
            steps::runStep(*steps::parseStepCall("refine shape=curved length=" + std::to_string(size / 9)),
                           shared(ugly), Pick(), silent());
        if (!done) continue;
        const check::Survey before = surveyed(ugly);
        const check::Survey after = surveyed(done->part->mesh());
        EXPECT_EQ(after.counts.holes, before.counts.holes) << name;
        EXPECT_EQ(after.counts.shells, before.counts.shells) << name;
        EXPECT_TRUE(after.solid || !before.solid) << name;
        if (after.counts.selfIntersectingPairs > before.counts.selfIntersectingPairs) {
            EXPECT_GT(done->record.sentences.size(), 1U) << name;
        }
    }
}

TEST(CurvedPatches, MeetAlongTheirSidesAndPassThroughTheirCorners) {
    rig::Random random(5);
    Mesh m = sphere(10, 16, 8);
    for (Point& p : m.positions) p *= random.between(0.9, 1.1);
    const mesh::Edges edges(m);
    const shape::CurvedPatches patches(m, edges, 35, std::vector<std::uint8_t>(m.triangles.size(), 1));
    for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
        const auto around = edges.around(e);
        ASSERT_EQ(around.size(), 2U);
        for (const double share : {0.0, 0.2, 0.5, 1.0}) {
            Point on[2];
            for (int side = 0; side < 2; ++side) {
                const mesh::HalfEdge h = around[static_cast<std::size_t>(side)];
                Point shares = Point::Zero();
                shares[h % 3] = side == 0 ? 1 - share : share;
                shares[mesh::nextInTriangle(h) % 3] = side == 0 ? share : 1 - share;
                on[side] = patches.at(mesh::triangleOf(h), shares);
            }
            EXPECT_LT((on[0] - on[1]).norm(), 1e-12);
        }
    }
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        for (unsigned k = 0; k < 3; ++k) EXPECT_LT((patches.over(t, m.corner(t, k)) - m.corner(t, k)).norm(), 1e-12);
}

}  // namespace
}  // namespace zither::tests
