// A part that moves as a whole: what it is compared with moves alike, so that nothing seems changed or lost; where it
// stands, and what fits where.
#include <fmt/format.h>

#include <Eigen/Geometry>
#include <cmath>
#include <nlohmann/json.hpp>
#include <numbers>

#include "check/catalogue.h"
#include "fit/fuse.h"
#include "io/surface_file.h"
#include "measure/footprint.h"
#include "measure/slope.h"
#include "measure/upright.h"
#include "mesh/motion.h"
#include "project/comparing.h"
#include "project/delivery.h"
#include "project/provenance.h"
#include "steps/automatic_repair.h"
#include "steps/call.h"
#include "steps/lost.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using measure::Flat;

std::vector<steps::DoneStep> done(const check::SurveyedPtr& part, const std::vector<std::string>& calls) {
    std::vector<steps::StepCall> parsed;
    for (const std::string& text : calls) parsed.push_back(*steps::parseStepCall(text));
    auto result = project::runSteps(part, parsed, {}, silent());
    EXPECT_TRUE(result) << (result ? "" : result.error().message);
    return result ? std::move(result.value()) : std::vector<steps::DoneStep>{};
}

std::string refusalOf(const check::SurveyedPtr& part, const std::string& text) {
    const auto call = steps::parseStepCall(text);
    if (!call) return call.error().message;
    const auto result = project::runSteps(part, {*call}, {}, silent());
    return result ? "done" : result.error().message;
}

Mesh afterStep(const Mesh& m, const std::string& text) {
    const auto steps = done(shared(m), {text});
    return steps.empty() ? Mesh() : steps.back().part->mesh();
}

project::Compared comparedWithImport(const check::SurveyedPtr& import, const std::vector<steps::DoneStep>& steps) {
    steps::Origin origin{std::make_shared<steps::SeenOfImport>(import)};
    for (const auto& s : steps) origin.follow(s.record);
    return *project::compare(*origin.seen->import(), *steps.back().part,
                             {.told = &origin.told, .seen = origin.seen.get()}, silent());
}

// A wedge of a table: nothing is alike along any two axes.
Mesh bracket() {
    Mesh m = box(Point(0, 0, 0), Point(8, 5, 1));
    mesh::append(m, box(Point(1, 1, 0.5), Point(2, 3, 7)));
    const auto fused = fit::fuse(m, mesh::Pick(), {}, silent());
    EXPECT_TRUE(fused);
    return fused.value().mesh;
}

// ---- motions

TEST(Motion, KeepsShapeNumbersAndOutside) {
    const Mesh m = bracket();
    const double volume = surveyed(m).mass.volume;
    mesh::Motion motion;
    motion.linear = 2 * measure::turnAbout(Point(1, 2, 3), 40);
    motion.linear.col(0) *= -1;
    motion.shift = Point(5, -6, 7);
    EXPECT_TRUE(motion.mirrors());
    EXPECT_NEAR(motion.scale(), 2, 1e-12);
    const Mesh moved = mesh::moved(m, motion);
    const check::Survey survey = surveyed(moved);
    EXPECT_NEAR(survey.mass.volume, 8 * volume, 1e-9);
    EXPECT_TRUE(survey.solid);
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) {
        EXPECT_EQ(mesh::sortedCorners(moved.triangles[t]), mesh::sortedCorners(m.triangles[t]));
        const Point normal = mesh::areaVector(moved, t).normalized();
        EXPECT_NEAR((normal - motion.turned(mesh::areaVector(m, t))).norm(), 0, 1e-9);
    }
    const mesh::Motion both = mesh::then(motion, motion);
    EXPECT_NEAR((both.of(Point(1, 1, 1)) - motion.of(motion.of(Point(1, 1, 1)))).norm(), 0, 1e-12);
    EXPECT_TRUE(mesh::Motion().isStill());
}

TEST(Motion, TurnsAboutAxesByRightAnglesAreExact) {
    for (const double angle : {90.0, -90.0, 180.0, 270.0, 360.0, 450.0})
        for (const Point& axis : {Point(1, 0, 0), Point(0, 1, 0), Point(0, 0, 1)})
            for (const auto turn = measure::turnAbout(axis, angle); const double entry : turn.reshaped())
                EXPECT_TRUE(entry == 0 || std::abs(entry) == 1) << angle << " " << entry;
    for (const Point& up : {Point(1, 0, 0), Point(0, -1, 0), Point(0, 0, -1), Point(0, 0, 1)})
        EXPECT_EQ(measure::uprightFor(up) * up, Point(0, 0, 1));
}

// ---- what a moved part is compared with

TEST(Motion, WhatOnlyMovesIsKeptAndNothingIsLost) {
    const auto import = shared(bracket());
    for (const std::string text : {"place axis=x angle=33", "scale factor=2.54", "mirror axis=y", "mirror at=origin",
                                   "place lie=flat to=origin", "place move=1000,2000,3000", "scale factor=0.001"}) {
        const auto steps = done(import, {text});
        const auto compared = comparedWithImport(import, steps);
        EXPECT_EQ(compared.distance.aToB.max, 0) << text;
        EXPECT_EQ(compared.distance.kept, 1) << text;
        EXPECT_EQ(compared.loss.lost, 0) << text;
        EXPECT_EQ(compared.loss.added, 0) << text;
        EXPECT_TRUE(surveyed(steps.back().part->mesh()).solid) << text;
        EXPECT_EQ(steps.back().used.size(), steps.back().call.step->parameters.size());
    }
}

// What is seen of an import that moved is what was seen of it: looked for on the moved one, it is the same.
TEST(Motion, WhatIsSeenMovesWithThePart) {
    Mesh m = bracket();
    mesh::append(m, box(Point(3, 3, 0.25), Point(4, 4, 0.75)));  // within, unseen
    const auto import = shared(m);
    const auto steps = done(import, {"place axis=y angle=20", "scale factor=3", "mirror",
                                     "drop-shells enclosed-only=yes size=100 triangles=100"});
    const auto compared = comparedWithImport(import, steps);
    const auto still = std::make_shared<steps::SeenOfImport>(import);
    auto seen = still;
    for (const auto& s : steps)
        if (s.record.motion) seen = std::make_shared<steps::SeenOfImport>(seen, *s.record.motion);
    const auto anew = steps::SeenOfImport(seen->import()).lossTo(*steps.back().part, {}, silent());
    ASSERT_TRUE(anew);
    EXPECT_NEAR(compared.loss.seenArea, anew->seenArea, 1e-3 * anew->seenArea);
    EXPECT_EQ(compared.loss.lost, 0);
    EXPECT_EQ(anew->lost, 0);
}

// A patch that was listed before the part moved is a listed patch still.
TEST(Motion, WhatWasToldMovesWithThePart) {
    const auto import = shared(without(sphere(), {5, 6, 90}));
    const auto steps = done(import, {"fill", "place axis=x angle=70", "scale factor=2"});
    const auto compared = comparedWithImport(import, steps);
    EXPECT_GT(compared.loss.added, 0);
    EXPECT_NEAR(compared.loss.addedListed, compared.loss.added, 1e-9);
    EXPECT_LT(compared.distance.aToB.max, 1e-9);
}

TEST(Motion, EachTriangleOfAMovedPartHasItsStop) {
    const auto import = shared(without(sphere(), {5, 6, 90}));
    const auto steps = done(import, {"fill", "place axis=x angle=70", "decimate percent=90", "mirror"});
    std::vector<project::PastSurface> stops{{import->shared()}};
    for (const auto& s : steps) stops.push_back({s.part->shared(), s.record.motion});
    const auto first = project::firstStopWith(steps.back().part->mesh(), stops);
    EXPECT_GT(std::count(first.begin(), first.end(), 0U), 300);
    EXPECT_GT(std::count(first.begin(), first.end(), 3U), 0);
    EXPECT_EQ(std::count(first.begin(), first.end(), 2U), 0);
    EXPECT_EQ(std::count(first.begin(), first.end(), 4U), 0);
    EXPECT_EQ(std::count(first.begin(), first.end(), 5U), 0);
}

// ---- solid in, solid out

// Far from the origin 32 bits hold a part so coarsely that it would cross itself.
TEST(Place, WhatIsSolidStaysSolidFarFromTheOrigin) {
    const Mesh m = sphere(1, 60, 30);
    ASSERT_TRUE(surveyed(m).solid);
    mesh::Mesh single = m;
    mesh::roundAndJoin(single, mesh::Precision::Single);
    const auto steps = done(shared(single), {"place move=400000,0,0"});
    ASSERT_EQ(steps.size(), 1U);
    const check::Survey survey = surveyed(steps.back().part->mesh());
    EXPECT_TRUE(survey.solid);
    EXPECT_TRUE(mesh::fitsPrecision(steps.back().part->mesh(), mesh::Precision::Single));
    const auto& said = steps.back().record.sentences;
    EXPECT_TRUE(std::any_of(said.begin(), said.end(),
                            [](const std::string& s) { return s.find("32 bits") != std::string::npos; }));
    EXPECT_GT(steps.back().record.number("rounded_by").value(), 0.001);
}

TEST(Place, RandomMotionsKeepSoundnessAndVolume) {
    for (std::uint64_t seed = 0; seed < seedsOf(12, 200); ++seed) {
        rig::Random random(seed);
        Mesh single = bracket();
        mesh::roundAndJoin(single, mesh::Precision::Single);
        const auto number = [&](double low, double high) { return low + (high - low) * random.uniform(); };
        const double factor = std::exp(number(-4, 4));
        const std::vector<std::string> calls{
            fmt::format("place axis={} angle={} to={}", "xyz"[random.below(3)], number(-360, 360),
                        random.below(2) ? "floor" : "stay"),
            fmt::format("scale factor={}", factor), fmt::format("mirror axis={}", "xyz"[random.below(3)]),
            fmt::format("place up={},{},{} move={},0,1", number(-1, 1), number(-1, 1), number(-1, 1), number(-9, 9))};
        const auto import = shared(single);
        const auto steps = done(import, calls);
        ASSERT_EQ(steps.size(), 4U);
        const check::Survey survey = surveyed(steps.back().part->mesh());
        EXPECT_TRUE(survey.solid) << seed;
        EXPECT_NEAR(survey.mass.volume / surveyed(single).mass.volume, factor * factor * factor,
                    1e-5 * factor * factor * factor)
            << seed;
        EXPECT_EQ(comparedWithImport(import, steps).distance.kept, 1) << seed;
    }
}

// In a part that is broken already nothing is mended; what gets worse is said.
TEST(Place, WhatGetsWorseInABrokenPartIsSaid) {
    Mesh m = box(Point(0, 0, 0), Point(1, 1, 1));
    mesh::append(m, box(Point(1.0001, 0, 0), Point(2, 1, 1)));
    mesh::roundAndJoin(m, mesh::Precision::Single);
    const auto part = shared(without(m, {11}));
    const auto steps = done(part, {"place move=100000,0,0"});
    ASSERT_EQ(steps.size(), 1U);
    EXPECT_EQ(surveyed(part->mesh()).counts.selfIntersectingPairs, 0U);
    EXPECT_GT(surveyed(steps[0].part->mesh()).counts.selfIntersectingPairs, 0U);
    const auto& said = steps[0].record.sentences;
    EXPECT_TRUE(std::any_of(said.begin(), said.end(),
                            [](const std::string& s) { return s.find("than before") != std::string::npos; }));
}

// ---- scale

TEST(Scale, ToASizeAVolumeAUnitAndABox) {
    const Mesh m = box(Point(1, 2, 3), Point(3, 8, 7));
    const auto extent = [&](const std::string& text) { return mesh::boxOf(afterStep(m, text)).extent(); };
    EXPECT_NEAR((extent("scale factor=2") - Point(4, 12, 8)).norm(), 0, 1e-12);
    EXPECT_NEAR(extent("scale size=100").z(), 100, 1e-5);
    EXPECT_NEAR(extent("scale size=3 axis=y").y(), 3, 1e-6);
    EXPECT_NEAR(surveyed(afterStep(m, "scale volume=1000")).mass.volume, 1000, 1e-3);
    EXPECT_NEAR(extent("scale from=in to=mm").x(), 2 * 25.4, 1e-5);
    EXPECT_NEAR(extent("scale from=mm to=m").x(), 0.002, 1e-9);
    EXPECT_NEAR((extent("scale fit=10,10,10") - Point(10.0 / 3, 10, 20.0 / 3)).norm(), 0, 1e-5);
    EXPECT_NEAR((mesh::boxOf(afterStep(m, "scale factor=3 about=middle")).centre() - Point(2, 5, 5)).norm(), 0, 1e-12);
    EXPECT_NEAR((mesh::boxOf(afterStep(m, "scale factor=3")).min - Point(3, 6, 9)).norm(), 0, 1e-12);
}

TEST(Scale, SaysWhatIsWrong) {
    const auto part = shared(unitBox());
    EXPECT_NE(refusalOf(part, "scale factor=2 size=3").find("say one of"), std::string::npos);
    EXPECT_NE(refusalOf(shared(without(unitBox(), {0})), "scale volume=3").find("closed"), std::string::npos);
    EXPECT_NE(refusalOf(part, "scale fit=1,0,2").find("above 0"), std::string::npos);
    EXPECT_NE(refusalOf(part, "scale factor=0").find("factor"), std::string::npos);
    EXPECT_NE(refusalOf(part, "scale factor=2 pick=shell:0").find("moves as one"), std::string::npos);
    EXPECT_EQ(refusalOf(part, "scale"), "done");
    EXPECT_FALSE(done(part, {"scale"}).back().record.motion);
    const Mesh flat = loose({{Point(0, 0, 0), Point(1, 0, 0), Point(0, 1, 0)}});
    EXPECT_NE(refusalOf(shared(flat), "scale size=3").find("no extent"), std::string::npos);
    Mesh huge = unitBox();
    for (Point& p : huge.positions) p *= std::ldexp(1.0, 126);
    EXPECT_NE(refusalOf(shared(huge), "scale factor=100").find("larger than"), std::string::npos);
    EXPECT_EQ(refusalOf(shared(Mesh()), "scale factor=2"), "done");
    EXPECT_EQ(refusalOf(shared(Mesh()), "place lie=least-overhang"), "done");
}

// ---- standing

TEST(Place, LiesOnItsLargestFlatFaceThatIsOutermost) {
    Mesh m = bracket();
    const auto base = measure::largestBase(m);
    ASSERT_TRUE(base);
    EXPECT_NEAR((base->down - Point(0, 0, -1)).norm(), 0, 1e-9);
    EXPECT_NEAR(base->area, 40, 1e-9);
    EXPECT_TRUE(base->steady);
    const Mesh tilted = mesh::moved(m, {measure::turnAbout(Point(3, 1, 2), 123)});
    const Mesh stands = afterStep(tilted, "place lie=flat to=floor");
    EXPECT_NEAR(mesh::boxOf(stands).extent().z(), 7, 1e-9);
    EXPECT_NEAR(mesh::boxOf(stands).min.z(), 0, 1e-9);
    // Upside down the largest face is inside what reaches beyond it: it stands on what is outermost.
    const Mesh turned = mesh::moved(m, {measure::turnAbout(Point(1, 0, 0), 180)});
    EXPECT_NEAR(mesh::boxOf(afterStep(turned, "place lie=flat")).extent().z(), 7, 1e-9);
    // A leaning column would tip over on its foot, and lies down.
    Mesh leaning = box(Point(0, 0, 0), Point(2, 2, 9));
    for (Point& p : leaning.positions) p.x() += p.z();
    const auto side = measure::largestBase(leaning);
    ASSERT_TRUE(side);
    EXPECT_TRUE(side->steady);
    EXPECT_GT(std::abs(side->down.y()) + std::abs(side->down.x()), 0.5);
    EXPECT_FALSE(measure::largestBase(Mesh()));
}

TEST(Place, TurnsAndMovesInTheOrderThatItSays) {
    const Mesh m = box(Point(10, 20, 30), Point(12, 26, 34));
    const mesh::Box turned = mesh::boxOf(afterStep(m, "place axis=x angle=90"));
    EXPECT_EQ(turned.extent(), Point(2, 4, 6));
    EXPECT_EQ(turned.centre(), Point(11, 23, 32));
    EXPECT_EQ(mesh::boxOf(afterStep(m, "place to=floor")).min, Point(10, 20, 0));
    const mesh::Box middle = mesh::boxOf(afterStep(m, "place to=origin move=1,2,3"));
    EXPECT_EQ(middle.min, Point(0, -1, 3));
    EXPECT_EQ(mesh::boxOf(afterStep(m, "place up=0,1,0")).extent(), Point(2, 4, 6));
    EXPECT_NE(refusalOf(shared(m), "place up=0,1,0 lie=flat").find("one of"), std::string::npos);
    EXPECT_NE(refusalOf(shared(m), "place fit=1,1,1").find("does not fit"), std::string::npos);
    EXPECT_EQ(mesh::boxOf(afterStep(m, "place fit=6,2,4")).extent(), Point(6, 2, 4));
}

// The hull of random points has all of them within, and no corner that is not one of them; turning agrees with trying
// every tenth of a degree.
TEST(Footprint, AgreesWithTryingAllAngles) {
    for (std::uint64_t seed = 0; seed < seedsOf(60, 2000); ++seed) {
        rig::Random random(seed);
        std::vector<Flat> points;
        const std::size_t count = 1 + random.below(40);
        for (std::size_t i = 0; i < count; ++i)
            points.emplace_back(static_cast<double>(random.below(12)), static_cast<double>(random.below(7)));
        const auto hull = measure::convexHull(points);
        for (const Flat& p : hull) EXPECT_NE(std::find(points.begin(), points.end(), p), points.end());
        if (hull.size() >= 3) {
            for (const Flat& p : points) EXPECT_TRUE(measure::isWithin(hull, p)) << seed;
        }
        const double width = 4 + static_cast<double>(random.below(8));
        const double depth = 2 + static_cast<double>(random.below(8));
        const auto fitsAt = [&](double angle, double slack) {
            Flat low = Flat::Constant(1e300);
            Flat high = -low;
            for (const Flat& p : points) {
                const Flat q = Eigen::Rotation2Dd(angle) * p;
                low = low.cwiseMin(q);
                high = high.cwiseMax(q);
            }
            return high.x() - low.x() <= width + slack && high.y() - low.y() <= depth + slack;
        };
        const auto turn = measure::turnToFit(hull, width, depth);
        if (turn) {
            EXPECT_TRUE(fitsAt(*turn, 1e-6)) << seed;
        } else {
            for (int i = 0; i < 1800; ++i)
                EXPECT_FALSE(fitsAt(i * std::numbers::pi / 1800, -1e-3)) << seed << " at " << i / 10.0;
        }
    }
}

double overhangArea(const Mesh& m, const Point& up) {
    const measure::Overhangs overhangs(m, up, 45);
    double area = 0;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        if (overhangs.has(t)) area += 0.5 * mesh::areaVector(m, t).norm();
    return area;
}

TEST(LeastOverhang, IsAsGoodAsTryingManyDirections) {
    for (std::uint64_t seed = 0; seed < seedsOf(6, 60); ++seed) {
        rig::Random random(seed);
        Mesh m;
        for (int i = 0; i < 4; ++i) {
            const Point low(static_cast<double>(random.below(6)), static_cast<double>(random.below(6)),
                            static_cast<double>(random.below(6)));
            mesh::append(m, box(low, low + Point(1.5 + static_cast<double>(random.below(4)),
                                                 1.5 + static_cast<double>(random.below(4)),
                                                 1.5 + static_cast<double>(random.below(3)))));
        }
        m = fit::fuse(m, mesh::Pick(), {}, silent())->mesh;
        m = mesh::moved(m, {measure::turnAbout(Point(random.uniform(), random.uniform(), 1), 360 * random.uniform())});
        const auto found = measure::leastOverhang(m, {}, silent());
        ASSERT_TRUE(found && *found);
        EXPECT_NEAR(overhangArea(m, (*found)->up), (*found)->overhang, 1e-9);
        double least = std::numeric_limits<double>::infinity();
        for (int i = 0; i < 3000; ++i) {
            const Point way = Point(random.uniform() - 0.5, random.uniform() - 0.5, random.uniform() - 0.5);
            if (way.norm() > 0.05) least = std::min(least, overhangArea(m, way.normalized()));
        }
        EXPECT_LE((*found)->overhang, least + 0.01 * surveyed(m).mass.area) << seed;
    }
}

TEST(LeastOverhang, TurnsATableOverAndKeepsWhatStandsWell) {
    // Its plate hangs over; upside down nothing does.
    Mesh table = box(Point(-5, -5, 6), Point(5, 5, 7));
    mesh::append(table, box(Point(-1, -1, 0), Point(1, 1, 6.5)));
    table = fit::fuse(table, mesh::Pick(), {}, silent())->mesh;
    const auto steps = done(shared(table), {"place lie=least-overhang to=floor"});
    ASSERT_EQ(steps.size(), 1U);
    EXPECT_NEAR(steps[0].record.number("overhang_before").value(), 96, 1e-9);
    EXPECT_EQ(steps[0].record.number("overhang_after").value(), 0);
    EXPECT_EQ(mesh::boxOf(steps[0].part->mesh()).extent().z(), 7);
    // Once more nothing is to be saved: it stays.
    EXPECT_EQ(done(steps[0].part, {"place lie=least-overhang"})[0].part, steps[0].part);
    // A low room leaves it no way but on its side.
    const Mesh low = afterStep(table, "place lie=least-overhang fit=12,12,12");
    EXPECT_EQ(mesh::boxOf(low).extent().z(), 7);
    EXPECT_NE(refusalOf(shared(table), "place lie=least-overhang fit=20,20,5").find("does not fit"), std::string::npos);
    const auto narrow = measure::leastOverhang(table, {45, Point(11, 7.5, 11)}, silent());
    ASSERT_TRUE(narrow && *narrow);
    EXPECT_LT(std::abs((*narrow)->up.z()), 0.8);
    CancelAtTick cancel(3);
    EXPECT_TRUE(measure::leastOverhang(table, {}, cancel).error().cancelled());
}

// ---- what a brief asks, in the unit of a part

TEST(Build, APartIsOutsideByWhatItIsTooLong) {
    check::SurveyOptions options;
    options.build = {{10, 10, 10}, {3, 3, 20}};
    const auto outside = [&](const Mesh& m) {
        return check::outsideBuild.limited.value(*(*check::Surveyed(m).survey(options, silent())));
    };
    EXPECT_EQ(outside(box(Point(5, 5, 5), Point(15, 15, 15))), 0);
    EXPECT_EQ(outside(box(Point(0, 0, 0), Point(3, 3, 19))), 0);
    EXPECT_EQ(outside(box(Point(0, 0, 0), Point(4, 4, 19))), 1);
    EXPECT_EQ(outside(box(Point(0, 0, 0), Point(12, 9, 9))), 2);
    options.up = {1, 0, 0};
    EXPECT_EQ(outside(box(Point(0, 0, 0), Point(19, 3, 3))), 0);
    const auto survey = *check::Surveyed(box(Point(0, 0, 0), Point(12, 9, 9))).survey(options, silent());
    EXPECT_FALSE(survey->findings.list.empty());
    check::Segments lines;
    const Mesh part = box(Point(0, 0, 0), Point(12, 9, 9));
    check::outsideBuild.draw({part, *survey, 1000}, check::outsideBuild, lines);
    EXPECT_GE(lines.size(), 24U);
    EXPECT_TRUE(std::isnan(check::outsideBuild.limited.value(surveyed(unitBox()))));
}

TEST(Brief, LengthsAreMillimetres) {
    const steps::Brief& print = steps::builtInBriefs().front();
    const check::SurveyOptions inch = print.inUnit(25.4).surveyOptions();
    EXPECT_NEAR(inch.wall, 0.8 / 25.4, 1e-15);
    EXPECT_NEAR(inch.build.at(0)[2], 250 / 25.4, 1e-12);
    EXPECT_EQ(inch.slopeDeg, 45);
    EXPECT_EQ(print.inUnit(0).surveyOptions(), print.surveyOptions());
    const auto own = steps::parseBrief(
        nlohmann::ordered_json::parse(
            R"({"zither": 1, "build": [[100, 200, 300]], "requirements": {"outside_build": 0, "overhang_area": 50}})"),
        "own.json");
    ASSERT_TRUE(own) << own.error().message;
    EXPECT_NEAR(*own->inUnit(10).requirements[1].limit, 0.5, 1e-12);
    EXPECT_EQ(own->surveyOptions().build.size(), 1U);
    EXPECT_TRUE(own->repairOptions().build.empty());
    for (const char* wrong : {R"({"zither": 1, "requirements": {"outside_build": 0}})",
                              R"({"zither": 1, "build": [[1, 2]], "requirements": {}})",
                              R"({"zither": 1, "build": [[1, 2, 0]], "requirements": {}})",
                              R"({"zither": 1, "build": [], "requirements": {}})"})
        EXPECT_FALSE(steps::parseBrief(nlohmann::ordered_json::parse(wrong), "own.json")) << wrong;
}

// A file that says its unit is judged in it.
TEST(Brief, AFileInInchesIsJudgedInInches) {
    TemporaryFolder folder;
    const auto file = folder / "plate.3mf";
    // Half an inch is more than 0.8 mm; a file without a unit would have a thin wall.
    const Mesh plate = box(Point(0, 0, 0), Point(9, 9, 0.5));
    ASSERT_TRUE(io::writeSurface(plate, file, {*io::formatForWriting(file), "in"}, silent()));
    const auto judged = project::readAndJudge(file, steps::builtInBriefs().front(), silent());
    ASSERT_TRUE(judged);
    EXPECT_EQ(judged->surface.unit, "in");
    EXPECT_TRUE(judged->verdict.allMet());
    EXPECT_EQ(check::thinWalls.limited.value(*judged->survey), 0);
    EXPECT_EQ(surveyed(plate).solid, true);
    const auto large = folder / "large.3mf";
    ASSERT_TRUE(
        io::writeSurface(box(Point(0, 0, 0), Point(11, 9, 9)), large, {*io::formatForWriting(large), "in"}, silent()));
    const auto tooLarge = project::readAndJudge(large, steps::builtInBriefs().front(), silent());
    ASSERT_TRUE(tooLarge);
    EXPECT_NEAR(check::outsideBuild.limited.value(*tooLarge->survey), 11 - 250 / 25.4, 1e-9);
    EXPECT_FALSE(tooLarge->verdict.allMet());
}

}  // namespace
}  // namespace zither::tests
