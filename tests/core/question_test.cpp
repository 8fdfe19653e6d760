// What waits for a person: typed, with an id that another run finds again, and answered by a call.
#include <nlohmann/json.hpp>

#include "io/surface_file.h"
#include "project/job.h"
#include "steps/question.h"
#include "tests/core/cli_call.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using nlohmann::json;

// A bowl with its wide mouth open, and a square sheet far from it.
Mesh bowlAndSheet() {
    Mesh ball = sphere(10, 24, 12);
    std::vector<std::uint8_t> kept(ball.triangles.size());
    for (mesh::TriangleId t = 0; t < kept.size(); ++t) kept[t] = mesh::centroid(ball, t).z() < 1;
    Mesh sheet;
    sheet.positions = {Point(30, 0, 0), Point(38, 0, 0), Point(38, 8, 0), Point(30, 8, 0)};
    sheet.triangles = {{0, 1, 2}, {0, 2, 3}};
    return together(mesh::keepTriangles(ball, kept), sheet);
}

class Questions : public ::testing::Test {
protected:
    void SetUp() override {
        in = (folder / "in.obj").string();
        out = (folder / "out.obj").string();
        ASSERT_TRUE(io::writeSurface(bowlAndSheet(), in, {io::obj}, silent()));
    }
    json repair(std::vector<std::string> more = {}) {
        std::vector<std::string> arguments{"repair", in, "-o", out, "--json"};
        arguments.insert(arguments.end(), more.begin(), more.end());
        called = callCli(arguments);
        return called.out.empty() ? json() : json::parse(called.out);
    }
    static std::string idOf(const json& said, const std::string& kind) {
        for (const json& q : said["questions"])
            if (q["kind"] == kind) return q["id"];
        return "none";
    }

    TemporaryFolder folder;
    std::string in;
    std::string out;
    Called called;
};

TEST_F(Questions, HaveAPlaceASizeAReasonAndTheirAnswers) {
    const json said = repair();
    ASSERT_EQ(said["questions"].size(), 2U) << said["questions"];
    const json& opening = said["questions"][0];
    EXPECT_EQ(opening["kind"], "opening");
    EXPECT_NEAR(opening["position"][2].get<double>(), 1, 2);
    EXPECT_GT(opening["size"].get<double>(), 20);
    EXPECT_FALSE(opening["why"].get<std::string>().empty());
    EXPECT_EQ(opening["answers"]["close"]["step"], "fill");
    EXPECT_TRUE(opening["answers"].contains("keep"));
    const json& sheet = said["questions"][1];
    EXPECT_EQ(sheet["kind"], "sheet");
    EXPECT_EQ(sheet["answers"]["drop"]["triangles"], 2);
    EXPECT_EQ(sheet["answers"]["thicken"]["step"], "thicken");
}

TEST_F(Questions, TheirIdsSurviveAnotherRunAndOtherAnswers) {
    const json first = repair();
    EXPECT_EQ(repair()["questions"], first["questions"]);
    const json dropped = repair({"--answer", idOf(first, "sheet") + "=drop"});
    EXPECT_EQ(idOf(dropped, "opening"), idOf(first, "opening"));
    EXPECT_EQ(idOf(dropped, "sheet"), "none");
}

TEST_F(Questions, AllAnsweredTheFileIsSolid) {
    const json first = repair();
    const json done =
        repair({"--answer", idOf(first, "sheet") + "=thicken:2", "--answer", idOf(first, "opening") + "=close"});
    ASSERT_FALSE(done.is_null()) << called.err;
    EXPECT_TRUE(done["output"]["solid"].get<bool>());
    EXPECT_EQ(done["output"]["counts"]["shells"], 2);
    EXPECT_TRUE(done["questions"].empty());
    EXPECT_TRUE(done["left"].empty()) << done["left"];
    // A solid of 8 by 8 by 2 beside the bowl.
    const json dropped =
        repair({"--answer", idOf(first, "sheet") + "=drop", "--answer", idOf(first, "opening") + "=close"});
    EXPECT_NEAR(done["output"]["volume"].get<double>() - dropped["output"]["volume"].get<double>(), 128, 1e-6);
    EXPECT_EQ(dropped["steps"].back()["why"].get<std::string>().find("Answered: "), 0U);
}

TEST_F(Questions, KeepChangesNothing) {
    const json first = repair();
    const auto bytes = *io::readBytes(out);
    EXPECT_EQ(repair({"--answer", idOf(first, "opening") + "=keep"})["questions"], first["questions"]);
    EXPECT_EQ(*io::readBytes(out), bytes);
}

TEST_F(Questions, AnAnswerThatDoesNotFitIsAnErrorWithTheReason) {
    const json first = repair();
    std::filesystem::remove(out);
    const auto error = [&](const std::string& answer) {
        repair({"--answer", answer});
        EXPECT_EQ(called.code, 2);
        EXPECT_FALSE(std::filesystem::exists(out));
        return called.err;
    };
    EXPECT_EQ(error("opening-00000000=close"),
              "zither-cli: nothing asks opening-00000000: it was decided already, or another file or other answers led "
              "elsewhere; questions of this run stand in its JSON\n");
    EXPECT_EQ(error(idOf(first, "sheet") + "=thickn"),
              "zither-cli: 'thickn' is no answer to " + idOf(first, "sheet") +
                  "; did you mean 'thicken'?; there are: keep, thicken, drop\n");
    EXPECT_EQ(error(idOf(first, "sheet") + "=drop:2"), "zither-cli: 'drop' takes no value behind it\n");
    EXPECT_NE(error(idOf(first, "sheet") + "=thicken:thin").find("is no value for thickness"), std::string::npos);
    EXPECT_EQ(error("opening"), "zither-cli: the answer 'opening' is not ID=ANSWER, as opening-1a2b3c4d=close\n");
}

TEST_F(Questions, AFileOfAnswersServesOneFileOrMany) {
    const json first = repair();
    const auto answers = (folder / "answers.json").string();
    writeText(answers, json{{"zither", 1}, {"answers", {{idOf(first, "sheet"), "drop"}}}}.dump());
    EXPECT_EQ(idOf(repair({"--answers", answers}), "sheet"), "none");
    writeText(answers,
              json{{"zither", 1},
                   {"files", {{"in.obj", {{idOf(first, "sheet"), "drop"}}}, {"other.obj", {{"sheet-1", "drop"}}}}}}
                  .dump());
    EXPECT_EQ(idOf(repair({"--answers", answers}), "sheet"), "none");
    writeText(answers, R"({"zither": 1, "answer": {}})");
    repair({"--answers", answers});
    EXPECT_NE(called.err.find("there is no key \"answer\" here; did you mean 'answers'?"), std::string::npos)
        << called.err;
}

}  // namespace
}  // namespace zither::tests
