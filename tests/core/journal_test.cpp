// The journal of what happened, and defaults that a site or a user sets.
#include <cstdlib>
#include <fstream>
#include <nlohmann/json.hpp>

#include "io/surface_file.h"
#include "project/journal.h"
#include "tests/core/cli_call.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

namespace journal = project::journal;

std::string contentOf(const std::filesystem::path& file) {
    std::ifstream in(file);
    return {(std::istreambuf_iterator<char>(in)), {}};
}

// One for the whole program: it begins quiet, and once it is told where to write it stays so.
TEST(Journal, KeepsWhatWasDoneAndWhatWentWrong) {
    const TemporaryFolder folder;
    journal::note("before anybody asked");
    journal::writeTo(folder / "not" / "there" / "yet");
    const auto file = folder / "not" / "there" / "yet" / "zither.log";
    journal::note("a call");
    journal::ended("cutting", 1.5);
    journal::failed("reading", {mesh::ErrorKind::BadInput, "no such file", mesh::errorcode::unreadable});
    const std::string text = contentOf(file);
    EXPECT_EQ(text.find("before anybody asked"), std::string::npos);
    EXPECT_NE(text.find("info a call\n"), std::string::npos);
    EXPECT_NE(text.find("info cutting: 1.500 s, "), std::string::npos);
    EXPECT_NE(text.find("error reading: no such file (unreadable-file)\n"), std::string::npos);
    const std::string recent = journal::recent("Zither of a test");
    EXPECT_EQ(recent.find("Zither of a test\n"), 0U);
    EXPECT_NE(recent.find(" cores, "), std::string::npos);
    EXPECT_NE(recent.find("no such file"), std::string::npos);
    // What a call does is kept as well; the files stay small whatever happens.
    const auto surface = folder / "box.stl";
    ASSERT_TRUE(io::writeSurface(unitBox(), surface, {io::stlBinary}, silent()));
    EXPECT_EQ(callCli({"check", surface.string()}).code, 0);
    EXPECT_NE(journal::recent("").find("check " + surface.string()), std::string::npos);
    EXPECT_NE(journal::recent("").find("ended with 0"), std::string::npos);
    for (int i = 0; i < 60'000; ++i) journal::note("a line that is not short, so that the file is full some time soon");
    std::uintmax_t bytes = 0;
    for (const auto& entry : std::filesystem::directory_iterator(file.parent_path())) bytes += entry.file_size();
    EXPECT_LT(bytes, 5U << 20);
    EXPECT_LT(journal::recent("").size(), 40'000U);
    // A folder that cannot be made is no reason to fail.
    std::ofstream(folder / "a-file") << "x";
    journal::writeTo(folder / "a-file" / "below");
}

class SiteSettings : public ::testing::Test {
protected:
    SiteSettings() {
        for (const auto& [name, value] : {std::pair{"XDG_CONFIG_HOME", (folder / "user").string()},
                                          {"XDG_CONFIG_DIRS", (folder / "site").string()}}) {
            const char* was = std::getenv(name);
            before.emplace_back(name, was ? std::optional<std::string>(was) : std::nullopt);
            ::setenv(name, value.c_str(), 1);
        }
    }
    ~SiteSettings() override {
        for (const auto& [name, value] : before)
            value ? ::setenv(name.c_str(), value->c_str(), 1) : ::unsetenv(name.c_str());
    }
    void settings(const std::string& whose, const std::string& text) const {
        std::filesystem::create_directories(folder / whose / "zither");
        std::ofstream(folder / whose / "zither" / "zither-cli.ini") << text;
    }
    std::string asked(const std::vector<std::string>& more = {}) {
        std::vector<std::string> arguments = {"check", surface(), "--json"};
        arguments.insert(arguments.end(), more.begin(), more.end());
        const Called called = callCli(arguments);
        EXPECT_LE(called.code, 1) << called.err;
        std::string ids;
        const auto all = nlohmann::json::parse(called.out);
        for (const auto& requirement : all["requirements"]) ids += requirement["id"].get<std::string>() + " ";
        return ids;
    }
    std::string surface() {
        const auto file = (folder / "box.stl").string();
        EXPECT_TRUE(io::writeSurface(unitBox(), file, {io::stlBinary}, silent()));
        return file;
    }
    TemporaryFolder folder;
    std::vector<std::pair<std::string, std::optional<std::string>>> before;
};

TEST_F(SiteSettings, AreDefaultsOfTheSiteThenOfTheUserThenOfTheCall) {
    const std::string print = asked({"--brief", "print"});
    const std::string reference = asked({"--brief", "reference-surface"});
    const std::string mesh = asked({"--brief", "volume-mesh"});
    ASSERT_NE(print, reference);
    ASSERT_NE(mesh, reference);
    EXPECT_EQ(asked(), print);
    settings("site", "[check]\nbrief=\"reference-surface\"\n[repair]\nsheets=\"thicken\"\n");
    EXPECT_EQ(asked(), reference);
    settings("user", "check.brief=volume-mesh\n");
    EXPECT_EQ(asked(), mesh);
    EXPECT_EQ(asked({"--brief", "print"}), print);
    // What it does not know is said, and the file that it stands in can be named instead.
    settings("user", "check.breif=print\n");
    const Called unknown = callCli({"check", surface()});
    EXPECT_EQ(unknown.code, 2);
    EXPECT_NE(unknown.err.find("breif"), std::string::npos) << unknown.err;
    settings("other", "threads=1\n");
    EXPECT_EQ(asked({"--settings", (folder / "other" / "zither" / "zither-cli.ini").string()}), print);
    EXPECT_EQ(callCli({"check", surface(), "--settings", (folder / "nowhere.ini").string()}).code, 2);
}

}  // namespace
}  // namespace zither::tests
