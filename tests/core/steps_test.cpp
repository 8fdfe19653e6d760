// The catalogue, calls as text, picks, briefs, the automatic repair.
#include <nlohmann/json.hpp>
#include <set>

#include "io/surface_file.h"
#include "measure/mass.h"
#include "steps/all_steps.h"
#include "steps/automatic_repair.h"
#include "steps/call.h"
#include "steps/condition.h"
#include "steps/recipe.h"
#include "steps/step.h"
#include "tests/core/coarse_calls.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Outcome;
using mesh::Pick;
using steps::parseStepCall;

std::string errorOf(const std::string& text) {
    const auto call = parseStepCall(text);
    EXPECT_FALSE(call);
    return call ? "" : call.error().message;
}

TEST(StepCall, ParsesNamesAndValues) {
    const auto call = parseStepCall("decimate percent=12.5% lock-borders=yes");
    ASSERT_TRUE(call);
    EXPECT_EQ(call->step->name, "decimate");
    EXPECT_EQ(call->given.at("percent"), 12.5);
    EXPECT_EQ(call->given.at("lock-borders"), 1);
}

// On a copy of the mesh; what changed is seen in the mesh that comes out.
Outcome<steps::StepOutput> runStep(const steps::StepCall& call, const Mesh& m, const Pick& pick, steps::Arguments& used,
                                   mesh::Progress& progress) {
    auto done = steps::runStep(call, shared(m), pick, progress);
    if (!done) return mesh::errorOf(done);
    used = done->used;
    return steps::StepOutput{done->part->mesh(), done->record};
}

std::string namesOfAll() {
    std::string names;
    for (const steps::Step& step : steps::catalogue()) names += (names.empty() ? "" : ", ") + std::string(step.name);
    return names;
}

TEST(StepCall, ErrorsSayWhatThereIs) {
    const std::string allSteps = namesOfAll();
    EXPECT_EQ(errorOf("polish"), "there is no step 'polish'; did you mean 'smooth'?; there are: " + allSteps);
    EXPECT_EQ(errorOf(""), "a step needs a name; there are: " + allSteps);
    EXPECT_EQ(errorOf("fill depth=3"), "step 'fill' has no parameter 'depth'; it has: way, size, meant");
    EXPECT_EQ(errorOf("clean size=3"), "step 'clean' has no parameter 'size'; it has: none");
    EXPECT_EQ(errorOf("fill size"), "step 'fill': 'size' is not key=value");
    EXPECT_EQ(errorOf("fill size=big"), "step 'fill': 'big' is no value for size; give a number");
    EXPECT_EQ(errorOf("stitch same-facing=maybe"),
              "step 'stitch': 'maybe' is no value for same-facing; give yes or no");
    EXPECT_EQ(errorOf("decimate percent=101"), "step 'decimate': percent must be from 0 to 100, not 101");
    EXPECT_EQ(errorOf("decimate count=2.5"), "step 'decimate': count must be a whole number, not 2.5");
    EXPECT_EQ(errorOf("fill size=nan"), "step 'fill': size must be from 0 to 1e+300, not nan");
    EXPECT_EQ(errorOf("fill size=-1"), "step 'fill': size must be from 0 to 1e+300, not -1");
}

// One way to read a number, wherever one is typed.
TEST(StepCall, NumbersAreReadAlikeInValuesPicksAndConditions) {
    const auto part = shared(unitBox());
    const auto asValue = [](const std::string& n) { return parseStepCall("fill size=" + n).has_value(); };
    const auto asPick = [&](const std::string& n) {
        return steps::pickFromText("ball:0,0,0," + n, part->mesh(), silent()).has_value();
    };
    const auto asCondition = [](const std::string& n) {
        return steps::conditionFromText("boundary_edges:" + n).has_value();
    };
    for (const char* good : {"5", "+5", "5.", ".5e1", "5e0", "0005", "5.0000000000000000000000001"}) {
        EXPECT_TRUE(asValue(good)) << good;
        EXPECT_TRUE(asPick(good)) << good;
        EXPECT_TRUE(asCondition(good)) << good;
    }
    for (const char* bad : {"", "+", "-", "5x", "x5", "++5", "+-5", "0x5", "5,", "5e", "1e999", "nan", "inf", "-inf"}) {
        EXPECT_FALSE(asValue(bad)) << bad;
        EXPECT_FALSE(asPick(bad)) << bad;
        EXPECT_FALSE(asCondition(bad)) << bad;
    }
    EXPECT_EQ(parseStepCall("fill size=+2.5")->given.at("size"), 2.5);
}

// The reason of `resolve` names what there is, and nothing that there is none of.
TEST(Reasons, OfResolveNameWhatIsTied) {
    const auto reason = [](const Mesh& m) {
        const check::Survey survey = surveyed(m);
        const steps::Step& step = steps::resolveStep();
        return step.reason(survey, {}, {});
    };
    EXPECT_EQ(reason(unitBox()), "");
    // Two boxes that share an edge, and two that share a corner.
    const Mesh byEdge = together(unitBox(), box(Point(1, 1, 0), Point(2, 2, 1)));
    const Mesh byCorner = together(unitBox(), box(Point(1, 1, 1), Point(2, 2, 2)));
    EXPECT_EQ(reason(byEdge), "1 edge has more than two triangles.");
    EXPECT_EQ(reason(byCorner), "1 vertex is pinched.");
    const Mesh both = together(byEdge, box(Point(-1, -1, -1), Point(0, 0, 0)));
    EXPECT_EQ(reason(both), "1 edge has more than two triangles, 1 vertex is pinched.");
    Mesh fin = unitBox();
    mesh::append(fin, loose({{Point(0, 0, 0), Point(1, 0, 0), Point(0.5, -1, 0)}}));
    mesh::joinEqualVertices(fin);
    EXPECT_EQ(reason(fin), "1 edge has more than two triangles.");
}

TEST(Catalogue, EveryStepIsDescribed) {
    std::set<std::string_view> names;
    for (const steps::Step& step : steps::catalogue()) {
        EXPECT_TRUE(names.insert(step.name).second);
        EXPECT_FALSE(step.title.empty());
        EXPECT_FALSE(step.summary.empty());
        EXPECT_NE(step.run, nullptr);
        for (const auto& p : step.parameters) {
            EXPECT_FALSE(p.help.empty()) << step.name << " " << p.name;
            EXPECT_GE(p.fallback, p.min);
            EXPECT_LE(p.fallback, p.max);
            if (!p.zero.empty()) {
                EXPECT_EQ(p.min, 0) << step.name << " " << p.name;
            }
        }
    }
}

// A file for the steps that ask for another surface.
class OtherSurface {
public:
    OtherSurface() : file_((folder_ / "other.stl").string()) {
        EXPECT_TRUE(io::writeSurface(box(Point(0.5, 0.5, 0.5), Point(3, 2, 2)), file_, {io::stlBinary}, silent()));
    }
    [[nodiscard]] steps::StepCall callOf(const steps::Step& step) const {
        steps::StepCall call{&step, {}};
        for (const auto& p : step.parameters)
            if (p.kind == steps::ParameterKind::File && !p.optional)
                call.given.insert_or_assign(std::string(p.name), steps::Value(file_));
            else if ((p.kind == steps::ParameterKind::Place || (p.kind == steps::ParameterKind::Places && !p.optional)))
                call.given.insert_or_assign(std::string(p.name), steps::Value("0.1,0.2,0.3"));
        if (step.needsPick) call.pick = "triangles:0-1";
        return call;
    }
    [[nodiscard]] const std::string& file() const { return file_; }

private:
    TemporaryFolder folder_;
    std::string file_;
};

TEST(StepCall, AFileIsNeededAndMayHoldBlanks) {
    const auto call = parseStepCall("subtract with=\"a file.stl\"");
    ASSERT_TRUE(call);
    EXPECT_EQ(call->given.at("with").text(), "a file.stl");
    steps::Arguments used;
    EXPECT_EQ(runStep(*parseStepCall("subtract"), unitBox(), Pick(), used, silent()).error().message,
              "step 'subtract' needs with=FILE: The surface whose inside is taken away.");
    EXPECT_NE(runStep(*call, unitBox(), Pick(), used, silent()).error().message.find("a file.stl"), std::string::npos);
}

TEST(Steps, SubtractAndIntersectWithAFile) {
    const OtherSurface other;
    const auto volumeAfter = [&](const std::string& text) {
        steps::Arguments used;
        const auto output = runStep(*parseStepCall(text + " with=" + other.file()), box(Point(0, 0, 0), Point(2, 2, 2)),
                                    Pick(), used, silent());
        EXPECT_TRUE(output);
        return surveyed(output.value().mesh).mass.volume;
    };
    EXPECT_NEAR(volumeAfter("subtract"), 8 - 1.5 * 1.5 * 1.5, 1e-12);
    EXPECT_NEAR(volumeAfter("intersect"), 1.5 * 1.5 * 1.5, 1e-12);
    EXPECT_NEAR(volumeAfter("fuse"), 8 + 2.5 * 1.5 * 1.5 - 1.5 * 1.5 * 1.5, 1e-12);
}

TEST(Steps, FuseLeavesAloneWhatItWouldEmpty) {
    const Mesh inside = flipped(unitBox());
    steps::Arguments used;
    const auto output = runStep(*parseStepCall("fuse"), inside, Pick(), used, silent());
    ASSERT_TRUE(output);
    EXPECT_EQ(output->mesh.triangles, inside.triangles);
    ASSERT_EQ(output->record.sentences.size(), 1U);
    EXPECT_NE(output->record.sentences[0].find("orient first"), std::string::npos);
}

TEST(Steps, SettleLeavesAloneWhatCrosses) {
    const Mesh m = together(unitBox(), box(Point(0.5, 0.5, 0.5), Point(2, 2, 2)));
    steps::Arguments used;
    const auto output = runStep(*parseStepCall("settle"), m, Pick(), used, silent());
    ASSERT_TRUE(output);
    EXPECT_EQ(output->mesh.triangles, m.triangles);
    EXPECT_GT(output->record.number("crossing_pairs_before").value(), 0);
    EXPECT_EQ(runStep(*parseStepCall("settle bits=40"), m, Pick(), used, silent()).error().message,
              "step 'settle': bits must be 32 or 64, not 40");
    EXPECT_EQ(runStep(*parseStepCall("enclose bits=40"), m, Pick(), used, silent()).error().message,
              "step 'enclose': bits must be 32 or 64, not 40");
}

TEST(AutomaticRepair, FusesClosedShellsThatCross) {
    const auto m = shared(together(sphere(), box(Point(9, -1, -1), Point(14, 1, 1))));
    const auto done = steps::repairAutomatically(m, {*steps::loadBrief("volume-mesh"), 1e300}, silent());
    ASSERT_TRUE(done);
    ASSERT_FALSE(done->steps.empty());
    const auto fused =
        std::find_if(done->steps.begin(), done->steps.end(), [](const auto& s) { return s.call.step->name == "fuse"; });
    ASSERT_NE(fused, done->steps.end());
    EXPECT_GT(fused->record.number("triangles_cut").value(), 0);
    EXPECT_TRUE(surveyed(done->steps.back().part->mesh()).solid);
    EXPECT_EQ(surveyed(done->steps.back().part->mesh()).counts.shells, 1U);
}

// Each is as small as a speck, all together are a part of the surface.
TEST(AutomaticRepair, ManySmallShellsAreNoSpecks) {
    for (const bool many : {false, true}) {
        Mesh m = without(sphere(), {0});
        for (int x = 0; x < (many ? 12 : 1); ++x)
            for (int y = 0; y < (many ? 12 : 1); ++y) {
                const Point at(0.9 * x, 0.9 * y, 12);
                const auto v = static_cast<std::uint32_t>(m.positions.size());
                m.positions.insert(m.positions.end(), {at, at + Point(0.4, 0, 0), at + Point(0, 0.4, 0)});
                m.triangles.push_back({v, v + 1, v + 2});
            }
        const auto part = shared(m);
        steps::RepairOptions options{*steps::loadBrief("print"), 1e300};
        options.closeOpenings = true;
        options.sheets = steps::SheetWay::Thicken;
        const auto done = steps::repairAutomatically(part, options, silent());
        ASSERT_TRUE(done);
        ASSERT_FALSE(done->steps.empty());
        const bool dropped = std::any_of(done->steps.begin(), done->steps.end(),
                                         [](const auto& s) { return s.call.step->name == "drop-shells"; });
        EXPECT_NE(dropped, many);
        const check::Survey s = surveyed(done->steps.back().part->mesh());
        EXPECT_TRUE(s.solid);
        EXPECT_EQ(s.counts.shells, many ? 145U : 1U);
    }
}

bool hasPlace(const steps::Step& step) {
    return std::any_of(step.parameters.begin(), step.parameters.end(), [](const auto& p) {
        return p.kind == steps::ParameterKind::Place || p.kind == steps::ParameterKind::Places;
    });
}

// Whatever the mesh and the step: the result is a mesh, the input is untouched, and cancelling at any tick says so.
// A test each, so that several cores share them.
class EveryStep : public ::testing::TestWithParam<std::size_t> {
protected:
    [[nodiscard]] static const steps::Step& step() { return steps::catalogue()[GetParam()]; }
};

TEST_P(EveryStep, SurvivesEveryUglyMesh) {
    const OtherSurface other;
    for (const auto& [name, m] : uglyMeshes()) {
        SCOPED_TRACE(std::string(step().name) + " on " + name);
        const auto part = shared(m);
        steps::StepCall call = other.callOf(step());
        makeCoarse(call, m);
        const auto done = steps::runStep(call, part, Pick(), silent());
        // The surface that came in is shared with the track: not a bit of it may change.
        EXPECT_EQ(Bits(part->mesh()), Bits(m));
        if (!done && (step().needsPick || hasPlace(step()))) {
            // By hand something may not be there, or not be possible: then it is said, and nothing is changed.
            EXPECT_EQ(done.error().kind, mesh::ErrorKind::BadInput);
            continue;
        }
        ASSERT_TRUE(done) << done.error().message;
        EXPECT_EQ(mesh::validate(done->part->mesh()), "");
        EXPECT_EQ(done->changed, !(Bits(done->part->mesh()) == Bits(m)));
        EXPECT_EQ(done->part == part, !done->changed);
        EXPECT_EQ(done->used.size(), step().parameters.size());
        for (const auto& number : done->record.numbers) EXPECT_TRUE(std::isfinite(number.value)) << number.key;
    }
}

TEST_P(EveryStep, CanBeCancelledAtEveryTick) {
    const Mesh m = without(together(sphere(), flipped(box(Point(20, 0, 0), Point(21, 1, 1)))), {5, 6, 90});
    const OtherSurface other;
    steps::StepCall call = other.callOf(step());
    makeCoarse(call, m);
    bool through = false;
    for (int tick = 1; tick < 5000 && !through; ++tick) {
        CancelAtTick progress(tick);
        steps::Arguments used;
        const auto output = runStep(call, m, Pick(), used, progress);
        through = output.has_value() || (hasPlace(step()) && !output.error().cancelled());
        if (!through) {
            ASSERT_TRUE(output.error().cancelled());
        }
    }
    EXPECT_TRUE(through);
}

INSTANTIATE_TEST_SUITE_P(Catalogue, EveryStep, ::testing::Range<std::size_t>(0, steps::catalogue().size()),
                         [](const auto& each) {
                             std::string name(steps::catalogue()[each.param].get().name);
                             std::replace(name.begin(), name.end(), '-', '_');
                             return name;
                         });

// ---- picks

std::size_t picked(const std::string& text, const Mesh& m) {
    const auto pick = steps::pickFromText(text, m, silent());
    EXPECT_TRUE(pick) << text;
    return pick ? pick.value().triangles().size() : 0;
}

TEST(PickText, EveryForm) {
    const Mesh m = together(unitBox(), box(Point(3, 0, 0), Point(4, 1, 1)));
    EXPECT_EQ(picked("triangles:0-3,7", m), 5U);
    EXPECT_EQ(picked("shell:1", m), 12U);
    EXPECT_GE(picked("ball:0,0,0,0.1", m), 3U);
    EXPECT_EQ(picked("box:2.5,-1,-1,5,2,2", m), 12U);
    EXPECT_GT(picked("triangles:0+1", m), 1U);
    EXPECT_EQ(picked("triangles:0+9", m), 12U);
    // However many rings are asked for (found by fuzzing).
    EXPECT_EQ(picked("triangles:0+4000000000", m), 12U);
    EXPECT_FALSE(steps::pickFromText("box:-1,-1,-1,1,1,0.5-4000000000", shared(m)->mesh(), silent()));
    EXPECT_EQ(picked("boundary_edges", without(m, {0})), 3U);
    EXPECT_EQ(picked("ball:-1e0,0,0,1.05", m), picked("ball:-1,0,0,1.05", m));
}

TEST(PickText, ErrorsSayWhatCanBeGiven) {
    const auto error = [](const std::string& text) {
        return steps::pickFromText(text, unitBox(), silent()).error().message;
    };
    EXPECT_EQ(error("ball:1,2,3").substr(0, 34), "'ball:1,2,3' is no pick; give ball");
    EXPECT_EQ(error("everything").substr(0, 26), "'everything' is no pick; g");
    EXPECT_EQ(error("shell:4"), "pick=shell:4 picks no triangle of this part");
    EXPECT_EQ(error("triangles:0-5-1").substr(0, 10), "'triangles");
    steps::Arguments used;
    EXPECT_EQ(runStep(*parseStepCall("remove"), unitBox(), Pick(), used, silent()).error().message,
              "step 'remove' works on picked triangles alone: pick some first, or give pick=...");
}

TEST(PickText, RoundTrip) {
    const Pick pick({9, 1, 2, 3, 7});
    EXPECT_EQ(steps::textOfPick(pick), "triangles:1-3,7,9");
    const auto calls = std::vector{*parseStepCall("mend pick=triangles:1-3 rings=2 way=taut")};
    const auto back = steps::parseRecipe(steps::recipeJson({calls}).dump(), "r.json");
    ASSERT_TRUE(back) << back.error().message;
    EXPECT_EQ(back->steps[0].pick, "triangles:1-3");
    EXPECT_EQ(back->steps[0].given, calls[0].given);
}

TEST(Records, MendTakesNoMoreThanItMay) {
    const Mesh m = unitBox();
    steps::Arguments used;
    const auto refused = runStep(*parseStepCall("mend pick=triangles:0 rings=0"), m, Pick(), used, silent());
    ASSERT_TRUE(refused);
    EXPECT_TRUE(Bits(refused->mesh) == Bits(m));
    EXPECT_EQ(refused->record.sentences.front(),
              "Nothing was done: 1 triangle, 8.33 % of the surface, would go, and 5 % may (most).");
    EXPECT_EQ(refused->record.count(steps::Listed::Left), 1U);
    const auto done = runStep(*parseStepCall("mend pick=triangles:0 rings=0 most=9"), m, Pick(), used, silent());
    ASSERT_TRUE(done);
    EXPECT_TRUE(surveyed(done->mesh).solid);
    EXPECT_EQ(done->record.number("triangles_removed").value(), 1);
    EXPECT_NEAR(done->record.number("share_removed").value(), 1.0 / 12, 1e-9);
}

TEST(Records, SayWhatWasDropped) {
    const Mesh m = together(sphere(), box(Point(20, 0, 0), Point(20.1, 0.1, 0.1)));
    steps::Arguments used;
    const auto output = runStep(*parseStepCall("drop-shells triangles=50"), m, Pick(), used, silent());
    EXPECT_EQ(output->record.number("shells_dropped").value(), 1);
    EXPECT_EQ(output->record.number("triangles_dropped").value(), 12);
    ASSERT_EQ(output->record.sentences.size(), 1U);
    ASSERT_EQ(output->record.count(steps::Listed::Goes), 1U);
    EXPECT_EQ(output->record.sentences[0],
              "Dropped 1 shell of 12 triangles in all, 0.06 in area (0.00484 % of the surface lies in none of the "
              "others); the largest is "
              "0.173 across.");
    EXPECT_NEAR(output->record.number("open_share_dropped").value(), 4.84e-5, 1e-6);
    EXPECT_EQ(output->record.number("no such key"), std::nullopt);
}

// ---- recipes

TEST(Recipe, RoundTrip) {
    const std::vector<steps::StepCall> calls = {*parseStepCall("stitch distance=0.01 same-facing=no"),
                                                *parseStepCall("orient")};
    const auto back = steps::parseRecipe(steps::recipeJson({calls}).dump(), "r.json");
    ASSERT_TRUE(back);
    ASSERT_EQ(back->steps.size(), 2U);
    EXPECT_EQ(back->steps[0].given, calls[0].given);
    EXPECT_EQ(back->steps[1].step->name, "orient");
}

TEST(Recipe, ErrorsNameTheStep) {
    const auto error = [](const std::string& text) { return steps::parseRecipe(text, "r.json").error().message; };
    EXPECT_EQ(error("["), "r.json: no JSON: line 1, column 1 is not what can stand there");
    EXPECT_EQ(error("{\"zither\": 2, \"steps\": []}"),
              "r.json: not a recipe: JSON with \"zither\": 1 and a list \"steps\" is expected");
    EXPECT_EQ(error("{\"zither\": 1, \"steps\": [{\"name\": \"clean\"}, {\"name\": \"fill\", \"parameters\": "
                    "{\"depth\": 1}}]}"),
              "r.json: step 2: step 'fill' has no parameter 'depth'; it has: way, size, meant");
    EXPECT_EQ(error("{\"zither\": 1, \"steps\": [{\"name\": \"fill\", \"parameters\": {\"size\": \"big\"}}]}"),
              "r.json: step 1: size must be a number, true or false");
    EXPECT_EQ(error("{\"zither\": 1, \"steps\": [{}]}"), "r.json: step 1: a step needs a \"name\"");
    EXPECT_EQ(error("{\"zither\": 1, \"steps\": [{\"name\": \"decimate\", \"parameters\": {\"percent\": 500}}]}"),
              "r.json: step 1: step 'decimate': percent must be from 0 to 100, not 500");
}

// ---- briefs

TEST(Brief, BuiltInsFollowTheDesign) {
    EXPECT_TRUE(steps::judge(surveyed(unitBox()), *steps::loadBrief("print")).allMet());
    EXPECT_TRUE(steps::judge(surveyed(unitBox()), *steps::loadBrief("volume-mesh")).allMet());
    const Mesh open = without(unitBox(), {0});
    EXPECT_FALSE(steps::judge(surveyed(open), *steps::loadBrief("print")).allMet());
    EXPECT_TRUE(steps::judge(surveyed(open), *steps::loadBrief("reference-surface")).allMet());
    const Mesh two = together(unitBox(), box(Point(3, 0, 0), Point(4, 1, 1)));
    EXPECT_TRUE(steps::judge(surveyed(two), *steps::loadBrief("print")).allMet());
    EXPECT_FALSE(steps::judge(surveyed(two), *steps::loadBrief("volume-mesh")).allMet());
    const steps::Brief print = *steps::loadBrief("print");
    const check::Surveyed large(box(Point(0, 0, 0), Point(251, 1, 1)));
    EXPECT_FALSE(steps::judge(**large.survey(print.surveyOptions(), silent()), print).allMet());
}

TEST(Brief, FromAFile) {
    TemporaryFolder folder;
    writeText(
        folder / "own.json",
        R"({"zither": 1, "title": "Mould", "requirements": {"boundary_edges": 0, "smallest_angle": 20, "shells": "noted"}})");
    const auto brief = steps::loadBrief((folder / "own.json").string());
    ASSERT_TRUE(brief);
    EXPECT_EQ(brief->title, "Mould");
    EXPECT_EQ(brief->surveyOptions().sliverAngleDeg, 20);
    const auto verdict = steps::judge(surveyed(unitBox()), *brief);
    EXPECT_EQ(verdict.asked(), 2U);
    EXPECT_EQ(verdict.met(), 2U);
}

TEST(Brief, ErrorsSayWhatIsWrong) {
    EXPECT_EQ(steps::loadBrief("pretty").error().message,
              "there is no brief 'pretty'; there are: print, volume-mesh, reference-surface, flow-domain, or name a "
              ".json file");
    const auto error = [](const std::string& text) {
        return steps::parseBrief(nlohmann::ordered_json::parse(text), "b.json").error().message;
    };
    EXPECT_EQ(error("{}"), "b.json: not a brief: the key \"zither\" with the version 1 is missing");
    EXPECT_EQ(error("{\"zither\": 1}"), "b.json: not a brief: the object \"requirements\" is missing");
    EXPECT_NE(error("{\"zither\": 1, \"requirements\": {\"taste\": 0}}")
                  .find("there is no requirement 'taste'; there are: boundary_edges"),
              std::string::npos);
    EXPECT_EQ(error("{\"zither\": 1, \"requirements\": {\"shells\": true}}"),
              "b.json: not a brief: the limit of 'shells' must be a number or \"noted\"");
}

// ---- the automatic repair

steps::RepairResult repaired(const Mesh& m) {
    auto r = steps::repairAutomatically(shared(m), {}, silent());
    EXPECT_TRUE(r);
    return std::move(r.value());
}

TEST(AutomaticRepair, LeavesASoundPartAlone) {
    EXPECT_TRUE(repaired(unitBox()).steps.empty());
}

TEST(AutomaticRepair, MendsEveryKindAtOnceAndSaysWhy) {
    Mesh m = without(sphere(10, 40, 30), {100, 101, 102, 700});
    for (std::size_t t = 300; t < 340; ++t) std::swap(m.triangles[t][1], m.triangles[t][2]);
    m.triangles.push_back(m.triangles[50]);
    m.triangles.push_back({7, 7, 9});
    const auto r = repaired(m);
    ASSERT_FALSE(r.steps.empty());
    EXPECT_TRUE(surveyed(r.steps.back().part->mesh()).solid);
    for (const auto& step : r.steps) EXPECT_FALSE(step.why.empty());
    EXPECT_TRUE(r.left.empty());
}

TEST(AutomaticRepair, LeavesLargeOpeningsForAPerson) {
    Mesh half = sphere(10, 40, 30);
    std::vector<std::uint8_t> keep(half.triangles.size());
    for (mesh::TriangleId t = 0; t < keep.size(); ++t) keep[t] = mesh::centroid(half, t).z() < 0;
    const auto r = repaired(mesh::keepTriangles(half, keep));
    ASSERT_FALSE(r.left.empty());
    EXPECT_EQ(r.left.front().text.substr(0, 11), "open edges:");
}

// What stitches them loses too much: it is not done, and said.
TEST(AutomaticRepair, SaysWhichWayItDidNotTakeForWhatItLoses) {
    const Mesh halves = halvesOfABall();
    const auto r = repaired(halves);
    ASSERT_FALSE(r.left.empty());
    EXPECT_EQ(r.left.front().text.substr(0, 27), "Not taken: stitch distance=") << r.left.front().text;
    const Mesh& result = r.steps.empty() ? halves : r.steps.back().part->mesh();
    EXPECT_NEAR(measure::massOf(result).area, measure::massOf(halves).area, 0.01 * measure::massOf(halves).area);
}

TEST(AutomaticRepair, NeverFailsMoreRequirementsThanBefore) {
    for (const auto& [name, m] : uglyMeshes()) {
        SCOPED_TRACE(name);
        const auto& brief = steps::builtInBriefs().front();
        const auto before = steps::judge(surveyed(m), brief);
        const auto r = repaired(m);
        const auto after = steps::judge(surveyed(r.steps.empty() ? m : r.steps.back().part->mesh()), brief);
        EXPECT_GE(after.met(), before.met());
    }
}

TEST(AutomaticRepair, CancelledAtManyTicks) {
    const auto m = shared(without(sphere(10, 20, 12), {5, 6, 90}));
    for (int tick = 1; tick < 100'000; tick += 1 + tick / 8) {
        CancelAtTick progress(tick);
        const auto r = steps::repairAutomatically(m, {}, progress);
        if (r) return;
        ASSERT_TRUE(r.error().cancelled());
    }
    FAIL() << "never got through";
}

}  // namespace
}  // namespace zither::tests
