// The brush: what it touches, what it leaves, and that nothing comes to meet anything.
#include "shape/brush.h"

#include <cmath>
#include <set>

#include "measure/mass.h"
#include "steps/call.h"
#include "steps/step.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;
using mesh::TriangleId;
using shape::BrushOptions;

// A ball with a wart: ripples of a tenth about its north.
Mesh rough(std::uint64_t seed) {
    rig::Random random(seed);
    Mesh m = sphere(10, 90, 60);
    for (Point& p : m.positions)
        if (p.z() > 5) p = mesh::rounded(mesh::Precision::Single, Point(p * random.between(0.995, 1.005)));
    return m;
}

// How far vertices near a place lie from the ball, at the root of the mean square.
double roughness(const Mesh& m, const Point& place, double within) {
    double sum = 0;
    std::size_t count = 0;
    for (const Point& p : m.positions) {
        if ((p - place).norm() > within) continue;
        sum += (p.norm() - 10) * (p.norm() - 10);
        ++count;
    }
    return std::sqrt(sum / static_cast<double>(count));
}

TEST(Brush, SmoothsWhatItIsDrawnOverAndNothingElse) {
    const Mesh m = rough(3);
    const Point middle(6, 0, 8);
    const auto done = steps::runStep(
        *steps::parseStepCall(
            "brush width=6 strength=80 path=6,0,8;6,0.2,8;6,0,8;6,-0.2,8;6,0,8;6,0,8;6,0.2,8;6,0,8;6,-0.2,8;6,0,8"),
        shared(m), Pick(), silent());
    ASSERT_TRUE(done);
    const Mesh& after = done->part->mesh();
    EXPECT_TRUE(surveyed(after).solid);
    EXPECT_LT(roughness(after, middle, 1.5), 0.6 * roughness(m, middle, 1.5));
    EXPECT_EQ(after.triangles, m.triangles);
    for (mesh::VertexId v = 0; v < m.positions.size(); ++v)
        if ((m.positions[v] - middle).norm() > 3.3) {
            EXPECT_EQ(after.positions[v], m.positions[v]);
        }
    EXPECT_GT(done->record.number("vertices_moved").value(), 20);
    EXPECT_EQ(done->record.number("vertices_taken_back").value(), 0);
}

TEST(Brush, PushesOutAndInByWhatIsAsked) {
    const Mesh m = sphere(10, 90, 60);
    for (const auto& [way, sign] : {std::pair("out", 1.0), std::pair("in", -1.0)}) {
        const auto done =
            steps::runStep(*steps::parseStepCall(std::string("brush width=4 strength=100 path=0,0,10 way=") + way),
                           shared(m), Pick(), silent());
        ASSERT_TRUE(done);
        const Mesh& after = done->part->mesh();
        EXPECT_TRUE(surveyed(after).solid);
        // A twentieth of the width where the brush is pressed.
        EXPECT_NEAR(done->record.number("farthest_moved").value(), 0.2, 0.01);
        EXPECT_GT(sign * (measure::massOf(after).volume - measure::massOf(m).volume), 0.2);
    }
}

TEST(Brush, NeverMakesTheSurfaceMeetItself) {
    // Two plates that all but touch: pushing one into the other must stop.
    const auto plate = [](double z) {
        Mesh m;
        constexpr int n = 24;
        for (int side = 0; side < 2; ++side)
            for (int i = 0; i <= n; ++i)
                for (int j = 0; j <= n; ++j) m.positions.emplace_back(i * 0.5, j * 0.5, z + side);
        const auto at = [](int side, int i, int j) {
            return mesh::VertexId(static_cast<std::uint32_t>(side * (n + 1) * (n + 1) + i * (n + 1) + j));
        };
        for (int i = 0; i < n; ++i)
            for (int j = 0; j < n; ++j)
                for (int side = 0; side < 2; ++side) {
                    mesh::Triangle a{at(side, i, j), at(side, i + 1, j), at(side, i + 1, j + 1)};
                    mesh::Triangle b{at(side, i, j), at(side, i + 1, j + 1), at(side, i, j + 1)};
                    if (side == 0) std::swap(a[1], a[2]), std::swap(b[1], b[2]);
                    m.triangles.push_back(a);
                    m.triangles.push_back(b);
                }
        for (int i = 0; i < n; ++i)
            for (const auto& [p, q] :
                 {std::pair(std::pair(i, 0), std::pair(i + 1, 0)), std::pair(std::pair(n, i), std::pair(n, i + 1)),
                  std::pair(std::pair(i + 1, n), std::pair(i, n)), std::pair(std::pair(0, i + 1), std::pair(0, i))}) {
                m.triangles.push_back({at(0, p.first, p.second), at(0, q.first, q.second), at(1, q.first, q.second)});
                m.triangles.push_back({at(0, p.first, p.second), at(1, q.first, q.second), at(1, p.first, p.second)});
            }
        return m;
    };
    const Mesh m = together(plate(0), plate(1.0625));
    ASSERT_TRUE(surveyed(m).solid);
    const check::SurveyedPtr part = shared(m);
    shape::Stroke stroke(*part, Pick(), {.way = BrushOptions::Out, .width = 4, .strength = 1});
    for (int i = 0; i < 4; ++i) stroke.dab(Point(6, 6, 1));
    EXPECT_FALSE(stroke.crossing().empty());
    EXPECT_GT(stroke.takeBackCrossings(), 0U);
    EXPECT_TRUE(stroke.crossing().empty());
    const auto done = stroke.done();
    EXPECT_TRUE(surveyed(done.mesh).solid);
    EXPECT_GT(done.moved, 10U);
    EXPECT_GT(measure::massOf(done.mesh).volume, measure::massOf(m).volume);
    const auto step = steps::runStep(*steps::parseStepCall("brush way=out width=4 strength=100 path=6,6,1;6,6,1;6,6,1"),
                                     part, Pick(), silent());
    ASSERT_TRUE(step);
    EXPECT_GT(step->record.number("vertices_taken_back").value(), 0);
    EXPECT_TRUE(surveyed(step->part->mesh()).solid);
}

// Against the slow way: all pairs of all triangles.
TEST(Brush, CrossingsAreThoseThatTheWholeSurfaceHas) {
    for (std::uint64_t seed = 0; seed < seedsOf(12, 200); ++seed) {
        rig::Random random(seed);
        const Mesh m = together(rough(seed), box(Point(-1, -1, 10.05), Point(1, 1, 11)));
        const check::SurveyedPtr part = shared(m);
        const check::Survey before = surveyed(m);
        shape::Stroke stroke(*part, Pick(),
                             {.way = random.below(2) == 0 ? BrushOptions::Out : BrushOptions::In,
                              .width = random.between(2, 6),
                              .strength = 1});
        for (int i = 0; i < 6; ++i)
            stroke.dab(Point(random.between(-1, 1), random.between(-1, 1), random.between(9.5, 11)));
        const check::Survey after = surveyed(stroke.done().mesh);
        std::set<TriangleId> expected;
        const std::set<check::TrianglePair> met(before.crossingPairs.begin(), before.crossingPairs.end());
        const auto touched = stroke.touched();
        const std::set<TriangleId> touchedOnes(touched.begin(), touched.end());
        for (const auto& pair : after.crossingPairs)
            if (!met.contains(pair))
                for (const TriangleId t : {pair.first, pair.second})
                    if (touchedOnes.contains(t)) expected.insert(t);
        const auto found = stroke.crossing();
        EXPECT_EQ(std::set<TriangleId>(found.begin(), found.end()), expected) << seed;
        EXPECT_EQ(after.counts.degenerateTriangles, before.counts.degenerateTriangles) << seed;
    }
}

TEST(Brush, BordersAndWhatIsNotPickedStay) {
    const Mesh open = without(sphere(10, 90, 60), {0, 1, 2, 3, 4});
    const check::SurveyedPtr part = shared(open);
    shape::Stroke stroke(*part, Pick(), {.way = BrushOptions::Smooth, .width = 8, .strength = 1});
    for (const Point& p : open.positions) stroke.dab(p);
    const Mesh after = stroke.done().mesh;
    for (mesh::EdgeId e = 0; e < part->edges().count(); ++e)
        if (part->edges().degree(e) == 1) {
            const auto v = mesh::fromVertex(open, part->edges().around(e)[0]);
            EXPECT_EQ(after.positions[v], open.positions[v]);
        }
    const Pick some(std::vector<TriangleId>{100, 101, 102});
    shape::Stroke picked(*part, some, {.way = BrushOptions::Out, .width = 8, .strength = 1});
    picked.dab(mesh::centroid(open, 101));
    EXPECT_EQ(picked.done().moved, 0U);  // no vertex is amid them
    EXPECT_FALSE(steps::runStep(*steps::parseStepCall("brush"), part, Pick(), silent()));
    // Beside an empty surface there is nothing to dab.
    const auto none = shared(Mesh());
    shape::Stroke nothing(*none, Pick(), {.width = 1});
    nothing.dab(Point(0, 0, 0));
    EXPECT_TRUE(nothing.touched().empty());
}

TEST(Brush, UglyPartsGetNoWorse) {
    for (const auto& [name, ugly] : uglyMeshes()) {
        const mesh::Box box = mesh::boxOf(ugly);
        if (ugly.triangles.size() > 5000 || !(box.diagonal() > 0) || !std::isfinite(box.diagonal())) continue;
        for (const char* way : {"smooth", "out"}) {
            const auto done = steps::runStep(*steps::parseStepCall(std::string("brush strength=100 way=") + way +
                                                                   " width=" + std::to_string(box.diagonal() / 2) +
                                                                   " path=" + steps::textOfPlace(box.centre())),
                                             shared(ugly), Pick(), silent());
            ASSERT_TRUE(done) << name;
            const check::Survey before = surveyed(ugly);
            const check::Survey after = surveyed(done->part->mesh());
            EXPECT_LE(after.counts.selfIntersectingPairs, before.counts.selfIntersectingPairs) << name;
            EXPECT_EQ(after.counts.degenerateTriangles, before.counts.degenerateTriangles) << name;
            EXPECT_TRUE(after.solid || !before.solid) << name;
        }
    }
}

}  // namespace
}  // namespace zither::tests
