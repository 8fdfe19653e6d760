// The track, delivery and provenance.
#include "measure/mass.h"
#include "project/delivery.h"
#include "project/provenance.h"
#include "project/track.h"
#include "steps/call.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using project::Stop;
using project::Track;

Stop stopOf(const std::string& label, const Mesh& m = unitBox()) {
    Stop s;
    s.label = label;
    s.part = shared(m);
    s.call = steps::StepCall{steps::findStep("clean"), {}};
    return s;
}

TEST(Track, UndoAndRedoFollowTheLastBranch) {
    Track track(shared(unitBox()));
    EXPECT_FALSE(track.canUndo());
    track.add(stopOf("a"));
    track.add(stopOf("b"));
    track.undo();
    const auto c = track.add(stopOf("c"));
    EXPECT_EQ(track.stop(1).children, (std::vector<project::StopId>{2, 3}));
    track.undo();
    EXPECT_TRUE(track.canRedo());
    track.redo();
    EXPECT_EQ(track.current(), c);
    track.goTo(2);
    EXPECT_EQ(track.stop(track.current()).label, "b");
    track.undo();
    track.redo();
    EXPECT_EQ(track.stop(track.current()).label, "b");
    EXPECT_FALSE(track.canRedo());
    EXPECT_FALSE(track.goTo(17));
    EXPECT_EQ(track.pathTo(c), (std::vector<project::StopId>{0, 1, 3}));
    EXPECT_EQ(track.recipeTo(c).size(), 2U);
    track.goTo(0);
    track.undo();
    EXPECT_EQ(track.current(), 0U);
}

TEST(Track, SharesMeshesInsteadOfCopying) {
    const auto m = shared(unitBox());
    Track track(m);
    EXPECT_EQ(track.part().get(), m.get());
    EXPECT_EQ(track.imported().get(), m.get());
}

TEST(Delivery, WhatIsShownIsTheFileOnDisk) {
    TemporaryFolder folder;
    // Two corners that are different numbers in memory and the same in 32 bits.
    Mesh m = unitBox();
    const auto middle = static_cast<mesh::VertexId>(m.positions.size());
    m.positions.emplace_back(1 - 1e-12, 1 - 1e-12, 0);
    m.triangles[1] = {1, 2, middle};
    m.triangles.push_back({2, 3, middle});
    m.triangles.push_back({3, 1, middle});
    ASSERT_TRUE(surveyed(m).watertight);
    const auto written = project::writeAndProve(m, {folder / "cube.stl"}, steps::builtInBriefs().front(), silent());
    ASSERT_TRUE(written);
    // What was solid is settled on the way, and solid as written.
    EXPECT_TRUE(written->survey->solid);
    EXPECT_EQ(written->survey->counts.vertices, 8U);
    ASSERT_TRUE(written->settled);
    EXPECT_EQ(written->settled->record.number("vertices_joined").value(), 1);
    // What was not is written as it is, and the numbers are those of the file.
    const Mesh open = without(m, {0});
    const auto broken = project::writeAndProve(open, {folder / "open.stl"}, steps::builtInBriefs().front(), silent());
    ASSERT_TRUE(broken);
    EXPECT_EQ(broken->survey->counts.vertices, 8U);
    EXPECT_GT(broken->survey->counts.collapsedTriangles + broken->survey->counts.boundaryEdges, 3U);
    EXPECT_FALSE(broken->verdict.allMet());
    const auto exact = project::writeAndProve(m, {folder / "cube.ply"}, steps::builtInBriefs().front(), silent());
    EXPECT_TRUE(exact->survey->watertight);
}

TEST(Delivery, AFileThatHoldsWhatIsKnownBitForBitIsNotSurveyedAgain) {
    TemporaryFolder folder;
    const auto& brief = steps::builtInBriefs().front();
    const check::Surveyed ball(sphere());
    ASSERT_TRUE(ball.survey(brief.surveyOptions(), silent()));
    for (const char* name : {"ball.stl", "ball.ply", "ball.off", "ball.obj", "ball.3mf"}) {
        const std::uint64_t before = check::Surveyed::surveysMade();
        const auto written = project::writeAndProve(ball, {folder / name}, brief, silent());
        ASSERT_TRUE(written) << name;
        EXPECT_EQ(check::Surveyed::surveysMade(), before) << name;
        const check::Survey fresh = surveyed(written->part->mesh());
        EXPECT_EQ(written->survey->counts, fresh.counts) << name;
        EXPECT_EQ(written->survey->mass.volume, fresh.mass.volume) << name;
        EXPECT_TRUE(written->verdict.allMet()) << name;
    }
    // Two corners that the file joins; coordinates that it rounds.
    Mesh torn = sphere();
    torn.positions.push_back(torn.positions[5]);
    for (mesh::VertexId& v : torn.triangles[torn.triangles.size() / 2])
        if (v == 5) v = torn.positions.size() - 1;
    torn.triangles.back()[0] = torn.positions.size() - 1;
    Mesh fine = without(sphere(), {7});
    for (Point& p : fine.positions) p *= 1.1;
    for (const Mesh& m : {torn, fine}) {
        const check::Surveyed part(m);
        ASSERT_TRUE(part.survey(brief.surveyOptions(), silent()));
        const std::uint64_t before = check::Surveyed::surveysMade();
        const auto written = project::writeAndProve(part, {folder / "other.stl"}, brief, silent());
        ASSERT_TRUE(written);
        EXPECT_EQ(check::Surveyed::surveysMade(), before + 1);
        EXPECT_EQ(written->survey->counts, surveyed(written->part->mesh()).counts);
    }
}

TEST(Delivery, RefusesWhatCannotBeWritten) {
    TemporaryFolder folder;
    const auto& brief = steps::builtInBriefs().front();
    EXPECT_NE(project::writeAndProve(unitBox(), {folder / "cube.txt"}, brief, silent())
                  .error()
                  .message.find("use one of .3mf, .ply, .off, .obj, .stl"),
              std::string::npos);
    EXPECT_NE(project::writeAndProve(Mesh(), {folder / "none.stl"}, brief, silent())
                  .error()
                  .message.find("no triangle is left"),
              std::string::npos);
}

TEST(Delivery, WhatAFileHoldsNothingOfIsRefusedWithTheReason) {
    TemporaryFolder folder;
    const double far = 1e9;
    const Mesh cube = box(Point(far, far, far), Point(far + 1, far + 1, far + 1));
    const auto& brief = steps::builtInBriefs().front();
    const auto lost = project::writeAndProve(cube, {folder / "cube.stl"}, brief, silent());
    ASSERT_FALSE(lost);
    EXPECT_NE(lost.error().message.find("cube.stl: nothing would be left"), std::string::npos) << lost.error().message;
    EXPECT_NE(lost.error().message.find("steps of 64"), std::string::npos) << lost.error().message;
    EXPECT_TRUE(std::filesystem::is_empty(folder.path()));
    EXPECT_TRUE(project::writeAndProve(cube, {folder / "cube.ply"}, brief, silent())->survey->solid);
}

TEST(Delivery, RunsStepsInOrder) {
    const auto m = shared(without(unitBox(), {0}));
    const auto done =
        project::runSteps(m, {*steps::parseStepCall("fill size=5"), *steps::parseStepCall("orient")}, {}, silent());
    ASSERT_TRUE(done);
    EXPECT_EQ(done->size(), 2U);
    EXPECT_TRUE(surveyed(done->back().part->mesh()).solid);
    CancelAtTick progress(1);
    EXPECT_TRUE(project::runSteps(m, {*steps::parseStepCall("fill")}, {}, progress).error().cancelled());
}

// ---- which step a triangle came with

TEST(Provenance, EachTriangleOfAResultHasItsStop) {
    const auto imported = shared(without(sphere(), {5, 6, 90}));
    const auto done = project::runSteps(
        imported, {*steps::parseStepCall("fill"), *steps::parseStepCall("flip pick=triangles:3")}, {}, silent());
    ASSERT_TRUE(done);
    const std::vector<project::PastSurface> stops{
        {imported->shared()}, {(*done)[0].part->shared()}, {(*done)[1].part->shared()}};
    const auto first = project::firstStopWith(*stops.back().mesh, stops);
    // Bit-identical means the same corners, whatever the direction: the flipped one is still the import's.
    EXPECT_EQ(std::count(first.begin(), first.end(), 0U),
              static_cast<std::ptrdiff_t>(imported->mesh().triangles.size()));
    EXPECT_EQ(std::count(first.begin(), first.end(), 1U), 3);
    Mesh moved = *stops.back().mesh;
    moved.positions[0] += Point(1, 0, 0);
    const auto rounded = project::firstStopWith(moved, stops);
    EXPECT_GT(std::count(rounded.begin(), rounded.end(), 3U), 3);
    EXPECT_EQ(steps::findStep("stitch")->brings, "moved");
    EXPECT_EQ(steps::findStep("fuse")->brings, "cut");
    EXPECT_EQ(steps::findStep("mend")->brings, "new");
}

}  // namespace
}  // namespace zither::tests
