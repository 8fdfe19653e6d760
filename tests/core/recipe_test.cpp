// Recipes replay: what the window can save runs on the same part to the same bytes, and on another part without error.
// And what steps do with picks and with lengths that make no sense.
#include <gtest/gtest.h>

#include "demo/rig.h"
#include "io/surface_file.h"
#include "measure/mass.h"
#include "project/delivery.h"
#include "project/job.h"
#include "steps/all_steps.h"
#include "steps/call.h"
#include "steps/condition.h"
#include "steps/recipe.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;
using steps::Step;
using steps::StepCall;

// Everything that a step may want to work on: open edges, cracks, crossings, flips, specks, a handle, doubles.
Mesh workpiece(double size) {
    Mesh m = without(sphere(size, 24, 16), {5, 6, 90, 91});
    for (std::size_t t = 200; t < 220; ++t) std::swap(m.triangles[t][1], m.triangles[t][2]);
    m.triangles.push_back(m.triangles[50]);
    m = together(m, box(Point(0.6 * size, -0.2 * size, -0.2 * size), Point(1.6 * size, 0.2 * size, 0.2 * size)));
    return together(m, box(Point(3 * size, 0, 0), Point(3.01 * size, 0.01 * size, 0.01 * size)));
}

// The call as a person would make it at the desk.
StepCall callOf(const Step& step, const std::string& file, const Mesh& m) {
    StepCall call{&step};
    for (const steps::Parameter& p : step.parameters) {
        if (p.kind == steps::ParameterKind::File && !p.optional) call.given.emplace(p.name, steps::Value(file));
        if ((p.kind == steps::ParameterKind::Place || (p.kind == steps::ParameterKind::Places && !p.optional)))
            call.given.emplace(p.name, steps::Value(steps::textOfPlace(mesh::centroid(m, 4))));
    }
    if (step.needsPick) call.pick = "boundary_edges+1";
    if (step.name == "wrap") call.given.insert_or_assign("triangles", steps::Value(1500.0));
    return call;
}

// ---- conditions

TEST(Conditions, AreRequirementsWithALimit) {
    const auto open = steps::conditionFromText("boundary_edges");
    ASSERT_TRUE(open);
    EXPECT_EQ(open->limit, 0);
    EXPECT_EQ(steps::conditionInWords(*open), "only if there are open edges");
    // One shell is sound.
    EXPECT_EQ(steps::conditionFromText("shells")->limit, 1);
    EXPECT_EQ(steps::conditionFromText("boundary_edges:12")->limit, 12);
    EXPECT_EQ(steps::conditionInWords(*steps::conditionFromText("smallest_angle:5")),
              "only if smallest angle is below 5");
    for (const char* wrong : {"", "boundary", "boundary_edges:", "boundary_edges:few", "boundary_edges:1e999",
                              "smallest_angle", "lost", "boundary_edges:1:2"})
        EXPECT_FALSE(steps::conditionFromText(wrong)) << wrong;
}

TEST(Conditions, LeaveAStepOutWhereTheyDoNotHold) {
    const auto whole = shared(unitBox());
    const auto open = shared(without(unitBox(), {3}));
    const auto call = steps::parseStepCall("fill only-if=boundary_edges");
    ASSERT_TRUE(call) << call.error().message;
    EXPECT_EQ(call->onlyIf, "boundary_edges");
    const auto left = steps::runStep(*call, whole, Pick(), silent());
    ASSERT_TRUE(left);
    EXPECT_FALSE(left->changed);
    EXPECT_EQ(left->part, whole);
    EXPECT_TRUE(left->leftOut);
    EXPECT_EQ(left->record.sentences.back(), "Left out: it runs only if there are open edges.");
    const auto filled = steps::runStep(*call, open, Pick(), silent());
    ASSERT_TRUE(filled);
    EXPECT_TRUE(filled->changed);
    EXPECT_FALSE(filled->leftOut);
    // Beyond the limit, not at it; and angles fail below theirs.
    EXPECT_FALSE(
        steps::runStep(*steps::parseStepCall("fill only-if=boundary_edges:3"), open, Pick(), silent())->changed);
    EXPECT_TRUE(
        steps::runStep(*steps::parseStepCall("fill only-if=boundary_edges:2"), open, Pick(), silent())->changed);
    EXPECT_TRUE(*steps::holds(*steps::conditionFromText("smallest_angle:46"), *whole, silent()));
    EXPECT_FALSE(*steps::holds(*steps::conditionFromText("smallest_angle:44"), *whole, silent()));
    EXPECT_FALSE(steps::parseStepCall("fill only-if=holes-there-are"));
    // Of a recipe the second fill has nothing to do any more, and each step is told.
    const auto recipe = steps::parseRecipe(steps::recipeJson({{*call, *call}}).dump(), "r.json");
    ASSERT_TRUE(recipe) << recipe.error().message;
    EXPECT_EQ(recipe->steps.back().onlyIf, "boundary_edges");
    const auto done = project::runSteps(open, recipe->steps, {}, silent());
    ASSERT_TRUE(done);
    ASSERT_EQ(done->size(), 2U);
    EXPECT_FALSE(done->front().leftOut);
    EXPECT_TRUE(done->back().leftOut);
    EXPECT_FALSE(steps::parseRecipe(R"({"zither":1,"steps":[{"name":"fill","only_if":"nothing"}]})", "r.json"));
    EXPECT_FALSE(steps::parseRecipe(R"({"zither":1,"steps":[{"name":"fill","only_if":3}]})", "r.json"));
}

// A recipe can ask for the repair before its steps, with the answers that a person gave once.
TEST(Recipes, TheRepairGoesFirstWithItsAnswers) {
    const auto recipe = steps::parseRecipe(
        R"({"zither":1,"repair":{"sheets":"thicken","thickness":0.5,"answers":{"00aa":"keep"}},"steps":[{"name":"clean"}]})",
        "r.json");
    ASSERT_TRUE(recipe) << recipe.error().message;
    ASSERT_TRUE(recipe->repair);
    EXPECT_EQ(recipe->repair->sheets, steps::SheetWay::Thicken);
    EXPECT_EQ(recipe->repair->thickness, 0.5);
    EXPECT_FALSE(recipe->repair->closeOpenings);
    ASSERT_EQ(recipe->repair->answers.size(), 1U);
    EXPECT_EQ(recipe->repair->answers.front().word, "keep");
    EXPECT_EQ(steps::recipeJson(*steps::parseRecipe(steps::recipeJson(*recipe).dump(), "r.json")),
              steps::recipeJson(*recipe));
    for (const auto& [wrong, said] : {std::pair(R"("repair":1)", "must be an object"),
                                      {R"("repair":{"sheet":"drop"})", "did you mean 'sheets'"},
                                      {R"("repair":{"sheets":"keep"})", "ask, drop, thicken"},
                                      {R"("repair":{"thickness":-1})", "thickness"},
                                      {R"("repair":{"answers":{"1":2}})", "the answer to 1 must be text"}}) {
        const auto refused = steps::parseRecipe(std::string(R"({"zither":1,"steps":[],)") + wrong + "}", "r.json");
        ASSERT_FALSE(refused) << wrong;
        EXPECT_NE(refused.error().message.find(said), std::string::npos) << refused.error().message;
    }
    // A box without its lid: the recipe closes it, as the question says, and runs its step behind.
    const auto open = shared(without(box(Point(0, 0, 0), Point(9, 8, 7)), {0, 1}));
    const project::Subject subject{open, steps::builtInBriefs().front(), {}};
    const auto asked = project::repair(subject, {}, nullptr, silent());
    ASSERT_TRUE(asked);
    const auto opening = std::find_if(asked->questions.begin(), asked->questions.end(), [](const steps::Question& q) {
        return std::any_of(q.answers.begin(), q.answers.end(), [](const auto& a) { return a.word == "close"; });
    });
    ASSERT_NE(opening, asked->questions.end());
    steps::Recipe closing{{*steps::parseStepCall("decimate percent=100")}, steps::RepairAsked()};
    closing.repair->answers = {{opening->id, "close"}};
    const auto done = project::run(subject, closing, nullptr, silent());
    ASSERT_TRUE(done) << done.error().message;
    ASSERT_GE(done->steps.size(), 2U);
    EXPECT_EQ(done->steps.back().call.step, steps::findStep("decimate"));
    const auto survey = done->steps.back().part->survey({}, silent());
    ASSERT_TRUE(survey);
    EXPECT_TRUE((*survey)->solid);
    EXPECT_TRUE(done->questions.empty());
}

TEST(Recipes, EveryStepReplaysOnTheSamePartAndOnAnother) {
    const TemporaryFolder folder;
    const std::string file = (folder / "other.stl").string();
    ASSERT_TRUE(io::writeSurface(box(Point(-1, -1, -1), Point(1, 1, 9)), file, {io::stlBinary}, silent()));
    const auto part = shared(workpiece(4));
    const auto other = shared(workpiece(7.5));
    for (const Step& step : steps::catalogue()) {
        SCOPED_TRACE(step.name);
        const StepCall call = callOf(step, file, part->mesh());
        const auto first = steps::runStep(call, part, Pick(), silent());
        if (!first) {
            // By hand something may not be possible at that place; then it is said, and no recipe can hold it.
            EXPECT_TRUE(step.byHand || !step.wholeOnly.empty()) << first.error().message;
            continue;
        }
        const auto calls = steps::parseRecipe(steps::recipeJson({{call}}).dump(), "r.json");
        ASSERT_TRUE(calls) << calls.error().message;
        const auto again = project::runSteps(part, calls->steps, {}, silent());
        ASSERT_TRUE(again) << again.error().message;
        const Mesh& a = first->part->mesh();
        const Mesh& b = again->back().part->mesh();
        EXPECT_EQ(a.triangles, b.triangles);
        EXPECT_EQ(a.positions, b.positions);
        EXPECT_EQ(a.regions, b.regions);
        if (std::any_of(step.parameters.begin(), step.parameters.end(), [](const auto& p) {
                return p.kind == steps::ParameterKind::Place || p.kind == steps::ParameterKind::Places;
            }))
            continue;  // a place is of one part alone
        const auto elsewhere = project::runSteps(other, calls->steps, {}, silent());
        ASSERT_TRUE(elsewhere) << elsewhere.error().message;
        // What was proposed is proposed anew: lengths follow the part.
        for (const steps::Parameter& p : step.parameters)
            if (p.kind == steps::ParameterKind::Length && p.propose && !call.given.contains(p.name)) {
                const steps::Value proposed = steps::proposedArguments(step, *other).find(p.name)->second;
                EXPECT_EQ(elsewhere->back().used.find(p.name)->second, proposed) << p.name;
            }
    }
}

TEST(Picks, AreHonouredOrRefusedInWords) {
    const auto part = shared(workpiece(4));
    const TemporaryFolder folder;
    const std::string file = (folder / "other.stl").string();
    ASSERT_TRUE(io::writeSurface(box(Point(-1, -1, -1), Point(1, 1, 9)), file, {io::stlBinary}, silent()));
    // The far speck: whatever the step does to it, everything else keeps its bits.
    const mesh::Groups& shells = part->shells();
    const std::uint32_t speck = shells.count - 1;
    std::size_t others = 0;
    for (const std::uint32_t shell : shells.of) others += shell != speck;
    for (const Step& step : steps::catalogue()) {
        SCOPED_TRACE(step.name);
        StepCall call = callOf(step, file, part->mesh());
        call.pick = "shell:" + std::to_string(speck);
        const auto done = steps::runStep(call, part, Pick(), silent());
        if (!step.wholeOnly.empty()) {
            ASSERT_FALSE(done);
            EXPECT_EQ(done.error().message,
                      "step '" + std::string(step.name) +
                          "' takes no pick, it works on the whole part: " + std::string(step.wholeOnly));
            continue;
        }
        ASSERT_TRUE(done) << done.error().message;
        const double kept = measure::keptOf(part->mesh(), done->part->mesh()).share *
                            static_cast<double>(part->mesh().triangles.size());
        EXPECT_GE(kept + 0.5, static_cast<double>(others));
    }
}

TEST(Picks, OfPlacesRememberTheLimitThatTheyWereFoundBy) {
    EXPECT_EQ(steps::pickOfPlaces(check::openEdges, {}), "boundary_edges");
    EXPECT_EQ(steps::pickOfPlaces(check::slivers, {.sliverAngleDeg = 12.5}), "smallest_angle:12.5");
    const auto part = shared(sphere(3, 40, 12));
    const auto few = steps::pickFromText("smallest_angle:12", *part, silent());
    const auto many = steps::pickFromText("smallest_angle:40", *part, silent());
    ASSERT_TRUE(few && many);
    EXPECT_LT(few->triangles().size(), many->triangles().size());
    EXPECT_FALSE(steps::pickFromText("boundary_edges:3", *part, silent()));
    EXPECT_TRUE(StepCall({.pick = "triangles:3"}).isByHand());
    EXPECT_FALSE(StepCall({.pick = "shell:3"}).isByHand());
}

TEST(Slivers, GoInEveryStepThatCuts) {
    const TemporaryFolder folder;
    const std::string file = (folder / "other.stl").string();
    // A box a hair off the side of another: cutting leaves a needle.
    ASSERT_TRUE(io::writeSurface(box(Point(0.3, 0.2, -0.9999), Point(4, 0.6001, 9)), file, {io::stlBinary}, silent()));
    const auto part = shared(sphere(1, 40, 24));
    for (const std::string name : {"fuse", "subtract", "intersect"}) {
        SCOPED_TRACE(name);
        const auto run = [&](const std::string& slivers) {
            const auto call = steps::parseStepCall(name + " with=" + file + " slivers=" + slivers);
            auto done = steps::runStep(*call, part, Pick(), silent());
            EXPECT_TRUE(done);
            return done.value();
        };
        EXPECT_EQ(run("0").record.number("slivers_removed").value(), 0);
        const auto mended = run("0.05");
        EXPECT_GT(mended.record.number("slivers_removed").value(), 0);
        EXPECT_LE(mended.record.number("farthest_moved").value(), 0.05);
        EXPECT_TRUE(surveyed(mended.part->mesh()).solid);
    }
}

TEST(Tidy, MergesPiecesOfTheCutAndLeavesTheRest) {
    const Mesh lattice = fromSoup(*rig::largeSurface("lattice", 6'000));
    const auto part = shared(lattice);
    const auto run = [&](const std::string& tidy) {
        auto done = steps::runStep(*steps::parseStepCall("fuse slivers=0 " + tidy), part, Pick(), silent());
        EXPECT_TRUE(done);
        return done.value();
    };
    const auto plain = run("tidy=0");
    const auto tidied = run("");  // a hundred-thousandth of the part, proposed
    const double bound = 1e-5 * mesh::boxOf(lattice).diagonal();
    const Mesh& cut = plain.part->mesh();
    const Mesh& merged = tidied.part->mesh();
    EXPECT_LT(static_cast<double>(merged.triangles.size()), 0.85 * static_cast<double>(cut.triangles.size()));
    EXPECT_TRUE(surveyed(merged).solid);
    EXPECT_GE(measure::keptOf(lattice, merged).share, measure::keptOf(lattice, cut).share);
    EXPECT_LE(tidied.record.number("merged_within").value(), bound);
    const auto moved = compare(cut, merged, silent());
    EXPECT_LE(std::max(moved->aToB.max, moved->bToA.max), bound);
    EXPECT_EQ(plain.record.number("pieces_merged"), std::nullopt);
    // Nothing was cut, nothing is merged: a box of many coplanar triangles stays as it is.
    const auto whole = steps::runStep(*steps::parseStepCall("fuse"), shared(sphere()), Pick(), silent());
    EXPECT_EQ(Bits(whole->part->mesh()).triangles, Bits(sphere()).triangles);
}

// Lengths of every size: each step ends, with a result or in words.
TEST(Lengths, TinyAndHugeOnesEnd) {
    const auto part = shared(workpiece(4));
    for (const Step& step : steps::catalogue())
        for (const steps::Parameter& p : step.parameters) {
            if (p.kind != steps::ParameterKind::Length) continue;
            for (const double length : {1e-300, 1e-20, 1e-9, 1e3, 1e20, 1e300}) {
                SCOPED_TRACE(std::string(step.name) + " " + std::string(p.name) + " " + std::to_string(length));
                StepCall call = callOf(step, "missing.stl", part->mesh());
                if (call.given.contains("with")) continue;
                call.given.erase("triangles");
                call.given.insert_or_assign(std::string(p.name), steps::Value(length));
                if (step.name == "wrap" && p.name != "cell")
                    call.given.insert_or_assign("triangles", steps::Value(900.0));
                const auto done = steps::runStep(call, part, Pick(), silent());
                if (done)
                    EXPECT_EQ(mesh::validate(done->part->mesh()), "");
                else
                    EXPECT_FALSE(done.error().message.empty());
            }
        }
}

TEST(CellGrid, FindsWhatASlowSearchFinds) {
    rig::Random random(7);
    for (const double cell : {1e-300, 1e-6, 0.01, 0.3, 10.0, 1e300}) {
        space::CellGrid grid(cell);
        std::vector<Point> points;
        for (mesh::VertexId v = 0; v < 300; ++v) {
            points.push_back(random.direction());
            grid.add(v, points.back());
        }
        for (int i = 0; i < 40; ++i) {
            const Point at = random.direction();
            const mesh::Box box = space::around(at, 0.2);
            std::vector<std::uint8_t> found(points.size(), 0);
            grid.near(box, [&](mesh::VertexId v) {
                EXPECT_EQ(found[v], 0) << "twice";
                found[v] = 1;
            });
            for (std::size_t v = 0; v < points.size(); ++v)
                if ((points[v] - at).cwiseAbs().maxCoeff() <= 0.2) {
                    EXPECT_EQ(found[v], 1) << cell;
                }
        }
    }
}

}  // namespace
}  // namespace zither::tests
