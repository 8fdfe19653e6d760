// The command line as a caller sees it: text, JSON, exit codes, files.
#include <nlohmann/json.hpp>

#include "io/surface_file.h"
#include "steps/step.h"
#include "tests/core/cli_call.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using nlohmann::json;

struct Said : Called {
    [[nodiscard]] json parsed() const { return json::parse(out); }
};

Said call(const std::vector<std::string>& arguments) {
    return {callCli(arguments)};
}

class CommandLine : public ::testing::Test {
protected:
    std::string write(const std::string& name, const Mesh& m) {
        const auto file = (folder / name).string();
        EXPECT_TRUE(io::writeSurface(m, file, {*io::formatForWriting(file)}, silent()));
        return file;
    }
    TemporaryFolder folder;
};

TEST_F(CommandLine, CheckGivesEveryKeyOfTheDefinitions) {
    const std::string file = write("box.stl", unitBox());
    const Said c = call({"check", file, "--json"});
    EXPECT_EQ(c.code, 0);
    const json j = c.parsed();
    for (const char* key : {"file", "format", "unit", "counts", "size", "area", "volume", "edge_length", "watertight",
                            "solid", "requirements", "seconds"})
        EXPECT_TRUE(j.contains(key)) << key;
    for (const char* key :
         {"triangles", "vertices", "collapsed_triangles", "degenerate_triangles", "duplicate_triangles",
          "boundary_edges", "holes", "nonmanifold_edges", "nonmanifold_vertices", "misoriented_edges", "shells",
          "inward_shells", "self_intersecting_pairs", "self_intersecting_triangles", "needles"})
        EXPECT_TRUE(j["counts"].contains(key)) << key;
    EXPECT_EQ(j["format"], "stl-binary");
    EXPECT_TRUE(j["unit"].is_null());
    EXPECT_EQ(j["size"]["max"], json::array({1.0, 1.0, 1.0}));
    EXPECT_EQ(j["solid"], true);
    EXPECT_EQ(j["requirements"][0], (json{{"id", "boundary_edges"}, {"met", true}, {"value", 0}, {"limit", 0}}));
}

TEST_F(CommandLine, OneObjectALineForSeveralFilesAndExitCodes) {
    const std::string good = write("good.stl", unitBox());
    const std::string open = write("open.stl", without(unitBox(), {3}));
    const Said c = call({"check", good, open, "--json"});
    EXPECT_EQ(c.code, 1);
    EXPECT_EQ(std::count(c.out.begin(), c.out.end(), '\n'), 2);
    const Said withMissing = call({"check", good, (folder / "none.stl").string(), open, "--json"});
    EXPECT_EQ(withMissing.code, 2);
    EXPECT_EQ(std::count(withMissing.out.begin(), withMissing.out.end(), '\n'), 2);
    EXPECT_NE(withMissing.err.find("none.stl: could not open"), std::string::npos);
    EXPECT_EQ(call({"check", open, "--brief", "reference-surface"}).code, 0);
    EXPECT_EQ(call({"check", open, "--brief", "pretty"}).code, 2);
}

TEST_F(CommandLine, WrongCallsExitWith2AndWriteNothingToStandardOutput) {
    for (const std::vector<std::string>& arguments : {std::vector<std::string>{},
                                                      {"check"},
                                                      {"polish"},
                                                      {"run", "a.stl"},
                                                      {"check", "a.stl", "--colour"},
                                                      {"compare", "a.stl"}}) {
        const Said c = call(arguments);
        EXPECT_EQ(c.code, 2);
        EXPECT_EQ(c.out, "");
        EXPECT_FALSE(c.err.empty());
    }
    EXPECT_EQ(call({"--help"}).code, 0);
}

TEST_F(CommandLine, RunAppliesStepsAndProvesTheFile) {
    const std::string in = write("open.obj", without(unitBox(), {3, 4}));
    const std::string out = (folder / "closed.stl").string();
    const Said c = call({"run", in, "-o", out, "--step", "fill size=9", "--step", "orient", "--json"});
    EXPECT_EQ(c.code, 0) << c.err;
    const json j = c.parsed();
    EXPECT_EQ(j["input"]["counts"]["boundary_edges"], 6);
    EXPECT_EQ(j["output"]["counts"]["boundary_edges"], 0);
    EXPECT_EQ(j["output"]["file"], out);
    EXPECT_EQ(j["steps"].size(), 2U);
    EXPECT_EQ(j["steps"][0]["name"], "fill");
    EXPECT_EQ(j["steps"][0]["parameters"]["size"], 9);
    EXPECT_EQ(j["steps"][0]["changed"]["holes_filled"], 2);
    EXPECT_EQ(j["kept"], 1.0);
    for (const char* key : {"input_to_output_max", "output_to_input_max", "mean"})
        EXPECT_TRUE(j["deviation"].contains(key));
    EXPECT_TRUE(j.contains("seconds"));
}

TEST_F(CommandLine, RunSaysWhatCameWithWhichStep) {
    const Mesh open = without(sphere(), {40, 41, 200});
    const std::string in = write("open.ply", open);
    const Said c = call({"run", in, "-o", (folder / "o.3mf").string(), "--step", "fill way=taut", "--step",
                         "mend pick=triangles:300-303 rings=0 way=flat", "--json"});
    ASSERT_EQ(c.code, 0) << c.err;
    const json j = c.parsed();
    EXPECT_EQ(j["output"]["format"], "3mf");
    EXPECT_EQ(j["output"]["unit"], "mm");
    EXPECT_TRUE(j["output"]["solid"]);
    EXPECT_GE(j["change"]["bit_identical"].get<std::size_t>(), open.triangles.size() - 4);
    EXPECT_EQ(j["change"]["by_step"][0]["triangles"], 3);
    EXPECT_EQ(j["change"]["by_step"][0]["nature"], "new");
    EXPECT_EQ(j["change"]["by_step"][1]["name"], "mend");
    EXPECT_EQ(j["change"]["by_rounding"], 0);
    EXPECT_EQ(j["steps"][0]["changed"]["taut_patches"], 2);
    EXPECT_TRUE(j["steps"][0]["listed"].empty());
}

TEST_F(CommandLine, WrongPicksAndChoicesAreRefused) {
    const std::string in = write("box.stl", unitBox());
    const std::string out = (folder / "out.stl").string();
    for (const char* step : {"fill way=round", "remove", "mend pick=ball:1,2", "move-vertex vertex=0,0,0",
                             "move-vertex vertex=0,0,0 to=1,2", "remove pick=shell:9", "bridge from=0,0,0 to=1,1,1",
                             "collapse-edge edge=here", "wrap cell=1e-9"}) {
        const Said c = call({"run", in, "-o", out, "--step", step});
        EXPECT_EQ(c.code, 2) << step;
        EXPECT_FALSE(c.err.empty()) << step;
        EXPECT_FALSE(std::filesystem::exists(out)) << step;
    }
}

TEST_F(CommandLine, RepairOffersToWrapWhatItCannotClose) {
    // A fin that is half of the part: too large to go without a word.
    Mesh m = unitBox();
    m.positions.emplace_back(0.5, 0.5, 9);
    const mesh::Triangle t = m.triangles[0];
    m.triangles.push_back({t[0], t[1], static_cast<mesh::VertexId>(m.positions.size() - 1)});
    const std::string in = write("fin.stl", m);
    const Said c = call({"repair", in, "-o", (folder / "o.stl").string(), "--json"});
    EXPECT_EQ(c.code, 1);
    const json j = c.parsed();
    bool offered = false;
    for (const auto& sentence : j["left"]) offered |= sentence.get<std::string>().find("wrap") != std::string::npos;
    EXPECT_TRUE(offered) << j["left"];
    const Said wrapped = call({"run", in, "-o", (folder / "w.stl").string(), "--step", "wrap", "--json"});
    EXPECT_EQ(wrapped.parsed()["output"]["solid"], true);
}

TEST_F(CommandLine, RunReadsRecipes) {
    const std::string in = write("open.stl", without(unitBox(), {3}));
    const std::string recipe = (folder / "recipe.json").string();
    writeText(recipe, R"({"zither": 1, "steps": [{"name": "fill", "parameters": {"size": 3}}]})");
    EXPECT_EQ(call({"run", in, "-o", (folder / "a.stl").string(), "--recipe", recipe}).code, 0);
    EXPECT_EQ(call({"run", in, "-o", (folder / "b.stl").string(), "--recipe", in}).code, 2);
}

TEST_F(CommandLine, DryRunsSayWhatWouldBeDoneAndWriteNothing) {
    const std::string file = write("open.stl", without(unitBox(), {3}));
    const auto before = std::distance(std::filesystem::directory_iterator(folder.path()), {});
    const Said c = call({"run", file, "--dry-run", "--step", "fill only-if=boundary_edges", "--step",
                         "stitch only-if=boundary_edges", "--json"});
    ASSERT_EQ(c.code, 0) << c.err;
    const json said = c.parsed();
    EXPECT_EQ(said["input"]["counts"]["boundary_edges"], 3);
    ASSERT_EQ(said["steps"].size(), 2U);
    EXPECT_EQ(said["steps"][1]["said"][0], "Left out: it runs only if there are open edges.");
    EXPECT_FALSE(said.contains("output"));
    const Said people = call({"run", file, "--dry-run", "--step", "fill"});
    EXPECT_EQ(people.code, 0) << people.err;
    EXPECT_NE(people.out.find("nothing was written"), std::string::npos);
    EXPECT_NE(people.out.find("11 triangles, 12 afterwards"), std::string::npos) << people.out;
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path()), {}), before);
    // Without it a file has to be named.
    EXPECT_EQ(call({"run", file, "--step", "fill"}).code, 2);
}

TEST_F(CommandLine, BadStepsWriteNothing) {
    const std::string in = write("box.stl", unitBox());
    const std::string out = (folder / "out.stl").string();
    for (const char* step : {"polish", "fill size=-2", "fill depth=1", "decimate percent=1000"}) {
        const Said c = call({"run", in, "-o", out, "--step", step});
        EXPECT_EQ(c.code, 2) << step;
        EXPECT_FALSE(std::filesystem::exists(out));
    }
    EXPECT_EQ(call({"run", in, "-o", (folder / "out.txt").string()}).code, 2);
    EXPECT_EQ(call({"run", in, "-o", "/proc/out.stl"}).code, 2);
}

TEST_F(CommandLine, RepairEveryRigPartThatCanBeClosed) {
    for (const char* name : {"blade", "hub", "spinner", "duct-frame", "nacelle"}) {
        const std::string out = (folder / "out.stl").string();
        const Said c = call({"repair", std::string(ZITHER_RIG) + "/" + name + ".stl", "-o", out, "--json"});
        EXPECT_LE(c.code, 1) << c.err;
        const json j = c.parsed();
        EXPECT_EQ(j["output"]["watertight"], true) << name;
        for (const auto& step : j["steps"]) EXPECT_FALSE(step["why"].get<std::string>().empty());
    }
    const Said fairing =
        call({"repair", std::string(ZITHER_RIG) + "/fairing.stl", "-o", (folder / "f.stl").string(), "--json"});
    EXPECT_EQ(fairing.parsed()["output"]["counts"]["holes"], 1);
    bool leftOpen = false;
    const auto told = fairing.parsed();
    for (const auto& left : told["left"]) leftOpen |= left.get<std::string>().find("Left open") != std::string::npos;
    EXPECT_TRUE(leftOpen);
}

TEST_F(CommandLine, RepairHonoursTheLargestDeviation) {
    const std::string hub = std::string(ZITHER_RIG) + "/hub.stl";
    const Said c = call({"repair", hub, "-o", (folder / "h.stl").string(), "--max-deviation", "0.0001", "--json"});
    EXPECT_LE(c.parsed()["deviation"]["input_to_output_max"].get<double>(), 0.01);
    EXPECT_EQ(call({"repair", hub, "-o", (folder / "h.stl").string(), "--max-deviation", "-1"}).code, 2);
}

TEST_F(CommandLine, FuseSubtractIntersectAndSettle) {
    const std::string a = write("a b.stl", box(Point(0, 0, 0), Point(2, 2, 2)));
    const std::string both =
        write("both.stl", together(box(Point(0, 0, 0), Point(2, 2, 2)), box(Point(1, 1, 1), Point(3, 3, 3))));
    const std::string out = (folder / "out.stl").string();
    const auto run = [&](const std::string& in, const std::string& step) {
        const Said c = call({"run", in, "-o", out, "--step", step, "--json"});
        EXPECT_EQ(c.code, 0) << c.err;
        return c.parsed();
    };
    const json fused = run(both, "fuse");
    EXPECT_EQ(fused["input"]["solid"], false);
    EXPECT_EQ(fused["output"]["solid"], true);
    EXPECT_EQ(fused["output"]["counts"]["shells"], 1);
    EXPECT_NEAR(fused["output"]["volume"].get<double>(), 15, 1e-9);
    EXPECT_EQ(fused["steps"][0]["changed"]["shells_in"], 2);
    EXPECT_EQ(fused["steps"][0]["changed"]["triangles_kept"], 12);
    EXPECT_TRUE(fused["steps"][0]["parameters"]["with"].is_null());
    const json less = run(write("c.stl", box(Point(1, 1, 1), Point(3, 3, 3))), "subtract with=\"" + a + "\"");
    EXPECT_NEAR(less["output"]["volume"].get<double>(), 7, 1e-9);
    EXPECT_EQ(less["steps"][0]["parameters"]["with"], a);
    EXPECT_NEAR(run(a, "intersect with=" + both)["output"]["volume"].get<double>(), 8, 1e-9);
    EXPECT_EQ(run(a, "settle")["steps"][0]["changed"]["vertices_rounded"], 0);
    const Said missing = call({"run", a, "-o", out, "--step", "subtract with=none.stl"});
    EXPECT_EQ(missing.code, 2);
    EXPECT_NE(missing.err.find("none.stl"), std::string::npos);
    // Solid in 64 bits, settled on the way into 32.
    Mesh third = unitBox();
    for (Point& p : third.positions) p *= 10.0 / 3;
    const Said settled = call({"run", write("third.ply", third), "-o", out, "--step", "clean", "--json"});
    EXPECT_EQ(settled.code, 0);
    EXPECT_EQ(settled.parsed()["steps"].back()["name"], "settle");
    EXPECT_EQ(settled.parsed()["output"]["solid"], true);
}

TEST_F(CommandLine, CompareAndSteps) {
    const std::string a = write("a.stl", unitBox());
    Mesh moved = unitBox();
    for (Point& p : moved.positions) p.z() += 0.25;
    const std::string b = write("b.stl", moved);
    const Said c = call({"compare", a, b, "--json"});
    EXPECT_EQ(c.code, 0);
    const json j = c.parsed();
    for (const char* key : {"a_to_b_max", "b_to_a_max", "mean", "volume_a", "volume_b", "kept"})
        EXPECT_TRUE(j.contains(key)) << key;
    EXPECT_GE(j["a_to_b_max"].get<double>(), 0.25);
    EXPECT_EQ(j["volume_a"], 1.0);
    EXPECT_NE(call({"compare", a, b}).out.find("kept 0.0000 %"), std::string::npos);
    const json catalogue = call({"steps", "--json"}).parsed();
    EXPECT_EQ(catalogue.size(), steps::catalogue().size());
    EXPECT_NE(call({"steps"}).out.find("decimate: Collapses edges"), std::string::npos);
}

TEST_F(CommandLine, CompareBringsOntoEachOtherWhereAsked) {
    const Mesh part = together(box(Point(0, 0, 0), Point(30, 20, 10)), box(Point(0, 0, 11), Point(9, 5, 30)));
    Mesh moved = part;
    for (Point& p : moved.positions) p = Point(p.y() + 50, -p.x(), p.z());
    const std::string a = write("a.stl", moved);
    const std::string b = write("b.stl", part);
    EXPECT_GT(call({"compare", a, b, "--json"}).parsed()["a_to_b_max"].get<double>(), 10);
    const json j = call({"compare", a, b, "--align", "--json"}).parsed();
    EXPECT_LT(j["a_to_b_max"].get<double>(), 1e-3);
    EXPECT_EQ(j["aligned"]["motion"].size(), 3U);
    EXPECT_NE(call({"compare", a, b, "--align"}).out.find("was brought onto b"), std::string::npos);
}

TEST_F(CommandLine, MeasuresAPartAndAPick) {
    const std::string a = write("a.stl", box(Point(0, 0, 0), Point(10, 10, 10)));
    const json whole = call({"measure", a, "--density", "7.8", "--json"}).parsed();
    EXPECT_EQ(whole["volume"], 1000);
    EXPECT_NEAR(whole["mass_in_grams"].get<double>(), 7.8, 1e-12);
    EXPECT_EQ(whole["centre_of_mass"], json::array({5, 5, 5}));
    const json pick = call({"measure", a, "--pick", "triangles:0-1", "--json"}).parsed();
    EXPECT_EQ(pick["area"], 100);
    EXPECT_TRUE(pick["volume"].is_null());
    EXPECT_NE(call({"measure", a, "--density", "1"}).out.find("taken for a millimetre"), std::string::npos);
    EXPECT_EQ(call({"measure", a, "--pick", "nonsense"}).code, 2);
    EXPECT_EQ(call({"measure", "none.stl"}).code, 2);
}

TEST_F(CommandLine, SplitsAPartIntoFiles) {
    const std::string a =
        write("two.stl", together(box(Point(0, 0, 0), Point(2, 2, 2)), box(Point(5, 0, 0), Point(6, 1, 1))));
    const std::string out = (folder / "pieces").string();
    const Said split = call({"split", a, "-o", out});
    EXPECT_EQ(split.code, 0) << split.err;
    EXPECT_EQ(call({"check", out + "/two 1.stl", "--json"}).parsed()["volume"], 8);
    EXPECT_EQ(call({"check", out + "/two 2.stl", "--json"}).parsed()["volume"], 1);
    // What is there is not written over.
    const Said again = call({"split", a, "-o", out});
    EXPECT_EQ(again.code, 2);
    EXPECT_NE(again.err.find("there already"), std::string::npos);
    EXPECT_EQ(call({"split", a, "-o", out + "/p", "--pick", "shell:0"}).code, 0);
    EXPECT_EQ(filesIn(out + "/p"), 2U);
}

TEST_F(CommandLine, ReportsForPeople) {
    const std::string open = write("open.stl", without(unitBox(), {3}));
    const Said c = call({"check", open});
    EXPECT_NE(c.out.find("FAILS open edges"), std::string::npos);
    EXPECT_NE(c.out.find("watertight no, solid no"), std::string::npos);
    const Said r = call({"repair", open, "-o", (folder / "o.stl").string()});
    EXPECT_NE(r.out.find("the file read back"), std::string::npos);
}

// No step makes a count worse without a word.
TEST_F(CommandLine, WhatIsWorseThanBeforeIsSaid) {
    const std::string file = write("box.stl", unitBox());
    const std::string out = (folder / "o.stl").string();
    const std::vector<std::string> words = {"run", file, "-o", out, "--step", "remove pick=triangles:0"};
    const Said told = call(words);
    EXPECT_NE(told.out.find("More than before: open edges 0 -> 3, holes 0 -> 1. It is not solid any more."),
              std::string::npos)
        << told.out;
    std::vector<std::string> asJson = words;
    asJson.emplace_back("--json");
    EXPECT_EQ(call(asJson).parsed()["worse"],
              (json{{"boundary_edges", {0, 3}}, {"holes", {0, 1}}, {"solid", {true, false}}}));
    EXPECT_EQ(call({"run", file, "-o", out, "--step", "scale factor=2", "--json"}).parsed()["worse"], json::object());
}

TEST_F(CommandLine, ExampleNeedsAFolderWithSurfaces) {
    EXPECT_EQ(call({"example", folder.path().string(), "-o", (folder / "out").string()}).code, 2);
    write("box.stl", unitBox());
    const Said c = call({"example", folder.path().string(), "-o", (folder / "out").string()});
    EXPECT_EQ(c.code, 0) << c.err;
    EXPECT_NE(c.out.find("solid"), std::string::npos);
    EXPECT_TRUE(std::filesystem::exists(folder / "out/box.stl"));
    EXPECT_EQ(c.out.find("recipe"), std::string::npos);
    // A recipe beside the part goes on from there.
    writeText(folder / "box.recipe.json",
              R"({"zither": 1, "steps": [{"name": "scale", "parameters": {"factor": 20}},
                                         {"name": "hollow", "parameters": {"wall": 1}}]})");
    const Said shaped = call({"example", folder.path().string(), "-o", (folder / "out").string()});
    EXPECT_EQ(shaped.code, 0) << shaped.err;
    EXPECT_NE(shaped.out.find("box-shaped       scale, hollow"), std::string::npos) << shaped.out;
    EXPECT_EQ(call({"check", (folder / "out/box-shaped.stl").string(), "--json"}).parsed()["voids"], 1);
    writeText(folder / "box.recipe.json", "{}");
    EXPECT_EQ(call({"example", folder.path().string(), "-o", (folder / "out").string()}).code, 2);
}

// ---- what is said first

TEST_F(CommandLine, AStepThatDidNothingIsSaidFirst) {
    const std::string part = write("box.stl", box(Point(0, 0, 0), Point(10, 10, 10)));
    const std::string out = (folder / "out.stl").string();
    const Said said = call({"run", part, "-o", out, "--step", "hollow wall=6", "--step", "decimate percent=99"});
    EXPECT_EQ(said.code, 0);
    EXPECT_TRUE(said.out.starts_with("WARNING: 2 of 2 steps changed nothing: hollow, decimate.\n")) << said.out;
    const Said strict = call({"run", part, "-o", out, "--strict", "--json", "--step", "hollow wall=6"});
    EXPECT_EQ(strict.code, 1);
    EXPECT_EQ(strict.parsed()["warnings"], (json{"1 of 1 step changed nothing: hollow."}));
    // One that its condition leaves out was not meant to do anything.
    EXPECT_EQ(call({"run", part, "-o", out, "--strict", "--step", "fill only-if=boundary_edges"}).code, 0);
    EXPECT_EQ(call({"run", part, "-o", out, "--strict", "--step", "scale factor=2"}).code, 0);
}

// A ball and a sheet five times as large: asked to go it is listed, and said first all the same.
TEST_F(CommandLine, MuchThatIsGoneIsSaidFirstThoughItWasAskedFor) {
    Mesh sheet;
    sheet.positions = {Point(-20, -20, 9), Point(20, -20, 9), Point(20, 20, 9), Point(-20, 20, 9)};
    sheet.triangles = {{0, 1, 2}, {0, 2, 3}};
    const std::string part = write("part.obj", together(sphere(3, 24, 12), sheet));
    const std::string out = (folder / "out.stl").string();
    const Said dropped = call({"repair", part, "-o", out, "--sheets", "drop"});
    EXPECT_EQ(dropped.code, 1);
    EXPECT_TRUE(dropped.out.starts_with("WARNING: 9")) << dropped.out;
    EXPECT_NE(dropped.out.find("% of what could be seen is gone.\n"), std::string::npos);
    const json j = call({"repair", part, "-o", out, "--sheets", "drop", "--json"}).parsed();
    EXPECT_GT(j["lost"].get<double>(), 0.9);
    EXPECT_EQ(j["warnings"].size(), 1U);
}

TEST_F(CommandLine, AnInputIsReplacedOnlyWhereThatIsSaid) {
    const std::string part = write("box.stl", without(unitBox(), {3}));
    std::filesystem::create_symlink(part, folder / "link.stl");
    for (const std::string& out : {part, (folder / "link.stl").string(), (folder / "." / "box.stl").string()}) {
        const Said refused = call({"run", part, "-o", out, "--step", "fill"});
        EXPECT_EQ(refused.code, 2);
        EXPECT_NE(refused.err.find("this is the input itself"), std::string::npos) << refused.err;
        EXPECT_EQ(call({"repair", part, "-o", out}).code, 2);
        EXPECT_EQ(io::readSurface(part, silent())->mesh.triangles.size(), 11U);
    }
    EXPECT_EQ(call({"run", part, "-o", part, "--overwrite", "--step", "fill"}).code, 0);
    EXPECT_EQ(io::readSurface(part, silent())->mesh.triangles.size(), 12U);
}

// One figure for what is lost, or both with what each leaves out.
TEST_F(CommandLine, WhatARepairSaysIsLostAgreesWithCompare) {
    Mesh tube = sphere(3, 24, 12);
    const std::string part = write("part.obj", without(tube, {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11}));
    const std::string out = (folder / "out.obj").string();
    const json repaired = call({"repair", part, "-o", out, "--openings", "close", "--json"}).parsed();
    const json compared = call({"compare", part, out, "--json"}).parsed();
    EXPECT_EQ(repaired["lost_untold"], compared["lost"]);
}

}  // namespace
}  // namespace zither::tests
