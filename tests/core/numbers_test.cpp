// The numbers of a part, and a part brought onto another.
#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "io/surface_file.h"
#include "measure/align.h"
#include "measure/numbers.h"
#include "measure/upright.h"
#include "project/json.h"
#include "steps/call.h"
#include "steps/step.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;
using mesh::TriangleId;

measure::Numbers numbersOf(const Mesh& m, const Pick& pick = {}) {
    return measure::numbersOf(m, mesh::Edges(m), pick);
}

TEST(Numbers, OfABoxAreThoseOfTheBook) {
    const measure::Numbers n = numbersOf(box(Point(1, 2, 3), Point(3, 5, 7)));
    EXPECT_EQ(n.triangles, 12U);
    EXPECT_EQ(n.vertices, 8U);
    EXPECT_DOUBLE_EQ(n.area, 2 * (2 * 3 + 3 * 4 + 4 * 2));
    ASSERT_TRUE(n.volume);
    EXPECT_DOUBLE_EQ(*n.volume, 24);
    EXPECT_LT((*n.centreOfMass - Point(2, 3.5, 5)).norm(), 1e-12);
    EXPECT_LT((n.centreOfArea - Point(2, 3.5, 5)).norm(), 1e-12);
    EXPECT_EQ(n.edges.min, 2);
    EXPECT_EQ(n.edges.max, 5);
    EXPECT_EQ(n.borderLength, 0);
    // Flat across the diagonals, square over the edges.
    EXPECT_DOUBLE_EQ(n.quality.dihedral.worst, 90);
    EXPECT_EQ(n.quality.dihedral.count, 18U);
    const project::MassAsked mass{.density = 2.7, .unit = "mm"};
    EXPECT_NEAR(*mass.gramsOf(n), 24 * 2.7e-3, 1e-12);
    EXPECT_NEAR(*(project::MassAsked{.density = 2.7, .unit = "cm"}.gramsOf(n)), 24 * 2.7, 1e-9);
}

TEST(Numbers, OfAPickAreItsOwnAndOpenSurfacesHaveNoVolume) {
    const Mesh m = box(Point(0, 0, 0), Point(10, 10, 10));
    const measure::Numbers n = numbersOf(m, Pick({0, 1}));
    EXPECT_EQ(n.triangles, 2U);
    EXPECT_DOUBLE_EQ(n.area, 100);
    EXPECT_DOUBLE_EQ(n.borderLength, 40);
    EXPECT_FALSE(n.volume);
    EXPECT_FALSE(numbersOf(without(m, {3})).volume);
    EXPECT_FALSE(numbersOf(Mesh()).volume);
    EXPECT_EQ(numbersOf(Mesh()).triangles, 0U);
}

TEST(Numbers, QualityIsBestForEvenTrianglesAndWorstForNeedles) {
    Mesh even;
    even.positions = {Point(0, 0, 0), Point(1, 0, 0), Point(0.5, std::numbers::sqrt3 / 2, 0)};
    even.triangles = {{0, 1, 2}};
    const measure::TriangleQuality good = numbersOf(even).quality;
    EXPECT_NEAR(good.score.worst, 1, 1e-12);
    EXPECT_NEAR(good.aspect.worst, 1, 1e-12);
    EXPECT_NEAR(good.angle.worst, 60, 1e-9);
    EXPECT_NEAR(good.edge.worst, 1, 1e-12);
    even.positions[2].y() = 1e-5;
    const measure::TriangleQuality bad = numbersOf(even).quality;
    EXPECT_LT(bad.score.worst, 1e-4);
    EXPECT_GT(bad.aspect.worst, 1e4);
    // A hundred good ones and one bad: the mean hardly knows, the hundredth does not, the worst does.
    Mesh many;
    for (int i = 0; i < 200; ++i) mesh::append(many, unitBox());
    mesh::append(many, even);
    const measure::TriangleQuality mixed = numbersOf(many).quality;
    EXPECT_LT(mixed.angle.worst, 0.01);
    EXPECT_NEAR(mixed.angle.onePercent, 45, 1e-9);
    std::uint32_t counted = 0;
    for (const std::uint32_t c : mixed.angle.histogram) counted += c;
    EXPECT_EQ(counted, mixed.angle.count);
}

// ---- aligning

// Without any turn that brings it onto itself.
Mesh oddPart() {
    Mesh m = box(Point(0, 0, 0), Point(30, 20, 10));
    mesh::append(m, box(Point(0, 0, 10.5), Point(12, 7, 31)));
    mesh::append(m, box(Point(22, 12, 10.5), Point(29, 18, 17)));
    return m;
}

TEST(Align, FindsAPartHoweverItLies) {
    const Mesh to = oddPart();
    const space::TriangleTree tree(to);
    for (std::uint64_t seed = 0; seed < seedsOf(10, 200); ++seed) {
        rig::Random random(seed);
        const Eigen::Matrix3d turn =
            measure::turnAbout(Point(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1)).normalized(),
                               random.between(-180, 180));
        const mesh::Motion motion{turn, Point(random.between(-90, 90), random.between(-90, 90), 40)};
        const auto fit = measure::aligned(mesh::moved(to, motion), tree, {}, silent());
        ASSERT_TRUE(fit);
        EXPECT_LT(fit->after, 1e-4) << seed;
        EXPECT_GT(fit->before, 1);
        const mesh::Motion both = mesh::then(motion, fit->motion);
        for (const Point& p : to.positions) EXPECT_LT((both.of(p) - p).norm(), 1e-2) << seed;
        EXPECT_LT((fit->motion.linear * fit->motion.linear.transpose() - Eigen::Matrix3d::Identity()).norm(), 1e-12);
    }
}

TEST(Align, WhatIsNotThereInTheOtherIsNotMinded) {
    const Mesh to = oddPart();
    Mesh m = to;
    mesh::append(m, box(Point(60, 60, 60), Point(64, 64, 64)));  // a speck of a scan
    const mesh::Motion motion{measure::turnAbout(Point::UnitX(), 4), Point(1, 2, 1)};
    const auto fit = measure::aligned(mesh::moved(m, motion), space::TriangleTree(to),
                                      {.share = 0.9, .fromAnywhere = false}, silent());
    ASSERT_TRUE(fit);
    EXPECT_LT(fit->after, 1e-3);
    const auto minded = measure::aligned(mesh::moved(m, motion), space::TriangleTree(to),
                                         {.share = 1, .fromAnywhere = false}, silent());
    EXPECT_GT(minded->after, 0.1);
}

TEST(Align, ThreePointsOrAFileOrBoth) {
    const TemporaryFolder folder;
    const std::string file = (folder / "to.stl").string();
    ASSERT_TRUE(io::writeSurface(oddPart(), file, {io::stlBinary}, silent()));
    const mesh::Motion motion{measure::turnAbout(Point::UnitZ(), 90), Point(5, 6, 7)};
    const auto part = shared(mesh::moved(oddPart(), motion));
    const auto boxAfter = [&](const std::string& text) {
        const auto call = steps::parseStepCall(text);
        EXPECT_TRUE(call) << call.error().message;
        const auto done = steps::runStep(call.value(), part, Pick(), silent());
        EXPECT_TRUE(done) << done.error().message;
        return mesh::boxOf(done.value().part->mesh());
    };
    // (0,0,0) went to (5,6,7), (10,0,0) to (5,16,7), (0,10,0) to (-5,6,7).
    const std::string points = "from1=5,6,7 to1=0,0,0 from2=5,16,7 to2=10,0,0 from3=-5,6,7 to3=0,10,0";
    for (const std::string& text :
         {"align " + points, "align with=" + file, "align way=nearby with=" + file + " " + points}) {
        SCOPED_TRACE(text);
        EXPECT_LT((boxAfter(text).min - Point(0, 0, 0)).norm(), 1e-3);
        EXPECT_LT((boxAfter(text).max - Point(30, 20, 31)).norm(), 1e-3);
    }
    EXPECT_LT((boxAfter("align way=box with=" + file).centre() - Point(15, 10, 15.5)).norm(), 1e-3);
    for (const char* bad : {"align", "align from1=1,2,3", "align from1=0,0,0 from2=1,0,0 from3=2,0,0",
                            "align with=nowhere.stl", "align from1=0,0,0 from2=1,0,0 from3=0,1,0"}) {
        const auto call = steps::parseStepCall(bad);
        ASSERT_TRUE(call);
        const auto refused = steps::runStep(*call, part, Pick(), silent());
        ASSERT_FALSE(refused) << bad;
        EXPECT_FALSE(refused.error().message.empty());
    }
}

}  // namespace
}  // namespace zither::tests
