// The search of the automatic repair: its ways, scores and choice without a surface, and what comes of it on parts
// whose truth is known.
#include <nlohmann/json.hpp>
#include <sstream>
#include <thread>

#include "io/surface_file.h"
#include "project/job.h"
#include "steps/automatic_repair.h"
#include "steps/lost.h"
#include "steps/repair/choose.h"
#include "steps/repair/deadline.h"
#include "steps/repair/local.h"
#include "tests/core/cli_call.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using steps::BuriedWay;
using steps::RepairFacts;
using steps::Score;
using steps::SheetWay;
using steps::Stage;
using steps::TriedWay;
using steps::Way;

// ---- candidates

std::vector<std::string> namesOf(const RepairFacts& facts) {
    std::vector<std::string> names;
    for (const Way& way : steps::candidatesFor(facts)) names.push_back(nameOf(way));
    return names;
}

RepairFacts torn() {
    RepairFacts facts;
    facts.came.triangles = 1000;
    facts.came.shells = 1;
    facts.came.boundaryEdges = 20;
    facts.ready = facts.came;
    return facts;
}

TEST(RepairCandidates, DamageThatIsLocalIsMendedLocallyFirst) {
    EXPECT_EQ(namesOf(torn()), (std::vector<std::string>{"local steps", "enclose"}));
}

TEST(RepairCandidates, SurplusGoesBeforeAnythingElse) {
    RepairFacts facts = torn();
    facts.came.duplicateTriangles = 3;
    facts.hasCracks = true;
    for (const std::string& name : namesOf(facts)) EXPECT_TRUE(name.starts_with("clean, ")) << name;
    // Where nearly all is written twice, once each way, cleaning would hide that it bounds nothing.
    facts.came.duplicateTriangles = 500;
    for (const std::string& name : namesOf(facts)) EXPECT_FALSE(name.starts_with("clean, ")) << name;
}

TEST(RepairCandidates, WhatCracksHideDecidesWhereToBegin) {
    RepairFacts facts = torn();
    facts.hasCracks = true;
    facts.came.boundaryEdges = 2900;
    facts.came.shells = 900;
    facts.came.selfIntersectingTriangles = 700;
    facts.ready = facts.came;
    // Crossing all along its cracks, it is heavy as it came, and sound once they are closed.
    facts.openLeft = 0.01;
    facts.ready.boundaryEdges = 30;
    facts.ready.shells = 1;
    facts.ready.selfIntersectingTriangles = 0;
    EXPECT_EQ(namesOf(facts).front(), "local steps");
    facts.ready.selfIntersectingTriangles = 700;
    EXPECT_EQ(namesOf(facts).front(), "stitch, drop specks, enclose");
    // Rims that stitching leaves are no cracks.
    facts.ready.selfIntersectingTriangles = 0;
    facts.openLeft = 0.9;
    EXPECT_EQ(namesOf(facts).back(), "local steps without stitching");
}

TEST(RepairCandidates, HolesInSurfacesAreFilledLocallyAndRimsOfSheetsAreNot) {
    RepairFacts facts = torn();
    facts.openLeft = 1;  // none is a crack
    EXPECT_EQ(namesOf(facts).front(), "enclose");
    facts.onlyDamage = true;
    EXPECT_EQ(namesOf(facts).front(), "local steps");
}

// Sheets hang on bodies once they are stitched to them: a way that leaves them apart stands behind.
TEST(RepairCandidates, AGentlerTwinOfStitchingStandsBehindIt) {
    RepairFacts facts = torn();
    facts.hasCracks = true;
    facts.openLeft = 0.6;
    const auto ways = steps::candidatesFor(facts);
    ASSERT_GT(ways.size(), 2U);
    EXPECT_EQ(nameOf(ways[0]), "stitch, enclose");
    EXPECT_EQ(nameOf(ways[1]), "stitch but leave sheets apart, enclose");
    steps::Score good;
    EXPECT_FALSE(steps::isWorthTrying(ways[1], std::vector<steps::TriedWay>{{ways[0], good}}, facts));
    good.anyWorse = true;
    EXPECT_TRUE(steps::isWorthTrying(ways[1], std::vector<steps::TriedWay>{{ways[0], good}}, facts));
    // What hangs already cannot get worse.
    facts.came.nonmanifoldEdges = 3;
    for (const std::string& name : namesOf(facts)) EXPECT_EQ(name.find("apart"), std::string::npos);
}

// Sewing that ties edges and sets sides against each other joins what does not belong together.
TEST(RepairCandidates, WhereSewingGoesAmissWaysWithoutItComeFirst) {
    RepairFacts facts = torn();
    facts.hasCracks = facts.sewsAmiss = true;
    facts.came.nonmanifoldEdges = facts.ready.nonmanifoldEdges = 100;
    facts.openLeft = 0.4;
    const auto ways = steps::candidatesFor(facts);
    ASSERT_GT(ways.size(), 2U);
    EXPECT_EQ(nameOf(ways[0]), "orient, enclose");
    EXPECT_EQ(nameOf(ways[1]), "enclose");
    EXPECT_EQ(nameOf(ways[2]), "stitch, orient, enclose");
    // Where the first calls much sheets, it is sewn all the same.
    steps::Score sheets;
    sheets.onlyQuestions = true;
    sheets.sheets = 0.3;
    EXPECT_TRUE(steps::isWorthTrying(ways[2], std::vector<steps::TriedWay>{{ways[0], sheets}}, facts));
    sheets.sheets = 0.01;
    EXPECT_FALSE(steps::isWorthTrying(ways[2], std::vector<steps::TriedWay>{{ways[0], sheets}}, facts));
    // Nearly all that is open are cracks: sewn first.
    facts.openLeft = 0.02;
    EXPECT_EQ(namesOf(facts).front(), "stitch, orient, enclose");
}

TEST(RepairCandidates, SheetsAreToldOnceCracksAreClosed) {
    RepairFacts facts = torn();
    facts.hasCracks = true;
    facts.openLeft = 0.6;
    const auto names = namesOf(facts);
    const auto at = [&](const std::string& name) { return std::find(names.begin(), names.end(), name); };
    ASSERT_NE(at("stitch, enclose"), names.end());
    EXPECT_LT(at("stitch, enclose"), at("enclose"));
}

TEST(RepairCandidates, NoneStandsTwice) {
    for (unsigned bits = 0; bits < 64; ++bits) {
        RepairFacts facts = torn();
        facts.came.duplicateTriangles = bits & 1U ? 5 : 0;
        facts.came.misorientedEdges = bits & 2U ? 5 : 0;
        facts.came.shells = bits & 4U ? 3 : 1;
        facts.hasCracks = bits & 8U;
        facts.openLeft = bits & 16U ? 0.8 : 0.01;
        facts.came.boundaryEdges = bits & 32U ? 0 : 20;
        facts.ready = facts.came;
        auto names = namesOf(facts);
        EXPECT_FALSE(names.empty());
        std::sort(names.begin(), names.end());
        EXPECT_EQ(std::unique(names.begin(), names.end()), names.end()) << bits;
    }
}

// ---- scores and choice

Score score(std::size_t failing, double left = 0) {
    Score s;
    s.failing.unsound = failing;
    s.left = left;
    return s;
}

TEST(RepairChoice, WhatMayNotBeTakenIsWorseThanAnythingThatMay) {
    Score loses = score(0);
    loses.keepsAll = false;
    loses.lost = 0.84;
    EXPECT_TRUE(steps::isBetter(score(3), loses));
    Score worse = score(0);
    worse.anyWorse = true;
    EXPECT_TRUE(steps::isBetter(score(3), worse));
    steps::Score emptier = score(0);
    emptier.emptied = 2 * steps::Score::mostEmptied;
    EXPECT_TRUE(steps::isBetter(score(3), emptier));
    EXPECT_FALSE(emptier.isWhole());
    emptier.emptied = steps::Score::mostEmptied / 2;
    EXPECT_TRUE(emptier.isWhole());
    EXPECT_FALSE(loses.isWhole());
}

TEST(RepairChoice, FewerFailuresThenFewerSheetsThenLess) {
    EXPECT_TRUE(steps::isBetter(score(1, 500), score(2, 1)));
    Score sheets = score(0);
    sheets.sheets = 0.3;
    EXPECT_TRUE(steps::isBetter(score(0), sheets));
    EXPECT_FALSE(steps::isBetter(sheets, score(0)));
    EXPECT_TRUE(steps::isBetter(score(1, 1), score(1, 2)));
}

TEST(RepairChoice, TheFirstThatLeavesNothingEndsIt) {
    std::vector<TriedWay> tried{{Way{{Stage::Local}}, score(1, 5)}};
    EXPECT_FALSE(steps::isEnough(tried));
    tried.push_back({Way{{Stage::Enclose}}, score(0)});
    EXPECT_TRUE(steps::isEnough(tried));
    EXPECT_EQ(steps::bestOf(tried), 1U);
    // Much that was taken for sheets may bound a body in another way.
    tried.back().score.sheets = 0.5;
    EXPECT_FALSE(steps::isEnough(tried));
}

TEST(RepairChoice, WhereOnlyQuestionsAreLeftTheOtherWaysOfTellingFullFromEmptyAreNotTried) {
    Score asks = score(1, 40);
    asks.onlyQuestions = true;
    const std::vector<TriedWay> tried{{Way{{Stage::Stitch, Stage::Enclose}}, asks}};
    const RepairFacts facts = torn();
    EXPECT_FALSE(steps::isWorthTrying(Way{{Stage::Enclose}}, tried, facts));
    EXPECT_TRUE(steps::isWorthTrying(Way{{Stage::Local}}, tried, facts));
    RepairFacts heavy = facts;
    heavy.ready.selfIntersectingTriangles = 900;
    EXPECT_FALSE(steps::isWorthTrying(Way{{Stage::Local}}, tried, heavy));
}

// ---- time

TEST(RepairDeadline, StopsByTheClockAndTellsThatFromACancel) {
    steps::Deadline none(silent(), std::numeric_limits<double>::infinity());
    EXPECT_TRUE(none.report(0.5));
    EXPECT_FALSE(none.isLate());
    steps::Deadline over(silent(), 1e-9);
    std::this_thread::sleep_for(std::chrono::milliseconds(1));
    EXPECT_FALSE(over.report(0.5));
    EXPECT_TRUE(over.isOver());
    CancelAtTick cancelled(1);
    steps::Deadline stopped(cancelled, 1e-9);
    EXPECT_FALSE(stopped.report(0.5));
    EXPECT_FALSE(stopped.isOver());
}

// ---- on parts

check::SurveyedPtr shared(Mesh m) {
    return std::make_shared<const check::Surveyed>(std::move(m));
}

const Mesh& endOf(const check::SurveyedPtr& part, const steps::RepairResult& result) {
    return result.steps.empty() ? part->mesh() : result.steps.back().part->mesh();
}

Mesh repaired(const Mesh& m, steps::RepairOptions options = {}) {
    const auto part = shared(m);
    const auto result = steps::repairAutomatically(part, options, silent());
    EXPECT_TRUE(result);
    return result ? endOf(part, *result) : Mesh();
}

// Triangles come and go below: no names of regions go with them.
Mesh nameless(Mesh m) {
    m.regions.clear();
    m.regionNames.clear();
    return m;
}

// A solid as loose triangles, each corner a little off, some written twice and some collapsed.
Mesh looselyWritten(const Mesh& m, double by, std::uint64_t seed) {
    rig::Random random(seed);
    const double size = mesh::boxOf(m).diagonal();
    std::vector<std::array<Point, 3>> triangles;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) {
        std::array<Point, 3> corners{m.corner(t, 0), m.corner(t, 1), m.corner(t, 2)};
        for (Point& p : corners)
            for (int k = 0; k < 3; ++k) p[k] += by * size * (random.uniform() - 0.5);
        if (random.below(100) == 0) corners[1] = corners[0];
        triangles.push_back(corners);
        if (random.below(50) == 0) triangles.push_back(corners);
    }
    Mesh out = loose(triangles);
    mesh::joinEqualVertices(out);
    return out;
}

TEST(RepairSearch, ASolidWrittenAsLooseTrianglesWithNoiseIsMended) {
    const Mesh body = together(sphere(10, 30, 15), box(Point(20, 0, 0), Point(30, 10, 10)));
    const double volume = surveyed(body).mass.volume;
    for (const double noise : {1e-7, 2e-6, 1e-5}) {
        const auto s = surveyed(repaired(looselyWritten(body, noise, 77)));
        EXPECT_TRUE(s.solid) << noise;
        EXPECT_NEAR(s.mass.volume, volume, 1e-3 * volume) << noise;
    }
}

TEST(RepairSearch, OneFaceTwiceAndOneMissing) {
    Mesh m = box(Point(0, 0, 0), Point(10, 10, 10));
    m.triangles.push_back(m.triangles[0]);
    m.triangles.erase(m.triangles.begin() + 7);
    const auto s = surveyed(repaired(m));
    EXPECT_TRUE(s.solid);
    EXPECT_NEAR(s.mass.volume, 1000, 1e-9);
}

TEST(RepairSearch, OfWhatIsSolidNoPlaceIsLeft) {
    steps::DoneStep stitched;
    for (const auto kind : {steps::Listed::Left, steps::Listed::AsItCame, steps::Listed::Sheet})
        stitched.record.listed.push_back({kind});
    EXPECT_EQ(steps::whatIsLeft({}, false, {stitched}, {}).size(), 3U);
    const auto left = steps::whatIsLeft({}, true, {stitched}, {});
    ASSERT_EQ(left.size(), 1U);
    EXPECT_EQ(left[0].kind, steps::Listed::Sheet);
}

// ---- bodies within bodies

struct Nested {
    Mesh outer = box(Point(0, 0, 0), Point(10, 10, 10));
    Mesh middle = box(Point(2, 2, 2), Point(8, 8, 8));
    Mesh inner = box(Point(4, 4, 4), Point(6, 6, 6));
};

double volumeOf(const Mesh& m) {
    const auto s = surveyed(m);
    EXPECT_TRUE(s.solid);
    return s.mass.volume;
}

TEST(RepairSearch, WhatIsFullStaysFull) {
    const Nested n;
    EXPECT_NEAR(volumeOf(repaired(together(n.outer, n.middle))), 1000, 1e-9);
    EXPECT_NEAR(volumeOf(repaired(together(together(n.outer, n.middle), n.inner))), 1000, 1e-9);
    // Inside out as a whole: the same.
    EXPECT_NEAR(volumeOf(repaired(flipped(together(n.outer, n.middle)))), 1000, 1e-9);
    // A hollow body with a body in its void, as it is and inside out.
    const Mesh hollow = together(together(n.outer, flipped(n.middle)), n.inner);
    EXPECT_NEAR(volumeOf(repaired(hollow)), 1000 - 216 + 8, 1e-9);
    EXPECT_NEAR(volumeOf(repaired(flipped(hollow))), 1000 - 216 + 8, 1e-9);
    // One triangle missing in the outer skin changes nothing of it.
    Mesh torn = nameless(together(n.outer, n.middle));
    torn.triangles.erase(torn.triangles.begin());
    EXPECT_NEAR(volumeOf(repaired(torn)), 1000, 1e-6);
    // An inner one that is open, or crosses the skin.
    Mesh open = nameless(together(n.outer, n.middle));
    open.triangles.erase(open.triangles.begin() + 12);
    EXPECT_NEAR(volumeOf(repaired(open)), 1000, 1e-6);
    EXPECT_NEAR(volumeOf(repaired(together(n.outer, box(Point(5, 5, 5), Point(15, 6, 6))))), 1005, 1e-6);
}

TEST(RepairSearch, BuriedBodiesAreWhatAPersonSaysTheyAre) {
    const Nested n;
    const Mesh m = together(n.outer, n.middle);
    EXPECT_NEAR(volumeOf(repaired(m, {.buried = BuriedWay::Void})), 1000 - 216, 1e-9);
    const Mesh kept = repaired(m, {.buried = BuriedWay::Keep});
    EXPECT_EQ(surveyed(kept).counts.buriedShells, 1U);
    EXPECT_EQ(kept.triangles.size(), m.triangles.size());
}

// ---- sheets

// A box whose lid has come off by a hair, beside a ball.
Mesh boxWithASlitBesideABall() {
    Mesh b = box(Point(0, 0, 0), Point(10, 10, 10));
    Mesh soup;
    for (mesh::TriangleId t = 0; t < b.triangles.size(); ++t) {
        const bool lid = b.corner(t, 0).z() == 10 && b.corner(t, 1).z() == 10 && b.corner(t, 2).z() == 10;
        Mesh one = loose({{b.corner(t, 0), b.corner(t, 1), b.corner(t, 2)}});
        if (lid)
            for (Point& p : one.positions) p.z() += 0.04;
        mesh::append(soup, one);
    }
    mesh::joinEqualVertices(soup);
    return together(soup, mesh::moved(sphere(2, 20, 10), mesh::Motion{.shift = Point(20, 5, 5)}));
}

TEST(RepairSearch, NoAnswerForSheetsTakesABodyWithItsLidOff) {
    for (const SheetWay way : {SheetWay::Ask, SheetWay::Drop, SheetWay::Thicken}) {
        const auto s = surveyed(repaired(boxWithASlitBesideABall(), {.closeOpenings = true, .sheets = way}));
        EXPECT_TRUE(s.solid) << wordOf(way);
        EXPECT_NEAR(s.mass.volume, 1000 + 33, 8) << wordOf(way);
    }
}

// ---- surfaces that meet in seams

// Three rooms side by side that share their walls, open at both ends: 6 x 2 x 4 in all.
Mesh roomsInARow() {
    std::vector<std::array<Point, 3>> triangles;
    const auto wall = [&](const Point& corner, const Point& across, const Point& up, bool turned) {
        constexpr double step = 0.5;
        const auto cells = [](const Point& side) { return static_cast<int>(std::lround(side.norm() / step)); };
        for (int i = 0; i < cells(across); ++i)
            for (int j = 0; j < cells(up); ++j) {
                const auto at = [&](int di, int dj) {
                    return Point(corner + (i + di) * step * across.normalized() + (j + dj) * step * up.normalized());
                };
                const Point left = turned ? at(1, 0) : at(0, 1);
                const Point right = turned ? at(0, 1) : at(1, 0);
                triangles.push_back({at(0, 0), right, at(1, 1)});
                triangles.push_back({at(0, 0), at(1, 1), left});
            }
    };
    // What lies outside faces outwards.
    for (const double x : {0.0, 2.0, 4.0, 6.0}) wall(Point(x, 0, 0), Point(0, 2, 0), Point(0, 0, 4), x == 0);
    for (const double y : {0.0, 2.0}) wall(Point(0, y, 0), Point(6, 0, 0), Point(0, 0, 4), y == 2);
    Mesh m = loose(triangles);
    mesh::joinEqualVertices(m);
    return m;
}

TEST(RepairSearch, RoomsThatShareWallsAreFullWhateverIsMissing) {
    const steps::RepairOptions answered{.closeOpenings = true, .sheets = SheetWay::Drop};
    EXPECT_NEAR(volumeOf(repaired(roomsInARow(), answered)), 48, 1e-6);
    for (std::uint64_t seed = 1; seed <= 12; ++seed) {
        rig::Random random(seed);
        Mesh torn = roomsInARow();
        std::erase_if(torn.triangles, [&](const mesh::Triangle&) { return random.below(60) == 0; });
        for (const double noise : {0.0, 1e-7, 2e-6}) {
            const auto s = surveyed(repaired(noise > 0 ? looselyWritten(torn, noise, seed) : torn, answered));
            EXPECT_TRUE(s.solid) << seed << ' ' << noise;
            // A room is 16. Where the end of a wall is missing one patch covers two rooms and bulges.
            EXPECT_NEAR(s.mass.volume, 48, 2.5) << seed << ' ' << noise;
        }
    }
}

// ---- against what a person would try

// Steps with the values that they propose; openings are closed.
constexpr std::string_view sequences[] = {
    "clean",
    "stitch",
    "orient",
    "fill",
    "resolve",
    "fuse",
    "enclose",
    "settle",
    "clean fill",
    "clean orient",
    "clean stitch",
    "clean resolve",
    "clean enclose",
    "clean fuse",
    "stitch fill",
    "stitch orient",
    "stitch enclose",
    "orient fill",
    "orient fuse",
    "orient enclose",
    "resolve fill",
    "resolve orient",
    "fill orient",
    "fill fuse",
    "fuse settle",
    "clean stitch fill",
    "clean orient fill",
    "clean orient fuse",
    "clean stitch enclose",
    "clean resolve fill",
    "stitch orient fill",
    "stitch clean fill",
    "resolve orient fuse",
    "orient fill fuse",
    "clean stitch clean fill",
    "clean stitch orient fill",
    "clean stitch clean enclose",
    "clean resolve orient fill fuse",
    "clean stitch clean orient fill",
    "clean stitch clean orient fill fuse",
};
static_assert(std::size(sequences) == 40);

// A body with what exporters and modellers do to one, up to four things at once.
Mesh carelesslyExported(std::uint64_t seed) {
    rig::Random random(seed * 104'729 + 7);
    Mesh m = random.below(2) == 0 ? sphere(10, 16 + random.below(10), 9 + random.below(6))
                                  : box(Point(0, 0, 0), Point(10, 7 + random.uniform(), 5));
    if (random.below(3) == 0) m = together(m, box(Point(1, 1, 1), Point(2, 3, 2 + random.uniform())));
    if (random.below(3) == 0) m = together(m, box(Point(3, 3, 3), Point(14, 4, 4 + random.uniform())));
    m = nameless(std::move(m));
    if (random.below(3) == 0)
        for (std::size_t i = 0; i < 3; ++i) {
            mesh::Triangle& t = m.triangles[random.below(m.triangles.size())];
            std::swap(t[0], t[1]);
        }
    if (random.below(3) == 0) m.triangles.erase(m.triangles.begin() + static_cast<std::ptrdiff_t>(random.below(12)));
    if (random.below(3) == 0) m.triangles.push_back(m.triangles[random.below(m.triangles.size())]);
    if (random.below(2) == 0) m = looselyWritten(m, std::pow(10.0, -5.0 - 2 * random.uniform()), seed);
    if (random.below(6) == 0) m = flipped(m);
    return m;
}

// Solid, and nothing that can be seen is lost.
bool isMended(const check::SurveyedPtr& import, const check::SurveyedPtr& part,
              const std::vector<steps::DoneStep>& by) {
    const auto survey = part->survey({}, silent());
    if (!survey || !(*survey)->solid) return false;
    steps::SeenOfImport seen(import);
    const auto loss = seen.lossTo(*part, steps::toldBy(by), silent());
    return loss && measure::losesNothing(*loss);
}

bool mends(const check::SurveyedPtr& import, std::string_view sequence) {
    check::SurveyedPtr part = import;
    std::vector<steps::DoneStep> by;
    std::istringstream words{std::string(sequence)};
    for (std::string word; words >> word;) {
        if (word == "enclose") word = "enclose openings=close";
        auto done = steps::doStep(*steps::parseStepCall(word), part, mesh::Pick(), silent());
        if (!done) return false;
        part = done->part;
        by.push_back(std::move(*done));
    }
    return isMended(import, part, by);
}

TEST(RepairSearch, IsNeverWorseThanASequenceThatAPersonWouldTry) {
    for (std::uint64_t seed = 0; seed < seedsOf(12, 500); ++seed) {
        const auto import = shared(carelesslyExported(seed));
        const auto result = steps::repairAutomatically(import, {.closeOpenings = true}, silent());
        ASSERT_TRUE(result);
        const auto& end = result->steps.empty() ? import : result->steps.back().part;
        if (isMended(import, end, result->steps)) continue;
        for (const std::string_view sequence : sequences)
            EXPECT_FALSE(mends(import, sequence)) << "seed " << seed << ": " << sequence;
    }
}

// ---- the command line

TEST(RepairCalls, ExplainTellsWhichWaysWereTriedAndABudgetIsKept) {
    const TemporaryFolder folder;
    const std::string in = (folder / "in.stl").string();
    const std::string out = (folder / "out.stl").string();
    const Nested n;
    ASSERT_TRUE(io::writeSurface(together(n.outer, n.middle), in, {io::stlBinary}, silent()));
    const auto said =
        nlohmann::json::parse(callCli({"repair", in, "-o", out, "--json", "--explain", "--time-limit", "60"}).out);
    ASSERT_EQ(said["tried"].size(), 1U);
    EXPECT_EQ(said["tried"][0]["way"], "local steps");
    EXPECT_TRUE(said["tried"][0]["taken"].get<bool>());
    EXPECT_EQ(said["input"]["counts"]["buried_shells"], 1);
    EXPECT_TRUE(said["output"]["solid"].get<bool>());
    const auto hollowed = nlohmann::json::parse(callCli({"repair", in, "-o", out, "--json", "--buried", "void"}).out);
    EXPECT_NEAR(hollowed["output"]["volume"].get<double>(), 1000 - 216, 1e-6);
    // Time that is up before anything was tried leaves the part as it came, and says so.
    const auto late = nlohmann::json::parse(
        callCli({"repair", in, "-o", out, "--json", "--explain", "--time-limit", "0.0000001"}).out);
    EXPECT_TRUE(late["time_was_up"].get<bool>());
    EXPECT_EQ(late["output"]["counts"]["triangles"], 24);
    EXPECT_EQ(callCli({"repair", in, "-o", out, "--time-limit", "-1"}).code, 2);
}

}  // namespace
}  // namespace zither::tests
