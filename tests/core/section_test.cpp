// Sections that add up to volumes.
#include "measure/section.h"

#include <numbers>

#include "fit/fuse.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

measure::Section cut(const Mesh& m, int axis, double at) {
    auto section = measure::sectionOf(m, {Point::Unit(axis), at}, silent());
    EXPECT_TRUE(section);
    return std::move(section.value());
}

TEST(Section, OfABox) {
    const Mesh m = box(Point(0, 0, 0), Point(2, 3, 5));
    for (const auto& [axis, area, length] : {std::tuple{0, 15.0, 16.0}, {1, 10.0, 14.0}, {2, 6.0, 10.0}}) {
        const measure::Section s = cut(m, axis, 1);
        EXPECT_NEAR(s.area, area, 1e-12);
        EXPECT_NEAR(s.length, length, 1e-12);
        EXPECT_EQ(s.areaTwice, 0);
        EXPECT_EQ(s.openEnds, 0U);
        EXPECT_EQ(s.loops, 1U);
        for (mesh::TriangleId t = 0; t < s.cap.triangles.size(); ++t) {
            EXPECT_GT(mesh::areaVector(s.cap, t)[axis], 0);
            EXPECT_EQ(s.cap.corner(t, 0)[axis], 1);
        }
    }
}

TEST(Section, BesideThePartIsEmpty) {
    EXPECT_TRUE(cut(unitBox(), 0, 7).outline.empty());
    EXPECT_TRUE(cut(Mesh(), 0, 0).outline.empty());
    // The plane of a face: its corners count as beyond.
    EXPECT_NEAR(cut(unitBox(), 2, 1).area, 1, 1e-12);
    EXPECT_TRUE(cut(unitBox(), 2, 0).outline.empty());
}

TEST(Section, ShowsWhatIsEnclosedTwiceAndNoMoreAfterFusing) {
    const Mesh m = assembled({box(Point(0, 0, 0), Point(2, 2, 2)), box(Point(1, 1, 0), Point(3, 3, 2))});
    const measure::Section before = cut(m, 2, 1);
    EXPECT_NEAR(before.area, 7, 1e-12);
    EXPECT_NEAR(before.areaTwice, 1, 1e-12);
    EXPECT_NEAR(before.length, 16, 1e-12);
    const auto fused = fit::fuse(m, mesh::Pick(), {}, silent());
    const measure::Section after = cut(fused->mesh, 2, 1);
    EXPECT_NEAR(after.area, 7, 1e-12);
    EXPECT_EQ(after.areaTwice, 0);
    EXPECT_NEAR(after.length, 12, 1e-12);
}

TEST(Section, CountsLoops) {
    const Mesh hollow = together(box(Point(0, 0, 0), Point(4, 4, 4)), flipped(box(Point(1, 1, 1), Point(3, 3, 3))));
    const measure::Section s = cut(hollow, 1, 2);
    EXPECT_EQ(s.loops, 2U);
    EXPECT_NEAR(s.area, 12, 1e-12);
}

// Turned with its plane a part has the same section; lying in any direction, the cap lies in the plane and faces along.
TEST(Section, InAnyDirection) {
    const Mesh ball = sphere(10, 96, 48);
    for (const Point& way : {Point(1, 1, 1), Point(-0.2, 0.9, 0.1), Point(0, -1, 0), Point(3, 0, -1)}) {
        const measure::Plane plane{way.normalized(), 3};
        const auto s = measure::sectionOf(ball, plane, silent());
        ASSERT_TRUE(s);
        EXPECT_NEAR(s->area, std::numbers::pi * 91, 3);
        EXPECT_EQ(s->loops, 1U);
        EXPECT_EQ(s->openEnds, 0U);
        for (mesh::TriangleId t = 0; t < s->cap.triangles.size(); ++t) {
            EXPECT_GT(mesh::areaVector(s->cap, t).dot(plane.across), 0);
            for (unsigned k = 0; k < 3; ++k) EXPECT_NEAR(plane.across.dot(s->cap.corner(t, k)), 3, 1e-12);
        }
        for (const auto& segment : s->outline)
            for (const Point& p : segment) EXPECT_NEAR(plane.across.dot(p), 3, 1e-12);
        const auto passed = measure::trianglesAcross(ball, plane);
        EXPECT_EQ(passed.size(), s->outline.size());
    }
}

// A crack and a missing side: the cap is as if the outline went straight on, and leaks nowhere.
TEST(Section, OpenOutlinesAreLedStraightOn) {
    Mesh cracked = together(box(Point(0, 0, 0), Point(2, 2, 2)), Mesh());
    cracked = without(cracked, {0, 1});
    for (const int axis : {0, 1, 2}) {
        const measure::Section s = cut(cracked, axis, 1);
        if (s.openEnds == 0) continue;
        EXPECT_NEAR(s.area, 4, 1e-9);
        const mesh::Box around = mesh::boxOf(s.cap);
        EXPECT_TRUE(mesh::boxOf(cracked).contains(around));
    }
    // A sheet encloses nothing, whichever way it is led on.
    Mesh sheet;
    sheet.positions = {Point(0, 0, 0), Point(4, 0, 0), Point(0, 4, 2)};
    sheet.triangles = {{0, 1, 2}};
    EXPECT_NEAR(cut(sheet, 0, 1).area, 0, 1e-12);
}

TEST(Section, AnOpenSurfaceHasOpenEnds) {
    EXPECT_GT(cut(without(unitBox(), {0, 1}), 0, 0.5).openEnds, 0U);
}

// The volume is the sum of sections: a check against the mass properties, on surfaces that cross themselves.
TEST(Section, AddUpToTheVolumeOfTheFusedPart) {
    for (std::uint64_t seed : {0, 2, 3, 8, 28, 30}) {
        const Assembly a = AssemblyMaker(seed).make(seed);
        const auto fused = fit::fuse(a.mesh, mesh::Pick(), {}, silent());
        const mesh::Box box = mesh::boxOf(a.mesh);
        constexpr int slices = 400;
        const double step = box.extent().x() / slices;
        double volume = 0;
        for (int i = 0; i < slices; ++i) volume += step * cut(a.mesh, 0, box.min.x() + (i + 0.5) * step).area;
        EXPECT_NEAR(volume / surveyed(fused->mesh).mass.volume, 1, 2e-3) << a.kind;
    }
}

}  // namespace
}  // namespace zither::tests
