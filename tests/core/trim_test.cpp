// A part cut off at a plane: exact volumes, flat caps, and what stays as it is.
#include <Eigen/Geometry>
#include <cmath>

#include "fit/fuse.h"
#include "measure/mass.h"
#include "shape/trim.h"
#include "steps/call.h"
#include "steps/step.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

shape::Trimmed trimmed(const Mesh& m, const shape::TrimOptions& options) {
    auto result = shape::trim(check::Surveyed(m), mesh::Pick(), options, silent());
    EXPECT_TRUE(result);
    return std::move(result.value());
}

shape::TrimOptions above(double z, bool cap = true) {
    shape::TrimOptions options;
    options.through = Point(0, 0, z);
    options.cap = cap;
    return options;
}

TEST(Trim, ABoxIsCutFlatAndClosed) {
    const shape::Trimmed cut = trimmed(box(Point(0, 0, 0), Point(2, 3, 4)), above(1));
    const check::Survey survey = surveyed(cut.mesh);
    EXPECT_TRUE(survey.solid);
    EXPECT_NEAR(survey.mass.volume, 18, 1e-12);
    EXPECT_NEAR(cut.capArea, 6, 1e-12);
    EXPECT_EQ(cut.farthestFromPlane, 0);
    EXPECT_EQ(survey.mass.size.min.z(), 1);
    shape::TrimOptions below = above(1);
    below.towards = -below.towards;
    EXPECT_NEAR(surveyed(trimmed(box(Point(0, 0, 0), Point(2, 3, 4)), below).mesh).mass.volume, 6, 1e-12);
}

TEST(Trim, LeftOpenItEndsInThePlane) {
    const shape::Trimmed cut = trimmed(sphere(), above(3, false));
    const check::Survey survey = surveyed(cut.mesh);
    EXPECT_EQ(survey.counts.holes, 1);
    EXPECT_GT(survey.counts.boundaryEdges, 0);
    EXPECT_EQ(survey.counts.selfIntersectingPairs, 0);
    EXPECT_EQ(survey.mass.size.min.z(), 3);
    EXPECT_GT(cut.capArea, 0);
}

// Where a plane passes through corners, along edges and in faces, nothing is left over and nothing missing.
TEST(Trim, ThroughCornersEdgesAndFaces) {
    const Mesh ball = sphere(10, 16, 8);
    for (const Point& p : ball.positions) {
        const shape::Trimmed cut = trimmed(ball, above(p.z()));
        if (cut.mesh.triangles.empty()) continue;
        EXPECT_TRUE(surveyed(cut.mesh).solid) << p.z();
        EXPECT_EQ(cut.farthestFromPlane, 0);
    }
    // In the plane of its lower and of its upper face.
    EXPECT_EQ(Bits(trimmed(unitBox(), above(0)).mesh).triangles.size(), 12U);
    EXPECT_TRUE(trimmed(unitBox(), above(1)).mesh.triangles.empty());
    EXPECT_TRUE(trimmed(unitBox(), above(5)).mesh.triangles.empty());
    EXPECT_EQ(trimmed(unitBox(), above(-5)).mesh.triangles.size(), 12U);
}

// The two sides make up the whole, at any angle, and both are solid as written.
TEST(Trim, BothSidesMakeUpTheWholeAtAnyAngle) {
    AssemblyMaker maker(3);
    rig::Random random(17);
    for (std::size_t round = 0; round < 28; ++round) {
        const Assembly assembly = maker.make(round);
        if (!assembly.closed) continue;
        const auto fused =
            fit::fuse(assembly.mesh, mesh::Pick(), {.precision = mesh::precisionOf(assembly.mesh)}, silent());
        ASSERT_TRUE(fused);
        const check::Survey whole = surveyed(fused->mesh);
        if (!whole.solid) continue;
        SCOPED_TRACE(assembly.kind + " " + std::to_string(round));
        shape::TrimOptions options;
        options.precision = mesh::precisionOf(fused->mesh);
        options.through = whole.mass.size.centre();
        options.towards = random.direction();
        const shape::Trimmed one = trimmed(fused->mesh, options);
        options.towards = -options.towards;
        const shape::Trimmed other = trimmed(fused->mesh, options);
        double volume = 0;
        for (const Mesh* side : {&one.mesh, &other.mesh}) {
            if (side->triangles.empty()) continue;
            const check::Survey survey = surveyed(*side);
            EXPECT_TRUE(survey.solid);
            volume += survey.mass.volume;
        }
        EXPECT_NEAR(volume, whole.mass.volume, 1e-4 * whole.mass.volume);
        EXPECT_LE(one.farthestFromPlane, 1e-6 * (whole.mass.size.diagonal() + options.through.norm()));
    }
}

TEST(Trim, WhatThePlaneDoesNotMeetKeepsItsBits) {
    const Mesh ball = sphere();
    const shape::Trimmed cut = trimmed(ball, above(2));
    const measure::Kept kept = measure::keptOf(ball, cut.mesh);
    for (mesh::TriangleId t = 0; t < ball.triangles.size(); ++t) {
        bool over = true;
        for (unsigned k = 0; k < 3; ++k) over &= ball.corner(t, k).z() > 2;
        EXPECT_TRUE(kept.of[t] || !over) << t;
    }
}

TEST(Trim, OpenAndCrossingPartsAreCutAsWell) {
    // Half a ball, its opening upward: cut in the middle it is a belt.
    const Mesh bowl = trimmed(sphere(),
                              [] {
                                  shape::TrimOptions o = above(0.5, false);
                                  o.towards = -o.towards;
                                  return o;
                              }())
                          .mesh;
    const shape::Trimmed belt = trimmed(bowl, above(-4, false));
    EXPECT_GT(belt.mesh.triangles.size(), 0U);
    EXPECT_GE(surveyed(belt.mesh).mass.size.min.z(), -4);
    // Boxes through each other come out as one.
    const shape::Trimmed one =
        trimmed(together(box(Point(0, 0, 0), Point(4, 4, 4)), box(Point(2, 1, 1), Point(9, 2, 2))), above(1.5));
    EXPECT_TRUE(surveyed(one.mesh).solid);
}

TEST(Trim, CancelledAtAnyTick) {
    const check::Surveyed ball(sphere());
    for (int tick = 1;; ++tick) {
        CancelAtTick cancel(tick);
        const auto cut = shape::trim(ball, mesh::Pick(), above(1), cancel);
        if (cut) break;
        EXPECT_TRUE(cut.error().cancelled());
        ASSERT_LT(tick, 10'000);
    }
}

TEST(TrimStep, SaysWhatItDidAndRefusesNoDirection) {
    const auto part = shared(box(Point(0, 0, 0), Point(2, 2, 10)));
    const auto run = [&](const char* text) {
        const auto call = steps::parseStepCall(text);
        EXPECT_TRUE(call) << text;
        return steps::runStep(call.value(), part, mesh::Pick(), silent());
    };
    const auto proposed = run("trim");
    ASSERT_TRUE(proposed);
    EXPECT_NEAR(surveyed(proposed->part->mesh()).mass.volume, 4 * 9.8, 1e-5);
    EXPECT_NEAR(proposed->record.number("cap_area").value(), 4, 1e-6);
    EXPECT_NE(proposed->record.sentences.back().find("exactly"), std::string::npos);
    const auto slanted = run("trim normal=1,0,1 through=0,0,5 keep=below");
    ASSERT_TRUE(slanted);
    EXPECT_NEAR(surveyed(slanted->part->mesh()).mass.volume, 4 * 4, 1e-4);
    const auto beside = run("trim at=-3");
    ASSERT_TRUE(beside);
    EXPECT_FALSE(beside->changed);
    const auto beyond = run("trim at=30");
    ASSERT_TRUE(beyond);
    EXPECT_FALSE(beyond->changed);
    EXPECT_NE(beyond->record.sentences.front().find("Nothing lies"), std::string::npos);
    EXPECT_FALSE(run("trim normal=0,0,0"));
}

}  // namespace
}  // namespace zither::tests
