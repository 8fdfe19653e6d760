// What is known in one place: classes of defects, formats, requirements; and that a surface is surveyed once.
#include <gtest/gtest.h>

#include <regex>
#include <set>

#include "check/catalogue.h"
#include "io/surface_file.h"
#include "project/delivery.h"
#include "steps/all_steps.h"
#include "steps/automatic_repair.h"
#include "steps/call.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;

// ---- classes of defects

TEST(DefectClasses, EachIsFoundLimitedNamedAndDrawnApartFromTheOthers) {
    std::set<std::string_view> keys;
    std::set<std::string_view> ids;
    std::set<std::string_view> names;
    for (const check::DefectClass defect : check::catalogue()) {
        EXPECT_TRUE(keys.insert(defect->key).second) << std::string_view(defect->key);
        EXPECT_TRUE(ids.insert(defect->limited.id).second) << std::string_view(defect->limited.id);
        EXPECT_TRUE(names.insert(defect->name).second) << std::string_view(defect->name);
        EXPECT_GT(defect->glyph.strokeCount + defect->glyph.circleCount, 0U);
        EXPECT_EQ(check::catalogue()[check::indexOf(defect)], defect);
        EXPECT_EQ(steps::measureOf(defect).marks, defect);
        EXPECT_EQ(steps::findMeasure(defect->limited.id), &steps::measureOf(defect));
        // What a limit sets can be read back, for picks that name it.
        EXPECT_EQ(defect->limited.listen == nullptr, defect->limited.listened == nullptr);
        if (!defect->limited.listen) continue;
        check::SurveyOptions options;
        defect->limited.listen(options, 7);
        EXPECT_EQ(defect->limited.listened(options), 7);
        EXPECT_TRUE(defect->byOptions);
    }
}

// The files of the room are read: a descriptor that nobody put into the catalogue would never be looked for.
TEST(DefectClasses, EveryDescriptorOfTheSourcesStandsInTheCatalogue) {
    std::set<std::string> described;
    const std::regex definition("constinit const DefectDescriptor (\\w+) =");
    std::size_t found = 0;
    for (const auto& entry : std::filesystem::directory_iterator(std::string(ZITHER_SOURCE) + "/src/check")) {
        const std::string text = *io::readBytes(entry.path());
        for (std::sregex_iterator it(text.begin(), text.end(), definition), end; it != end; ++it) {
            described.insert((*it)[1]);
            ++found;
        }
    }
    EXPECT_EQ(found, described.size());
    EXPECT_EQ(found, check::catalogue().size());
}

TEST(DefectClasses, EveryFindingCanBeDrawn) {
    for (const auto& [name, m] : uglyMeshes()) {
        SCOPED_TRACE(name);
        const check::Survey survey = surveyed(m);
        for (const check::DefectClass defect : check::catalogue()) {
            check::Segments segments;
            constexpr std::size_t most = 20;
            defect->draw({m, survey, most}, defect, segments);
            EXPECT_EQ(segments.size() % 2, 0U);
            EXPECT_LE(segments.size(), 2 * (most + 1) + 6 * m.triangles.size());
            for (const Point& p : segments) EXPECT_TRUE(p.allFinite());
        }
    }
}

// ---- formats

TEST(Formats, EachIsNamedOnceAndReadsWhatItWrites) {
    std::set<std::string_view> names;
    std::set<std::string_view> extensions;
    for (const io::Format& format : io::formats()) {
        EXPECT_TRUE(names.insert(format.name).second);
        EXPECT_FALSE(format.title.empty());
        ASSERT_NE(format.write, nullptr) << format.name;
        EXPECT_EQ(format.recognises == nullptr, format.read == nullptr) << format.name;
        if (format.extension.empty()) continue;
        EXPECT_TRUE(extensions.insert(format.extension).second);
        EXPECT_FALSE(format.written.empty()) << format.name;
        EXPECT_EQ(io::formatForWriting("part" + std::string(format.extension)), &format);
    }
    EXPECT_EQ(io::formatTitles(), "3MF, PLY, OFF, STL or OBJ");
    EXPECT_EQ(io::formatForWriting("part"), nullptr);
}

TEST(Formats, WhatWillNotBeHeldIsSaid) {
    Mesh m = together(unitBox(), box(Point(3, 0, 0), Point(4, 1, 1)));
    m.regionNames = {"inlet", "wall"};
    m.regions.assign(m.triangles.size(), 0);
    EXPECT_EQ(io::lossesOf(m, {io::stlBinary, "mm"}),
              (std::vector<std::string>{"the names of its 2 regions", "the unit mm"}));
    EXPECT_EQ(io::lossesOf(m, {io::obj, ""}), std::vector<std::string>{});
    EXPECT_EQ(io::lossesOf(m, {io::threeMf, "mm"}), std::vector<std::string>{});
}

// ---- surveyed once

TEST(Surveyed, MakesEachThingOnceAndTheSameForAll) {
    const auto part = shared(without(sphere(), {5, 6}));
    const std::uint64_t before = check::Surveyed::surveysMade();
    const auto first = *part->survey({}, silent());
    EXPECT_EQ(part->known(), first);
    EXPECT_EQ(*part->survey({}, silent()), first);
    EXPECT_EQ(&part->tree(), &part->tree());
    EXPECT_EQ(&part->edges(), &part->edges());
    // Another limit runs only what depends on it.
    const auto finer = *part->survey({.sliverAngleDeg = 20}, silent());
    EXPECT_EQ(check::Surveyed::surveysMade(), before + 1);
    const auto fresh = *shared(part->mesh())->survey({.sliverAngleDeg = 20}, silent());
    EXPECT_EQ(finer->counts, fresh->counts);
    ASSERT_EQ(finer->findings.list.size(), fresh->findings.list.size());
    for (std::size_t i = 0; i < finer->findings.list.size(); ++i) {
        EXPECT_EQ(finer->findings.list[i].defect, fresh->findings.list[i].defect);
        EXPECT_EQ(finer->findings.list[i].position, fresh->findings.list[i].position);
        EXPECT_TRUE(std::ranges::equal(finer->findings.trianglesOf(finer->findings.list[i]),
                                       fresh->findings.trianglesOf(fresh->findings.list[i])));
    }
    // A light one still knows its survey.
    EXPECT_EQ(part->light()->known(), finer);
    EXPECT_EQ(part->light()->shared(), part->shared());
}

// Sparing memory, what the checks made is given back on the way: what they find is the same.
TEST(Surveyed, SparingMemoryFindsTheSame) {
    check::SurveyOptions options;
    options.wall = 0.5;
    options.slopeDeg = 45;
    for (const Mesh& m :
         {together(sphere(10, 40, 30), flipped(sphere(9.8, 40, 30))), without(sphere(), {5, 6}), Mesh()}) {
        const auto held = std::make_shared<const Mesh>(m);
        const check::Surveyed sparing(held, check::Surveyed::Spares::Memory);
        const auto spared = sparing.survey(options, silent());
        const auto plain = shared(m)->survey(options, silent());
        ASSERT_TRUE(spared);
        EXPECT_EQ((*spared)->counts, (*plain)->counts);
        ASSERT_EQ((*spared)->findings.list.size(), (*plain)->findings.list.size());
        EXPECT_EQ((*spared)->findings.triangles, (*plain)->findings.triangles);
        EXPECT_EQ((*spared)->findings.edges, (*plain)->findings.edges);
        // What is asked for after that is made again.
        const std::size_t edges = sparing.edges().count();
        sparing.forgetAllButRays();
        EXPECT_EQ(sparing.edges().count(), edges);
        EXPECT_EQ(sparing.tree().order(), shared(m)->tree().order());
        const bool blocked = sparing.rays().blocks(Point(0, 0, 0), Point(0, 0, 1));
        sparing.forgetRays();
        EXPECT_EQ(sparing.rays().blocks(Point(0, 0, 0), Point(0, 0, 1)), blocked);
    }
}

TEST(Surveyed, ACancelledSurveyIsMadeAnew) {
    const auto part = shared(sphere());
    CancelAtTick progress(2);
    EXPECT_TRUE(part->survey({}, progress).error().cancelled());
    EXPECT_EQ(part->known(), nullptr);
    EXPECT_TRUE(part->survey({}, silent()));
}

TEST(Surveyed, NoSurfaceIsSurveyedTwice) {
    const TemporaryFolder folder;
    const auto file = folder / "part.stl";
    Mesh m = without(sphere(10, 40, 30), {100, 101, 102, 700});
    for (std::size_t t = 300; t < 340; ++t) std::swap(m.triangles[t][1], m.triangles[t][2]);
    m.triangles.push_back(m.triangles[50]);
    ASSERT_TRUE(io::writeSurface(m, file, {io::stlBinary}, silent()));
    const auto& brief = steps::builtInBriefs().front();
    const std::uint64_t before = check::Surveyed::surveysMade();
    const auto input = project::readAndJudge(file, brief, silent());
    const auto repaired = steps::repairAutomatically(input->part, {.brief = brief}, silent());
    ASSERT_FALSE(repaired->steps.empty());
    const auto output = project::writeAndProve(*repaired->steps.back().part, {folder / "mended.stl"}, brief, silent());
    ASSERT_TRUE(output);
    // The import and each step's result; the file holds the last one bit for bit, which is known then. Picking the
    // places of a requirement and settling before writing look at surfaces that are known.
    EXPECT_LE(check::Surveyed::surveysMade() - before, 1 + repaired->steps.size());
    const std::uint64_t after = check::Surveyed::surveysMade();
    static_cast<void>(steps::pickFromText("boundary_edges", *input->part, silent()));
    static_cast<void>(steps::runStep({&steps::settleStep()}, output->part, Pick(), silent()));
    EXPECT_EQ(check::Surveyed::surveysMade(), after);
}

}  // namespace
}  // namespace zither::tests
