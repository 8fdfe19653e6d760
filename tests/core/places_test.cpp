// What a repair changed, place by place; what is put back, and what is mended all the same.
#include "repair/places.h"

#include <algorithm>

#include "check/catalogue.h"
#include "enclose/volumes.h"
#include "io/surface_file.h"
#include "steps/automatic_repair.h"
#include "steps/call.h"
#include "tests/core/assemblies.h"
#include "tests/core/enclosed.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using enclose::Volumes;
using enclose::VolumesOptions;
using mesh::TriangleId;
using repair::Places;

// Triangles by their corners' coordinates, the least first, sorted: the same for the same surface however it is
// numbered.
std::vector<std::array<double, 9>> listed(const Mesh& m) {
    std::vector<std::array<double, 9>> all;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        std::array<std::array<double, 3>, 3> c;
        for (unsigned k = 0; k < 3; ++k)
            c[k] = {m.corner(t, k).x() + 0.0, m.corner(t, k).y() + 0.0, m.corner(t, k).z() + 0.0};
        std::rotate(c.begin(), std::min_element(c.begin(), c.end()), c.end());
        std::array<double, 9>& one = all.emplace_back();
        for (unsigned i = 0; i < 9; ++i) one[i] = c[i / 3][i % 3];
    }
    std::sort(all.begin(), all.end());
    return all;
}

// A vertex of the sphere pulled out, and another.
Mesh dented(const Mesh& m, std::initializer_list<mesh::VertexId> vertices) {
    Mesh d = m;
    for (const mesh::VertexId v : vertices) d.positions[v] *= 1.25;
    return d;
}

TEST(Places, ChangesThatDoNotTouchAreTwo) {
    const Mesh ball = sphere();
    const mesh::VertexId first = 60;
    const mesh::VertexId second = 200;
    const Mesh both = dented(ball, {first, second});
    const Places places(ball, both);
    ASSERT_EQ(places.list().size(), 2U);
    for (const repair::Place& p : places.list()) {
        EXPECT_EQ(p.went, 6U);
        EXPECT_EQ(p.came, 6U);
    }
    // Put back one by one, all, none.
    EXPECT_EQ(listed(places.putBack({0, 0}).mesh), listed(both));
    EXPECT_EQ(listed(places.putBack({1, 1}).mesh), listed(ball));
    EXPECT_EQ(listed(places.putBack({1, 0}).mesh), listed(dented(ball, {second})));
    const Places::Back back = places.putBack({0, 1});
    EXPECT_EQ(listed(back.mesh), listed(dented(ball, {first})));
    EXPECT_EQ(back.fromBefore.size(), 6U);
    EXPECT_EQ(back.fromAfter.size(), ball.triangles.size() - 6);
}

TEST(Places, RegionsOfAnotherFileStayApart) {
    const Mesh ball = sphere();
    Mesh named = dented(ball, {60});
    named.regions.assign(named.triangles.size(), 2);
    named.regionNames = {"hub", "rim", "web"};
    Mesh other = ball;
    other.regions.assign(other.triangles.size(), 0);
    other.regionNames = {"cap"};
    for (const Mesh& before : {ball, other})
        for (const std::vector<std::uint8_t>& flags : {std::vector<std::uint8_t>{0}, std::vector<std::uint8_t>{1}}) {
            const Mesh back = Places(before, named).putBack(flags).mesh;
            EXPECT_EQ(mesh::validate(back), "");
            EXPECT_EQ(back.regionNames[back.regionOf(0)], "web");
        }
}

TEST(Places, NothingChangedIsNoPlace) {
    const Mesh ball = sphere();
    EXPECT_TRUE(Places(ball, ball).list().empty());
    // However vertices and triangles are numbered, and corners are turned.
    Mesh other = ball;
    std::reverse(other.triangles.begin(), other.triangles.end());
    for (mesh::Triangle& t : other.triangles) std::rotate(t.begin(), t.begin() + 1, t.end());
    EXPECT_TRUE(Places(ball, other).list().empty());
    // A triangle that faces the other way is a change, and one of two that lie twice as well.
    std::swap(other.triangles[0][1], other.triangles[0][2]);
    EXPECT_EQ(Places(ball, other).list().size(), 1U);
    Mesh twice = ball;
    twice.triangles.push_back(twice.triangles[5]);
    const Places fewer(twice, ball);
    ASSERT_EQ(fewer.list().size(), 1U);
    EXPECT_EQ(fewer.list()[0].went, 1U);
    EXPECT_EQ(fewer.list()[0].came, 0U);
}

TEST(Places, PuttingAllBackIsTheSurfaceBeforeWhateverChanged) {
    for (std::uint64_t seed = 0; seed < (longMode() ? 500U : 40U); ++seed) {
        SCOPED_TRACE(seed);
        const Mesh before = gridSoup(seed, 20 + seed % 30, 4);
        Mesh after = gridSoup(seed, 20 + seed % 30, 4);
        rig::Random random(seed + 1000);
        for (std::size_t i = 0; i < 1 + random.below(8); ++i) {
            const auto t = static_cast<TriangleId>(random.below(after.triangles.size()));
            if (random.below(2) == 0)
                after.triangles.erase(after.triangles.begin() + t);
            else
                std::swap(after.triangles[t][0], after.triangles[t][1]);
        }
        const Places places(before, after);
        const std::size_t count = places.list().size();
        EXPECT_EQ(listed(places.putBack(std::vector<std::uint8_t>(count, 1)).mesh), listed(before));
        EXPECT_EQ(listed(places.putBack(std::vector<std::uint8_t>(count, 0)).mesh), listed(after));
        // Numbers of triangles come with what stays and what returns.
        std::vector<std::uint8_t> some(count);
        for (std::uint8_t& flag : some) flag = random.below(2) == 0;
        const Places::Back back = places.putBack(some);
        ASSERT_EQ(back.fromAfter.size() + back.fromBefore.size(), back.mesh.triangles.size());
        for (std::size_t i = 0; i < back.mesh.triangles.size(); ++i) {
            const bool stays = i < back.fromAfter.size();
            const Mesh& from = stays ? after : before;
            const TriangleId t = stays ? back.fromAfter[i] : back.fromBefore[i - back.fromAfter.size()];
            for (unsigned k = 0; k < 3; ++k)
                EXPECT_EQ(back.mesh.corner(static_cast<TriangleId>(i), k), from.corner(t, k));
        }
    }
}

TEST(Places, OnlyTheOneThatIsWorseIsPutBack) {
    // A hole is closed, and another one torn.
    const Mesh ball = sphere();
    const Mesh before = without(ball, {50});
    const Mesh after = without(ball, {300, 301});
    const Places places(before, after);
    ASSERT_EQ(places.list().size(), 2U);
    const check::Surveyed s(before);
    const auto worse = repair::placesToPutBack(s, after, places, {}, silent());
    ASSERT_TRUE(worse);
    EXPECT_FALSE(worse->hopeless);
    ASSERT_EQ(worse->left.size(), 1U);
    EXPECT_EQ(worse->left[0].why, "open edges: 4 instead of 0");
    EXPECT_EQ(listed(places.putBack(worse->flags).mesh), listed(ball));
    // What is nowhere worse stays.
    EXPECT_TRUE(repair::placesToPutBack(s, ball, Places(before, ball), {}, silent())->flags.empty());
    for (int tick = 1; tick < 3; ++tick) {
        CancelAtTick progress(tick);
        const check::Surveyed fresh(before);
        EXPECT_FALSE(repair::placesToPutBack(fresh, after, places, {}, progress)) << tick;
    }
}

TEST(Places, WhatLosesTooMuchIsPutBack) {
    // A box, a smaller one beside it, and one that nobody sees.
    const Mesh big = boxAt(0, 0, 0, 4);
    const Mesh both = together(big, boxAt(10, 0, 0, 2));
    const Mesh before = together(both, boxAt(1, 1, 1));
    const check::Surveyed s(before);
    const auto losing = [&](const Mesh& after) {
        auto flags = repair::placesThatLose(s, after, Places(before, after), {}, silent());
        EXPECT_TRUE(flags);
        return flags.value();
    };
    EXPECT_TRUE(losing(before).empty());
    EXPECT_TRUE(losing(both).empty());
    const std::vector<std::uint8_t> flags = losing(big);
    ASSERT_EQ(flags.size(), 2U);
    EXPECT_EQ(std::count(flags.begin(), flags.end(), 1), 1);
    const Places places(before, big);
    EXPECT_EQ(listed(places.putBack(flags).mesh), listed(both));
    const auto worse = repair::placesToPutBack(s, big, places, {.losing = flags}, silent());
    ASSERT_TRUE(worse);
    EXPECT_EQ(worse->flags, flags);
    ASSERT_EQ(worse->left.size(), 1U);
    EXPECT_EQ(worse->left[0].why, "of what can be seen too much would be lost");
    // What may go on the user's word is not put back.
    const auto asked = repair::placesThatLose(s, big, places, measure::Told{.mayGo = boxAt(10, 0, 0, 2)}, silent());
    ASSERT_TRUE(asked);
    EXPECT_TRUE(asked->empty());
    for (int tick = 1; tick < 3; ++tick) {
        CancelAtTick progress(tick);
        EXPECT_FALSE(repair::placesThatLose(s, big, places, {}, progress)) << tick;
    }
}

TEST(Places, OnlyTheClassesThatAreAskedAboutCount) {
    const Mesh ball = sphere();
    const Mesh after = without(ball, {300, 301});
    const check::Surveyed s(ball);
    const Places places(ball, after);
    EXPECT_FALSE(repair::placesToPutBack(s, after, places, {}, silent())->flags.empty());
    EXPECT_TRUE(
        repair::placesToPutBack(s, after, places, {.classes = {check::nonmanifoldEdges}}, silent())->flags.empty());
}

TEST(Places, TheStepPutsOneBackAsItWasInAFile) {
    const TemporaryFolder folder;
    const Mesh ball = sphere();
    const auto file = folder / "ball.stl";
    ASSERT_TRUE(io::writeSurface(ball, file, {io::stlBinary}, silent()));
    const Mesh before = io::readSurface(file, silent())->mesh;
    const mesh::VertexId first = 60;
    const mesh::VertexId second = 200;
    const Mesh both = dented(before, {first, second});
    const auto run = [&](const Mesh& m, const Point& at) {
        const auto call = steps::parseStepCall("put-back from=" + file.string() + " place=" + steps::textOfPlace(at));
        auto done = steps::runStep(*call, shared(m), mesh::Pick(), silent());
        EXPECT_TRUE(done);
        return std::move(done.value());
    };
    const steps::StepDone one = run(both, before.positions[first]);
    EXPECT_EQ(listed(one.part->mesh()), listed(dented(before, {second})));
    EXPECT_EQ(one.record.number("triangles_put_back").value(), 6);
    EXPECT_EQ(listed(run(one.part->mesh(), Point(0, 0, 0)).part->mesh()), listed(before));
    EXPECT_FALSE(run(before, Point(0, 0, 0)).changed);
}

// ---- the step that tells full from empty

// Two boxes through each other; a sheet so large that it may not go, partly skin: a lid that reaches far beyond the
// walls of the box that it closes.
Mesh lidAndCrossing() {
    Mesh cup = without(box(Point(20, 0, 0), Point(24, 4, 4)), {});
    std::vector<std::uint8_t> keep(cup.triangles.size(), 1);
    for (TriangleId t = 0; t < cup.triangles.size(); ++t)
        if (mesh::centroid(cup, t).z() > 3.9) keep[t] = 0;
    cup = mesh::keepTriangles(cup, keep);
    Mesh lid;
    lid.positions = {Point(17, -3, 3), Point(30, -3, 3), Point(17, 10, 3)};
    lid.triangles = {{0, 1, 2}};
    return assembled({box(Point(0, 0, 0), Point(2, 2, 2)), box(Point(1, 1, 1), Point(3, 3, 3)), cup, lid});
}

bool noWorse(const check::Counts& before, const check::Counts& after) {
    return after.boundaryEdges <= before.boundaryEdges && after.nonmanifoldEdges <= before.nonmanifoldEdges &&
           after.nonmanifoldVertices <= before.nonmanifoldVertices &&
           after.misorientedEdges <= before.misorientedEdges && after.inwardShells <= before.inwardShells &&
           after.selfIntersectingTriangles <= before.selfIntersectingTriangles &&
           after.degenerateTriangles <= before.degenerateTriangles &&
           after.duplicateTriangles <= before.duplicateTriangles;
}

TEST(Places, WhatWouldBeWorseIsAsItCameAndTheRestIsMended) {
    const Mesh m = lidAndCrossing();
    const check::Counts before = surveyed(m).counts;
    const auto repaired = steps::repairAutomatically(shared(m), {}, silent());
    ASSERT_TRUE(repaired);
    ASSERT_FALSE(repaired->steps.empty());
    const Mesh& result = repaired->steps.back().part->mesh();
    const check::Survey after = surveyed(result);
    EXPECT_TRUE(noWorse(before, after.counts));
    EXPECT_LT(after.counts.selfIntersectingTriangles, before.selfIntersectingTriangles);
    // The boxes are one.
    std::vector<std::uint8_t> boxes(result.triangles.size(), 0);
    for (TriangleId t = 0; t < boxes.size(); ++t) boxes[t] = mesh::centroid(result, t).x() < 10;
    EXPECT_NEAR(surveyed(mesh::keepTriangles(result, boxes)).mass.volume, 15, 1e-3);
}

// Sheets that stay are as they came, with what they cross: nothing is cut by them.
TEST(Places, ASheetThroughABodyLeavesBothAsTheyAre) {
    Mesh sheet;
    sheet.positions = {Point(-3, 1, 1), Point(5, 1.25, 1), Point(1, 1.125, 7), Point(1, 1.125, -5)};
    sheet.triangles = {{0, 1, 2}, {1, 0, 3}};
    const Mesh body = box(Point(0, 0, 0), Point(2, 2, 2));
    const Mesh m = assembled({body, sheet});
    const auto v = enclose::fullOrEmpty(check::Surveyed(m), {}, silent());
    ASSERT_TRUE(v);
    EXPECT_EQ(listed(v->mesh), listed(m));
    EXPECT_EQ(v->sheets.size(), 1U);
    EXPECT_NEAR(v->sheets[0].area, 0.5 * (8 * 6 + 8 * 6), 0.5);
    // Beside another body that crosses the first they become one all the same.
    const Mesh more = assembled({body, box(Point(1, 1, 1), Point(3, 3, 3)), sheet});
    const auto w = enclose::fullOrEmpty(check::Surveyed(more), {}, silent());
    ASSERT_TRUE(w);
    std::vector<std::uint8_t> rest(w->mesh.triangles.size(), 1);
    for (TriangleId t = 0; t < rest.size(); ++t) rest[t] = mesh::boxOf(w->mesh, t).extent().z() < 4;
    const check::Survey skin = surveyed(mesh::keepTriangles(w->mesh, rest));
    EXPECT_TRUE(skin.solid);
    EXPECT_NEAR(skin.mass.volume, 15, 1e-3);
}

TEST(Places, NoCountIsEverWorseWhereWorsePlacesArePutBack) {
    const auto judge = [&](const Mesh& m) {
        const check::Surveyed s(m);
        const auto v = enclose::fullOrEmpty(s, {.putBackWorse = true}, silent());
        ASSERT_TRUE(v);
        EXPECT_EQ(v->sourceOf.size(), v->mesh.triangles.size());
        EXPECT_EQ(mesh::validate(v->mesh), "");
        EXPECT_TRUE(noWorse(surveyed(m).counts, surveyed(v->mesh).counts));
    };
    for (const auto& [name, m] : uglyMeshes()) {
        if (name == "huge" || name == "tiny" || name == "far") continue;
        SCOPED_TRACE(name);
        judge(m);
    }
    for (std::uint64_t seed = 0; seed < (longMode() ? 500U : 30U); ++seed) {
        SCOPED_TRACE(seed);
        judge(gridSoup(seed, 4 + seed % 12, 4));
    }
}

}  // namespace
}  // namespace zither::tests
