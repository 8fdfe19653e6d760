// What is lost as a requirement, what was said may go, and needles: counts, briefs, command line, exit codes.
#include <cmath>
#include <nlohmann/json.hpp>
#include <random>
#include <sstream>

#include "cli/command_line.h"
#include "io/surface_file.h"
#include "measure/mass.h"
#include "steps/brief.h"
#include "steps/call.h"
#include "steps/lost.h"
#include "steps/step.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::TriangleId;
using nlohmann::json;

// ---- needles

// Of definitions.md, word by word, in long double.
std::uint64_t needlesOf(const Mesh& m) {
    using Wide = Eigen::Matrix<long double, 3, 1>;
    const long double diagonal = mesh::boxOf(m).diagonal();
    std::uint64_t count = 0;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        if (check::isDegenerate(m, t)) continue;
        std::array<Wide, 3> c;
        for (unsigned k = 0; k < 3; ++k) c[k] = m.corner(t, k).cast<long double>();
        long double longest = 0;
        for (unsigned k = 0; k < 3; ++k) longest = std::max(longest, (c[(k + 1) % 3] - c[k]).norm());
        count += (c[1] - c[0]).cross(c[2] - c[0]).norm() / longest < diagonal / 1000000;
    }
    return count;
}

TEST(Needles, AgreeWithTheWordsOfTheDefinitions) {
    std::mt19937 random(5);
    std::uniform_real_distribution<double> number(0, 1);
    for (int round = 0; round < 20; ++round) {
        Mesh m;
        for (int i = 0; i < 300; ++i) {
            const Point a(number(random), number(random), number(random));
            const Point b(number(random), number(random), number(random));
            // Near the line through both, at heights from far below the limit to far above.
            const double height = std::pow(10, -9 + 6 * number(random));
            const Point off = (b - a).unitOrthogonal() * height;
            for (const Point& p : {a, b, Point(a + (1.5 * number(random) - 0.25) * (b - a) + off)})
                m.positions.push_back(p);
            const std::size_t first = m.positions.size() - 3;
            m.triangles.push_back({first, first + 1, first + 2});
        }
        const check::Survey s = surveyed(m);
        EXPECT_EQ(s.counts.needles, needlesOf(m));
        EXPECT_GT(s.counts.needles, 20U);
        EXPECT_EQ(std::count_if(s.findings.list.begin(), s.findings.list.end(),
                                [](const check::Finding& f) { return f.defect == check::needles; }),
                  static_cast<std::ptrdiff_t>(s.counts.needles));
    }
}

TEST(Needles, CollapsedAndDegenerateTrianglesAreNone) {
    Mesh m = unitBox();
    m.positions.push_back(Point(0.5, 0, 0));
    m.triangles.push_back({0, 0, 1});
    const auto last = static_cast<mesh::VertexId>(m.positions.size() - 1);
    std::size_t a = 0;
    std::size_t b = 0;
    for (std::size_t v = 0; v < 8; ++v) {
        if (m.positions[v] == Point(0, 0, 0)) a = v;
        if (m.positions[v] == Point(1, 0, 0)) b = v;
    }
    m.triangles.push_back({a, b, last});
    const check::Survey s = surveyed(m);
    EXPECT_EQ(s.counts.degenerateTriangles, 2U);
    EXPECT_EQ(s.counts.needles, 0U);
}

TEST(Needles, TheHeightIsRightFarFromTheOriginAndForAnyOrderOfCorners) {
    for (const Point& shift : {Point(0, 0, 0), Point(1e6, -1e6, 3e5)}) {
        Mesh m;
        m.positions = {shift, shift + Point(8, 0, 0), shift + Point(4, 0.25, 0)};
        for (const mesh::Triangle& t : {mesh::Triangle{0, 1, 2}, mesh::Triangle{1, 2, 0}, mesh::Triangle{2, 1, 0}}) {
            m.triangles = {t};
            EXPECT_NEAR(measure::leastHeight(m, 0), 0.25, 1e-12);
        }
        m.triangles = {{0, 0, 0}};
        EXPECT_EQ(measure::leastHeight(m, 0), 0);
    }
}

// ---- the requirement

TEST(LostRequirement, EveryBriefHasItAndVolumeMeshForbidsNeedles) {
    for (const steps::Brief& brief : steps::builtInBriefs()) {
        std::size_t found = 0;
        for (const steps::Requirement& r : brief.requirements)
            if (r.measure == &steps::lostMeasure()) {
                ++found;
                EXPECT_NE(r.measure->ofImport, nullptr);
                EXPECT_EQ(r.limit, 0.002);
            }
        EXPECT_EQ(found, 1U) << brief.id;
    }
    EXPECT_EQ(steps::loadBrief("Volume mesh")->id, "volume-mesh");  // by its title
    const auto volume = steps::loadBrief("volume-mesh");
    ASSERT_TRUE(volume);
    EXPECT_TRUE(std::any_of(volume->requirements.begin(), volume->requirements.end(),
                            [](const steps::Requirement& r) { return r.limits(check::needles) && *r.limit == 0; }));
}

TEST(LostRequirement, ABriefOfOnesOwnHasItUnlessItSaysOtherwise) {
    const auto plain = steps::parseBrief({{"zither", 1}, {"requirements", {{"shells", 1}}}}, "own.json");
    ASSERT_TRUE(plain);
    ASSERT_EQ(plain->requirements.size(), 2U);
    EXPECT_EQ(plain->requirements.back().limit, 0.002);
    const auto noted = steps::parseBrief({{"zither", 1}, {"requirements", {{"lost", "noted"}}}}, "own.json");
    ASSERT_TRUE(noted);
    ASSERT_EQ(noted->requirements.size(), 1U);
    EXPECT_FALSE(noted->requirements.front().limit);
    measure::Loss half;
    half.lost = 0.5;
    EXPECT_TRUE(steps::judge(surveyed(unitBox()), *noted, &half).allMet());
}

TEST(LostRequirement, AFlowDomainKeepsItsRegionsAndTheEdgesBetweenThem) {
    Mesh m = unitBox();
    m.regions.assign(12, 0);
    for (mesh::TriangleId t = 0; t < 12; ++t)
        if (mesh::areaVector(m, t).x() > 0.5) m.regions[t] = 1;
    m.regionNames = {"wall", "outlet"};
    const steps::Brief brief = *steps::loadBrief("flow-domain");
    const auto judgedOf = [&](const Mesh& now, std::string_view id) {
        const auto import = shared(m);
        const auto part = shared(now);
        const auto loss = steps::SeenOfImport(import).lossTo(*part, {}, silent());
        EXPECT_TRUE(loss);
        for (const steps::Judged& j : steps::judge(surveyed(now), brief, &loss.value()).judged)
            if (std::string_view(j.requirement.measure->id) == id) return j;
        ADD_FAILURE() << id;
        return steps::Judged{};
    };
    EXPECT_TRUE(judgedOf(m, "regions_lost").met);
    EXPECT_TRUE(judgedOf(m, "region_borders_lost").met);
    // Finer triangles are no loss.
    const auto finer = steps::runStep(*steps::parseStepCall("refine length=0.3"), shared(m), {}, silent());
    ASSERT_TRUE(finer);
    EXPECT_EQ(judgedOf(finer->part->mesh(), "regions_lost").value, 0);
    EXPECT_EQ(judgedOf(finer->part->mesh(), "region_borders_lost").value, 0);
    // A side more: a quarter of the border lies within the outlet then.
    Mesh moved = m;
    for (mesh::TriangleId t = 0; t < 12; ++t)
        if (mesh::areaVector(m, t).y() > 0.5) moved.regions[t] = 1;
    EXPECT_NEAR(*judgedOf(moved, "region_borders_lost").value, 0.25, 0.01);
    EXPECT_FALSE(judgedOf(moved, "region_borders_lost").met);
    Mesh plain = m;
    plain.regions.clear();
    plain.regionNames.clear();
    EXPECT_EQ(judgedOf(plain, "regions_lost").value, 2);
    EXPECT_NEAR(*judgedOf(plain, "region_borders_lost").value, 1, 1e-12);
}

TEST(LostRequirement, IsNotJudgedWithoutAnImport) {
    const steps::Brief& brief = steps::builtInBriefs().front();
    const check::Survey s = surveyed(unitBox());
    const measure::Loss nothing;
    measure::Loss much;
    much.lost = 0.0021;
    const steps::Verdict alone = steps::judge(s, brief);
    const steps::Verdict kept = steps::judge(s, brief, &nothing);
    const steps::Verdict gone = steps::judge(s, brief, &much);
    EXPECT_TRUE(alone.allMet());
    EXPECT_TRUE(kept.allMet());
    EXPECT_FALSE(gone.allMet());
    EXPECT_EQ(kept.asked(), alone.asked() + 1);
    EXPECT_EQ(kept.met(), alone.met() + 1);
    EXPECT_EQ(gone.met(), alone.met());
    EXPECT_FALSE(alone.judged.back().value);
    EXPECT_EQ(gone.judged.back().value, 0.0021);
}

// ---- on the command line

class LostOnTheCommandLine : public ::testing::Test {
protected:
    struct Called {
        int code = 0;
        json result;
    };
    Called call(std::vector<std::string> arguments) {
        std::ostringstream out;
        std::ostringstream err;
        arguments.emplace_back("--json");
        Called c;
        c.code = cli::run(arguments, cli::Console{out, err});
        c.result = json::parse(out.str(), nullptr, false);
        EXPECT_FALSE(c.result.is_discarded()) << err.str();
        return c;
    }
    std::string write(const std::string& name, const Mesh& m) {
        const auto file = (folder / name).string();
        EXPECT_TRUE(io::writeSurface(m, file, {*io::formatForWriting(file)}, silent()));
        return file;
    }
    static json requirement(const json& object, const std::string& id) {
        for (const json& r : object["requirements"])
            if (r["id"] == id) return r;
        return {};
    }
    std::string out() { return (folder / "out.stl").string(); }
    TemporaryFolder folder;
};

TEST_F(LostOnTheCommandLine, ASoundResultThatLostABodyIsNotMet) {
    const std::string file =
        write("two.stl", together(box(Point(0, 0, 0), Point(4, 4, 4)), box(Point(6, 0, 0), Point(7, 1, 1))));
    const Called kept = call({"run", file, "-o", out(), "--step", "clean"});
    EXPECT_EQ(kept.code, 0);
    EXPECT_EQ(requirement(kept.result["output"], "lost")["met"], true);
    EXPECT_EQ(requirement(kept.result["output"], "lost")["limit"], 0.002);
    // Of the input there is nothing to compare with.
    EXPECT_TRUE(requirement(kept.result["input"], "lost")["value"].is_null());
    EXPECT_EQ(requirement(kept.result["input"], "lost")["met"], true);
    const Called gone = call({"run", file, "-o", out(), "--step", "drop-shells size=30 triangles=60"});
    EXPECT_EQ(gone.result["output"]["solid"], true);
    EXPECT_EQ(gone.code, 1);
    const json lost = requirement(gone.result["output"], "lost");
    EXPECT_EQ(lost["met"], false);
    EXPECT_NEAR(lost["value"].get<double>(), gone.result["lost"].get<double>(), 1e-12);
    EXPECT_GT(lost["value"].get<double>(), 0.04);
    ASSERT_EQ(gone.result["lost_pieces"].size(), 1U);
    EXPECT_EQ(gone.result["lost_pieces"][0]["may_go"], false);
}

TEST_F(LostOnTheCommandLine, WhatIsSubtractedMayGoAndNothingElse) {
    const std::string file =
        write("two.stl", together(box(Point(0, 0, 0), Point(4, 4, 4)), box(Point(6, 0, 0), Point(7, 1, 1))));
    const std::string cutter = write("cutter.stl", box(Point(2, 2, 2), Point(5, 5, 5)));
    const std::string subtract = "subtract with=" + cutter;
    const Called cut = call({"run", file, "-o", out(), "--step", subtract});
    EXPECT_EQ(cut.code, 0);
    EXPECT_GT(cut.result["lost"].get<double>(), 0.1);
    EXPECT_LT(cut.result["lost"].get<double>() - cut.result["lost_listed"].get<double>(), 0.002);
    // The word was about the cutter: a body that goes afterwards counts.
    const Called more =
        call({"run", file, "-o", out(), "--step", subtract, "--step", "drop-shells size=30 triangles=60"});
    EXPECT_EQ(more.code, 1);
    EXPECT_EQ(requirement(more.result["output"], "lost")["met"], false);
    EXPECT_GT(requirement(more.result["output"], "lost")["value"].get<double>(), 0.04);
}

TEST_F(LostOnTheCommandLine, SheetsThatMayGoAreListedAndDoNotCount) {
    Mesh sheet;
    sheet.positions = {Point(6, 0, 0), Point(9, 0, 0), Point(9, 3, 0), Point(6, 3, 0)};
    sheet.triangles = {{0, 1, 2}, {0, 2, 3}};
    const std::string file = write("sheet.stl", together(box(Point(0, 0, 0), Point(4, 4, 4)), sheet));
    const Called dropped = call({"repair", file, "-o", out(), "--sheets", "drop"});
    EXPECT_EQ(dropped.code, 0) << dropped.result.dump(1);
    EXPECT_EQ(dropped.result["output"]["solid"], true);
    EXPECT_GT(dropped.result["lost"].get<double>(), 0.05);
    EXPECT_NEAR(dropped.result["lost"].get<double>(), dropped.result["lost_listed"].get<double>(), 1e-12);
    ASSERT_EQ(dropped.result["lost_pieces"].size(), 1U);
    EXPECT_EQ(dropped.result["lost_pieces"][0]["may_go"], true);
    // Thickened it stays, and what is new is told as asked for.
    const Called thick = call({"repair", file, "-o", out(), "--sheets", "thicken", "--thickness", "0.1"});
    // Thinner than the brief wants a wall, and that alone is wrong with it.
    EXPECT_EQ(thick.code, 1);
    for (const auto& r : thick.result["output"]["requirements"]) EXPECT_EQ(r["met"], r["id"] != "thin_places") << r;
    EXPECT_LT(thick.result["lost"].get<double>(), 0.002);
    EXPECT_GT(thick.result["added"].get<double>(), 0.03);
    EXPECT_NEAR(thick.result["added"].get<double>(), thick.result["added_listed"].get<double>(), 0.002);
    // Without a thickness: the wall of the brief, where the file says what a length means.
    const std::string known = write("sheet.3mf", together(box(Point(0, 0, 0), Point(4, 4, 4)), sheet));
    const Called walled = call({"repair", known, "-o", out(), "--sheets", "thicken"});
    bool thickened = false;
    for (const auto& step : walled.result["steps"])
        if (step["parameters"].contains("thickness")) {
            EXPECT_EQ(step["parameters"]["thickness"], 0.8);
            thickened = true;
        }
    EXPECT_TRUE(thickened) << walled.result.dump(1);
    EXPECT_EQ(walled.code, 0);
    // Asked about, it stays a sheet.
    const Called asked = call({"repair", file, "-o", out()});
    EXPECT_EQ(asked.code, 1);
    EXPECT_EQ(asked.result["lost"], 0.0);
}

}  // namespace
}  // namespace zither::tests
