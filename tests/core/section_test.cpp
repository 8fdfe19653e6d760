// Sections that add up to volumes.
#include "measure/section.h"
#include "arrange/fuse.h"
#include "tests/core/assemblies.h"

namespace zither::tests {
namespace {

measure::Section cut(const Mesh& m, int axis, double at) {
    const space::TriangleTree tree(m);
    auto section = measure::sectionOf(tree, axis, at, silent());
    EXPECT_TRUE(section);
    return std::move(*section);
}

TEST(Section, OfABox) {
    const Mesh m = box(Point(0, 0, 0), Point(2, 3, 5));
    for (const auto& [axis, area, length] : {std::tuple{0, 15.0, 16.0}, {1, 10.0, 14.0}, {2, 6.0, 10.0}}) {
        const measure::Section s = cut(m, axis, 1);
        EXPECT_NEAR(s.area, area, 1e-12);
        EXPECT_NEAR(s.length, length, 1e-12);
        EXPECT_EQ(s.areaTwice, 0);
        EXPECT_EQ(s.openEnds, 0U);
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
    const auto fused = arrange::fuse(m, mesh::Pick(), {}, silent());
    const measure::Section after = cut(fused->mesh, 2, 1);
    EXPECT_NEAR(after.area, 7, 1e-12);
    EXPECT_EQ(after.areaTwice, 0);
    EXPECT_NEAR(after.length, 12, 1e-12);
}

TEST(Section, AnOpenSurfaceHasOpenEnds) {
    EXPECT_GT(cut(without(unitBox(), {0, 1}), 0, 0.5).openEnds, 0U);
}

// The volume is the sum of sections: a check against the mass properties, on surfaces that cross themselves.
TEST(Section, AddUpToTheVolumeOfTheFusedPart) {
    for (std::uint64_t seed : {0, 2, 3, 8, 28, 30}) {
        const Assembly a = AssemblyMaker(seed).make(seed);
        const auto fused = arrange::fuse(a.mesh, mesh::Pick(), {}, silent());
        const mesh::Box box = mesh::boxOf(a.mesh);
        constexpr int slices = 400;
        const double step = box.extent().x() / slices;
        const space::TriangleTree tree(a.mesh);
        double volume = 0;
        for (int i = 0; i < slices; ++i)
            volume += step * measure::sectionOf(tree, 0, box.min.x() + (i + 0.5) * step, silent())->area;
        EXPECT_NEAR(volume / surveyed(fused->mesh).mass.volume, 1, 2e-3) << a.kind;
    }
}

}  // namespace
}  // namespace zither::tests
