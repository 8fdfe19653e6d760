// Many files by one call: each in a process of its own, reported, gone on with, stopped, watched.
#include <atomic>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>
#include <thread>

#include "cli/command_line.h"
#include "io/surface_file.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

namespace fs = std::filesystem;
using nlohmann::json;

class BatchCalls : public ::testing::Test {
protected:
    void SetUp() override { fs::create_directories(in()); }

    [[nodiscard]] fs::path in() const { return folder / "in"; }
    [[nodiscard]] fs::path out() const { return folder / "out"; }

    void write(const std::string& name, const Mesh& m) {
        const fs::path file = in() / name;
        ASSERT_TRUE(io::writeSurface(m, file, {*io::formatForWriting(file)}, silent()));
    }
    // A ball with a hole, a box that is whole, two boxes through each other.
    void writeThree() {
        write("ball.stl", without(sphere(3, 24, 12), {5, 6}));
        write("box.ply", unitBox());
        write("two.obj", together(box(Point(0, 0, 0), Point(2, 2, 2)), box(Point(1, 1, 1), Point(3, 3, 3))));
    }

    struct Called {
        int code = 0;
        std::string said;
        std::string errors;
    };
    Called batch(std::vector<std::string> more, const std::atomic<bool>* interrupted = nullptr) {
        return batch(in(), out(), std::move(more), interrupted);
    }
    static Called batch(const fs::path& from, const fs::path& to, std::vector<std::string> more,
                        const std::atomic<bool>* interrupted = nullptr) {
        std::vector<std::string> arguments = {"batch", from.string(), "-o", to.string()};
        arguments.insert(arguments.end(), more.begin(), more.end());
        std::ostringstream o;
        std::ostringstream e;
        const int code = cli::run(arguments, cli::Console{o, e, false, false, interrupted, ZITHER_CLI});
        return {code, o.str(), e.str()};
    }
    [[nodiscard]] std::vector<json> report() const { return linesOf(out() / "report.jsonl"); }
    static std::vector<json> linesOf(const fs::path& file) {
        std::vector<json> lines;
        std::ifstream in(file);
        for (std::string line; std::getline(in, line);) lines.push_back(json::parse(line));
        return lines;
    }
    static std::string nameOf(const json& line) {
        return fs::path(line["file"].get<std::string>()).filename().string();
    }
    // Without what depends on when and where it ran.
    static json timeless(json j) {
        if (j.is_object())
            for (const char* key : {"seconds", "written", "input", "output", "file"})
                if (j.contains(key) && !j[key].is_object()) j.erase(key);
        for (auto& child : j)
            if (child.is_structured()) child = timeless(child);
        if (j.is_object()) j.erase("written");
        return j;
    }
    TemporaryFolder folder;
};

TEST_F(BatchCalls, EveryFileIsMendedAndALineOfTheReport) {
    writeThree();
    std::ofstream(in() / "notes.txt") << "not a surface, and not looked at";
    const Called c = batch({"--repair", "--brief", "volume-mesh"});
    EXPECT_TRUE(c.code == 0 || c.code == 1) << c.errors;
    EXPECT_TRUE(c.errors.empty()) << c.errors;
    const auto lines = report();
    ASSERT_EQ(lines.size(), 3U);
    const char* names[] = {"ball.stl", "box.ply", "two.obj"};
    for (std::size_t i = 0; i < 3; ++i) {
        EXPECT_EQ(nameOf(lines[i]), names[i]);
        const fs::path written = lines[i]["output"].get<std::string>();
        EXPECT_TRUE(fs::exists(written));
        // What the line says is what the file holds.
        std::ostringstream o;
        std::ostringstream e;
        cli::run({"check", written.string(), "--json"}, cli::Console{o, e});
        EXPECT_EQ(json::parse(o.str())["counts"], lines[i]["result"]["output"]["counts"]);
        EXPECT_TRUE(json::parse(o.str())["solid"]);
    }
    EXPECT_EQ(fs::path(lines[1]["output"].get<std::string>()).filename(), "box-mended.ply");
    EXPECT_NE(c.said.find("3 files"), std::string::npos);
}

TEST_F(BatchCalls, OneBadFileDoesNotStopTheRest) {
    writeThree();
    std::ofstream(in() / "a-broken.stl") << "this is no surface at all";
    const Called c = batch({});
    EXPECT_EQ(c.code, 2);
    EXPECT_NE(c.errors.find("a-broken.stl"), std::string::npos);
    const auto lines = report();
    ASSERT_EQ(lines.size(), 4U);
    EXPECT_EQ(lines[0]["state"], "failed");
    EXPECT_FALSE(lines[0]["message"].get<std::string>().empty());
    for (std::size_t i = 1; i < 4; ++i) EXPECT_TRUE(fs::exists(lines[i]["output"].get<std::string>()));
}

TEST_F(BatchCalls, ResultsDoNotDependOnJobsAndShards) {
    writeThree();
    for (int i = 0; i < 4; ++i) write("more" + std::to_string(i) + ".stl", without(sphere(2 + i, 20, 10), {3}));
    batch({"--jobs", "1"});
    const auto one = report();
    batch({"--jobs", "3"});
    const auto three = report();
    ASSERT_EQ(one.size(), 7U);
    ASSERT_EQ(three.size(), 7U);
    for (std::size_t i = 0; i < 7; ++i) {
        EXPECT_EQ(timeless(one[i]["result"]), timeless(three[i]["result"])) << nameOf(one[i]);
        EXPECT_EQ(nameOf(one[i]), nameOf(three[i]));
    }
    std::set<std::string> names;
    for (const char* shard : {"1/3", "2/3", "3/3"}) {
        const fs::path into = folder / (std::string("shard") + shard[0]);
        std::ostringstream o;
        std::ostringstream e;
        cli::run({"batch", in().string(), "-o", into.string(), "--shard", shard},
                 cli::Console{o, e, false, false, nullptr, ZITHER_CLI});
        for (const json& line : linesOf(into / "report.jsonl")) EXPECT_TRUE(names.insert(nameOf(line)).second);
    }
    EXPECT_EQ(names.size(), 7U);
    EXPECT_EQ(batch({"--shard", "4/3"}).code, 2);
    EXPECT_EQ(batch({"--shard", "nonsense"}).code, 2);
}

TEST_F(BatchCalls, GoesOnWhereItWasStopped) {
    writeThree();
    batch({});
    const auto first = report();
    const fs::path ball = first[0]["output"].get<std::string>();
    const auto written = fs::last_write_time(ball);
    // All is done: nothing is touched.
    const Called again = batch({"--resume"});
    EXPECT_NE(again.said.find("3 were done before"), std::string::npos) << again.said;
    EXPECT_EQ(fs::last_write_time(ball), written);
    EXPECT_EQ(report(), first);
    // A torn report, an input that is another now, an output that is gone: these are done again, the rest is not.
    {
        std::ifstream whole(out() / "report.jsonl");
        std::string text((std::istreambuf_iterator<char>(whole)), {});
        std::ofstream(out() / "report.jsonl") << text.substr(0, text.size() - 40);
    }
    write("ball.stl", without(sphere(3, 30, 15), {5, 6}));
    fs::remove(first[1]["output"].get<std::string>());
    const Called third = batch({"--resume"});
    EXPECT_EQ(third.said.find("done before"), std::string::npos) << third.said;
    EXPECT_NE(fs::last_write_time(ball), written);
    EXPECT_EQ(report().size(), 3U);
    EXPECT_TRUE(fs::exists(first[1]["output"].get<std::string>()));
    // Another job takes nothing over.
    EXPECT_EQ(batch({"--resume", "--brief", "volume-mesh"}).said.find("done before"), std::string::npos);
}

TEST_F(BatchCalls, WhatTakesTooLongOrTooMuchIsStoppedAndLeavesNothing) {
    write("large.stl", sphere(10, 300, 150));
    write("small.stl", unitBox());
    const fs::path recipe = folder / "remesh.json";
    std::ofstream(recipe) << R"({"zither": 1, "steps": [{"name": "remesh", "parameters": {"length": 0.05}}]})";
    const std::vector<std::string> job = {"--recipe", recipe.string(), "--names", "{name}.{ext}"};
    const auto with = [&](std::vector<std::string> more) {
        more.insert(more.begin(), job.begin(), job.end());
        return batch(more);
    };
    EXPECT_EQ(with({"--time-limit", "4"}).code, 2);
    auto lines = report();
    ASSERT_EQ(lines.size(), 2U);
    EXPECT_EQ(lines[0]["state"], "stopped");
    EXPECT_NE(lines[0]["message"].get<std::string>().find("longer than"), std::string::npos);
    for (const auto& entry : fs::directory_iterator(out()))
        EXPECT_TRUE(entry.path().filename() == "report.jsonl" || entry.path().filename() == "small.stl")
            << entry.path();
#if !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
    EXPECT_TRUE(lines[1]["state"] == "met" || lines[1]["state"] == "not-met") << lines[1];
    // What was stopped is not done: it is begun again; the other one is left alone.
    EXPECT_NE(with({"--resume", "--time-limit", "1"}).said.find("1 were done before"), std::string::npos);
    // Too little memory even to begin: told, and nothing is left.
    fs::remove_all(out());
    EXPECT_EQ(with({"--memory-limit", "0.02"}).code, 2);
    for (const json& line : report()) {
        EXPECT_EQ(line["state"], "failed");
        EXPECT_FALSE(line["message"].get<std::string>().empty());
    }
    EXPECT_EQ(std::distance(fs::directory_iterator(out()), {}), 1);
#endif
}

TEST_F(BatchCalls, TwoFilesThatWouldBeOneAreRefusedBeforeAnythingIsWritten) {
    writeThree();
    write("ball.ply", unitBox());
    const Called c = batch({"--names", "{name}.stl"});
    EXPECT_EQ(c.code, 2);
    EXPECT_NE(c.errors.find("both be written"), std::string::npos) << c.errors;
    EXPECT_FALSE(fs::exists(out() / "ball.stl"));
    EXPECT_EQ(batch({"--names", "mended.stl"}).code, 2);
    EXPECT_EQ(batch({"--recipe", "nowhere.json"}).code, 2);
    EXPECT_EQ(batch({"--brief", "no such brief"}).code, 2);
}

TEST_F(BatchCalls, RunsARecipeUnderNamesByPattern) {
    writeThree();
    const fs::path recipe = folder / "recipe.json";
    std::ofstream(recipe) << R"({"zither": 1, "steps": [{"name": "scale", "parameters": {"factor": 2}}]})";
    const Called c = batch({"--recipe", recipe.string(), "--names", "twice/{name}.{ext}"});
    const auto lines = report();
    ASSERT_EQ(lines.size(), 3U) << c.errors;
    for (const json& line : lines) {
        EXPECT_EQ(line["result"]["steps"][0]["name"], "scale");
        EXPECT_TRUE(fs::exists(line["output"].get<std::string>()));
    }
    EXPECT_EQ(fs::path(lines[2]["output"].get<std::string>()), out() / "twice" / "two.obj");
}

TEST_F(BatchCalls, AFolderIsWatchedUntilItIsInterrupted) {
    write("first.stl", unitBox());
    std::atomic<bool> interrupted = false;
    Called c;
    std::thread watching([&] { c = batch({"--watch"}, &interrupted); });
    const auto waitFor = [&](const fs::path& file) {
        for (int i = 0; i < 1200 && !fs::exists(file); ++i) std::this_thread::sleep_for(std::chrono::milliseconds(50));
        return fs::exists(file);
    };
    EXPECT_TRUE(waitFor(out() / "first-mended.stl"));
    write("second.stl", sphere(2, 12, 8));
    EXPECT_TRUE(waitFor(out() / "second-mended.stl"));
    interrupted = true;
    watching.join();
    EXPECT_NE(c.said.find("2 files"), std::string::npos) << c.said;
}

// ---- nothing that came in is lost

TEST_F(BatchCalls, AnInputIsNeverReplaced) {
    write("box.stl", without(unitBox(), {3}));
    const auto before = io::readBytes(in() / "box.stl");
    const Called called = batch(in(), in(), {"--names", "{name}.{ext}"});
    EXPECT_EQ(called.code, 2);
    EXPECT_NE(called.errors.find("box.stl: what is written would replace this input"), std::string::npos)
        << called.errors;
    EXPECT_EQ(*io::readBytes(in() / "box.stl"), *before);
}

// Two files, however often it runs into the folder that it reads.
TEST_F(BatchCalls, OwnOutputsAreLeftAlone) {
    write("box.stl", without(sphere(3, 24, 12), {5, 6}));
    for (int i = 0; i < 3; ++i) {
        const Called called = batch(in(), in(), {});
        EXPECT_EQ(called.code, 0) << called.errors;
        EXPECT_EQ(called.errors.find("1 file was made by an earlier run and is left alone") != std::string::npos, i > 0)
            << called.errors;
        EXPECT_EQ(filesIn(in()), 3U) << i;  // with the report
    }
    // Named by itself it is meant.
    EXPECT_EQ(batch(in() / "box-mended.stl", out(), {}).code, 0);
    EXPECT_TRUE(fs::exists(out() / "box-mended-mended.stl"));
}

TEST_F(BatchCalls, FoldersWithinFoldersAreSaidOrTakenAlong) {
    write("box.stl", unitBox());
    fs::create_directories(in() / "deep" / "deeper");
    write("deep/box.stl", unitBox());
    write("deep/deeper/box.stl", unitBox());
    const Called without = batch({});
    EXPECT_NE(without.errors.find("deep is a folder and was left out; --recursive takes it along"), std::string::npos);
    EXPECT_EQ(report().size(), 1U);
    EXPECT_EQ(batch({"--recursive"}).code, 0);
    EXPECT_EQ(report().size(), 3U);
    EXPECT_TRUE(fs::exists(out() / "deep" / "deeper" / "box-mended.stl"));
}

}  // namespace
}  // namespace zither::tests
