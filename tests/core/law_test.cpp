// The page of definitions and the program say the same: no key stands in one alone, and every promise has its tests.
#include <fstream>
#include <sstream>

#include "io/surface_file.h"
#include "steps/brief.h"
#include "tests/core/cli_call.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

std::string page() {
    std::ifstream in(std::string(ZITHER_SOURCE) + "/docs/definitions.md");
    std::stringstream text;
    text << in.rdbuf();
    return text.str();
}

// What stands between backticks in a text.
std::set<std::string> wordsIn(const std::string& text) {
    std::set<std::string> words;
    for (std::size_t at = text.find('`'); at != std::string::npos; at = text.find('`', at + 1)) {
        const std::size_t end = text.find('`', at + 1);
        if (end == std::string::npos) break;
        words.insert(text.substr(at + 1, end - at - 1));
        at = end;
    }
    return words;
}

// The index: what each key is.
std::map<std::string, std::string> indexOf(const std::string& text) {
    std::map<std::string, std::string> index;
    std::istringstream lines(text.substr(text.find("## Index of keys")));
    for (std::string line; std::getline(lines, line);) {
        if (!line.starts_with("| `")) continue;
        const std::size_t end = line.find('`', 3);
        index[line.substr(3, end - 3)] = line.substr(end + 4);
    }
    return index;
}

std::set<std::string> keysThatAre(const std::string& what) {
    std::set<std::string> keys;
    for (const auto& [key, is] : indexOf(page()))
        if (is.find(what) != std::string::npos) keys.insert(key);
    return keys;
}

TEST(Law, EveryCountOfTheProgramIsDefinedAndTheOtherWayRound) {
    std::set<std::string> counts;
    for (const check::CountKey& key : check::countKeys) counts.emplace(key.key);
    EXPECT_EQ(keysThatAre("a count"), counts);
}

TEST(Law, EveryRequirementOfTheProgramIsDefinedAndTheOtherWayRound) {
    std::set<std::string> requirements;
    for (const steps::Measure& measure : steps::measures()) requirements.emplace(std::string_view(measure.id));
    EXPECT_EQ(keysThatAre("a requirement"), requirements);
}

TEST(Law, EveryKeyOfTheIndexIsExplainedAboveIt) {
    const std::string text = page();
    const std::set<std::string> above = wordsIn(text.substr(0, text.find("## Index of keys")));
    for (const auto& [key, is] : indexOf(text))
        EXPECT_TRUE(above.contains(key) || text.find("**" + std::string(1, static_cast<char>(std::toupper(key[0]))) +
                                                     key.substr(1) + "**") != std::string::npos)
            << key;
}

TEST(Law, EveryOtherKeyStandsInTheJsonOfACall) {
    const TemporaryFolder folder;
    const auto in = (folder / "in.stl").string();
    const auto out = (folder / "out.stl").string();
    ASSERT_TRUE(io::writeSurface(unitBox(), in, {io::stlBinary}, silent()));
    const auto run = nlohmann::json::parse(callCli({"run", in, "-o", out, "--step", "clean", "--json"}).out);
    for (const std::string& key : keysThatAre("of a surface")) EXPECT_TRUE(run["output"].contains(key)) << key;
    for (const std::string& key : keysThatAre("of two surfaces"))
        EXPECT_TRUE(run.contains(key) || run["deviation"].contains(key)) << key;
}

// A promise is a row of the table with tests that there are.
TEST(Law, EveryPromiseIsHeldByTests) {
    const std::string text = page();
    std::size_t promises = 0;
    for (int n = 1;; ++n, ++promises)
        if (text.find("\n" + std::to_string(n) + ". *") == std::string::npos) break;
    ASSERT_GE(promises, 6U);
    const auto& all = *::testing::UnitTest::GetInstance();
    std::set<std::string> tests;
    for (int s = 0; s < all.total_test_suite_count(); ++s)
        for (int t = 0; t < all.GetTestSuite(s)->total_test_count(); ++t)
            tests.insert(std::string(all.GetTestSuite(s)->name()) + "." + all.GetTestSuite(s)->GetTestInfo(t)->name());
    for (std::size_t n = 1; n <= promises; ++n) {
        const std::size_t row = text.find("\n| " + std::to_string(n) + " | ");
        ASSERT_NE(row, std::string::npos) << n;
        const std::set<std::string> named = wordsIn(text.substr(row, text.find('\n', row + 1) - row));
        EXPECT_FALSE(named.empty()) << n;
        for (const std::string& test : named) EXPECT_TRUE(tests.contains(test)) << n << ": " << test;
    }
}

}  // namespace
}  // namespace zither::tests
