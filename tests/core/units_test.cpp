// Lengths of two files that meet: what is said of them, and that numbers of one unit never stand for another's.
#include <fstream>
#include <nlohmann/json.hpp>

#include "io/surface_file.h"
#include "io/units.h"
#include "project/job.h"
#include "steps/units_met.h"
#include "tests/core/cli_call.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

namespace fs = std::filesystem;
using nlohmann::json;

class Units : public ::testing::Test {
protected:
    std::string write(const std::string& name, const Mesh& m, std::string_view unit = {}) {
        const fs::path file = folder / name;
        EXPECT_TRUE(io::writeSurface(m, file, {*io::formatForWriting(file), unit}, silent()));
        return file.string();
    }
    [[nodiscard]] std::string at(const std::string& name) const { return (folder / name).string(); }
    // Limits may be met or not: what counts is what is written.
    json run(std::vector<std::string> arguments) {
        arguments.emplace_back("--json");
        const Called called = callCli(arguments);
        EXPECT_LE(called.code, 1) << called.err;
        return called.out.empty() ? json() : json::parse(called.out);
    }

    TemporaryFolder folder;
};

TEST(UnitTable, AFactorIsRoundedOnceAndUnknownUnitsHaveNone) {
    EXPECT_EQ(io::unitFactor("in", "mm"), 25.4);
    EXPECT_EQ(io::unitFactor("mm", "in"), 1 / 25.4);
    EXPECT_EQ(io::unitFactor("ft", "in"), 12);
    EXPECT_EQ(io::unitFactor("um", "mm"), 0.001);
    EXPECT_EQ(io::unitFactor("furlong", "mm"), 0);
    EXPECT_EQ(io::unitFactor("mm", ""), 0);
    for (const std::string_view unit : io::unitNames()) EXPECT_GT(io::millimetresIn(unit), 0) << unit;
}

TEST(UnitTable, WhatIsSaidWhereUnitsMeet) {
    using steps::unitsMet;
    EXPECT_EQ(unitsMet({"a", "mm"}, {"b", "mm"}).said, "");
    EXPECT_EQ(unitsMet({"a", ""}, {"b", ""}).said, "");
    EXPECT_EQ(unitsMet({"a", "mm"}, {"b", ""}).said, "b carries no unit: its numbers are taken as mm, the unit of a.");
    EXPECT_EQ(unitsMet({"a", ""}, {"b", "in"}).said, "a carries no unit: its numbers are taken as in, the unit of b.");
    const auto met = unitsMet({"a", "mm"}, {"b", "in"});
    EXPECT_EQ(met.factor, 25.4);
    EXPECT_EQ(met.said, "Lengths of b were converted from in to mm, the unit of a: times 25.4.");
}

// A tool of 5 mm cuts a hole of 5 mm into a cube of an inch.
TEST_F(Units, AToolInMillimetresCutsACubeInInches) {
    const std::string cube = write("cube.3mf", box(Point(0, 0, 0), Point(1, 1, 1)), "in");
    const std::string tool = write("tool.3mf", box(Point(10, 10, -5), Point(15, 15, 50)), "mm");
    const json cut = run({"run", cube, "-o", at("cut.3mf"), "--step", "subtract with=" + tool});
    EXPECT_EQ(cut["output"]["unit"], "in");
    EXPECT_NEAR(cut["output"]["volume"].get<double>(), 1 - 25 / (25.4 * 25.4), 1e-9);
    EXPECT_NE(cut["steps"][0]["said"][0].get<std::string>().find("converted from mm to in"), std::string::npos);
    for (const std::string step : {"fuse with=", "intersect with=", "join with=", "align way=box with="}) {
        const json done = run({"run", cube, "-o", at("o.3mf"), "--step", step + tool});
        ASSERT_TRUE(done.contains("steps")) << step;
        EXPECT_NE(done["steps"][0]["said"][0].get<std::string>().find("converted from mm to in"), std::string::npos)
            << step;
        EXPECT_LT(done["output"]["size"]["max"][0].get<double>(), 1.1) << step;
    }
}

TEST_F(Units, ComparisonsConvertAndSayWhereOnlyOneKnows) {
    const std::string inches = write("a.3mf", box(Point(0, 0, 0), Point(1, 1, 1)), "in");
    const std::string same = write("b.3mf", box(Point(0, 0, 0), Point(25.4, 25.4, 25.4)), "mm");
    const json alike = run({"compare", inches, same});
    EXPECT_LT(alike["a_to_b_max"].get<double>(), 1e-9);
    EXPECT_NEAR(alike["volume_b"].get<double>(), 1, 1e-9);
    EXPECT_EQ(alike["unit"], "in");
    EXPECT_NE(alike["said"].get<std::string>().find("converted"), std::string::npos);
    const std::string plain = write("c.obj", box(Point(0, 0, 0), Point(1, 1, 1)));
    const json taken = run({"compare", inches, plain});
    EXPECT_EQ(taken["a_to_b_max"], 0);
    EXPECT_NE(taken["said"].get<std::string>().find("carries no unit"), std::string::npos);
    EXPECT_FALSE(run({"compare", plain, plain}).contains("said"));
}

TEST_F(Units, ScaleChangesTheUnitWithTheNumbersExactly) {
    const std::string inches = write("a.3mf", box(Point(0, 0, 0), Point(6, 1, 1)), "in");
    const json scaled = run({"run", inches, "-o", at("b.3mf"), "--step", "scale from=in to=mm"});
    EXPECT_EQ(scaled["output"]["unit"], "mm");
    EXPECT_EQ(scaled["output"]["size"]["max"], (json{6 * 25.4, 25.4, 25.4}));
    EXPECT_EQ(scaled["steps"][0]["unit"], "mm");
    EXPECT_EQ(scaled["kept"], 1);
    EXPECT_EQ(scaled["lost"], 0);
    // The unit that the file says need not be said again.
    EXPECT_EQ(run({"run", inches, "-o", at("c.3mf"), "--step", "scale to=mm"})["output"]["size"]["max"][1], 25.4);
}

TEST_F(Units, AFileOf32BitsIsComparedWithItsImportRoundedAlike) {
    const std::string part = write("a.stl", sphere(3, 24, 12));
    const json scaled = run({"run", part, "-o", at("b.stl"), "--step", "scale from=in to=mm"});
    EXPECT_EQ(scaled["kept"], 1);
    EXPECT_EQ(scaled["deviation"]["input_to_output_max"], 0);
}

TEST_F(Units, AUnitThatContradictsTheFileIsRefused) {
    const std::string inches = write("a.3mf", box(Point(0, 0, 0), Point(1, 1, 1)), "in");
    const std::string plain = write("a.obj", box(Point(0, 0, 0), Point(1, 1, 1)));
    const auto error = [&](const std::string& file, const std::string& step) {
        const Called called = callCli({"run", file, "-o", at("b.obj"), "--step", step});
        EXPECT_EQ(called.code, 2);
        return called.err;
    };
    EXPECT_EQ(error(inches, "scale from=mm to=in"),
              "zither-cli: step 'scale': from=mm contradicts the part, whose unit is in: leave from out\n");
    EXPECT_EQ(error(plain, "scale from=in"), "zither-cli: step 'scale': from needs to as well: say from=... to=...\n");
    EXPECT_EQ(error(plain, "scale to=in"),
              "zither-cli: step 'scale': nobody has said which unit the part is in: say it, as from=in to=in\n");
    EXPECT_FALSE(fs::exists(at("b.obj")));
}

// A step behind one that converts works in the new unit.
TEST_F(Units, LaterStepsKnowTheNewUnit) {
    const std::string inches = write("a.3mf", box(Point(0, 0, 0), Point(1, 1, 1)), "in");
    const std::string tool = write("tool.3mf", box(Point(10, 10, -5), Point(15, 15, 50)), "mm");
    const json cut =
        run({"run", inches, "-o", at("b.3mf"), "--step", "scale to=mm", "--step", "subtract with=" + tool});
    EXPECT_NEAR(cut["output"]["volume"].get<double>(), 25.4 * (25.4 * 25.4 - 25), 1e-6);
    EXPECT_EQ(cut["steps"][1]["said"][0].get<std::string>().find("converted"), std::string::npos);
}

}  // namespace
}  // namespace zither::tests
