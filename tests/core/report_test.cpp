// The report: one file, true to the files that it is of, safe whatever they are called.
#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cstdlib>
#include <fstream>
#include <iterator>
#include <nlohmann/json.hpp>

#include "io/surface_file.h"
#include "project/report.h"
#include "tests/core/cli_call.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

namespace fs = std::filesystem;

class Reports : public ::testing::Test {
protected:
    std::string write(const std::string& name, const Mesh& m) {
        const auto file = (folder / name).string();
        EXPECT_TRUE(io::writeSurface(m, file, {*io::formatForWriting(file)}, silent()));
        return file;
    }
    int call(const std::vector<std::string>& arguments) {
        const Called called = callCli(arguments);
        said = called.out;
        errors = called.err;
        return called.code;
    }
    static std::string contentOf(const fs::path& file) {
        std::ifstream in(file, std::ios::binary);
        return {(std::istreambuf_iterator<char>(in)), {}};
    }
    // The words of a PDF, row by row, as another program reads them.
    std::string textOf(const fs::path& pdf) {
        const fs::path text = folder / "text.txt";
        EXPECT_EQ(std::system(("pdftotext -layout '" + pdf.string() + "' '" + text.string() + "'").c_str()), 0);
        return contentOf(text);
    }
    std::string said;
    std::string errors;
    TemporaryFolder folder;
};

TEST_F(Reports, DigestIsSha256) {
    std::ofstream(folder / "abc") << "abc";
    EXPECT_EQ(*project::digestOf(folder / "abc"), "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
    EXPECT_FALSE(project::digestOf(folder / "nothing"));
}

TEST_F(Reports, TellWhatTheFilesHoldAndWhatWasDone) {
    const std::string in = write("ball.stl", without(sphere(10, 48, 24), {100, 101, 102, 103}));
    const std::string out = (folder / "ball-mended.stl").string();
    ASSERT_GE(call({"repair", in, "-o", out, "--json"}), 0);
    std::ofstream(folder / "done.json") << said;
    const auto run = nlohmann::json::parse(said);
    const fs::path report = folder / "report.html";
    const int code = call({"report", in, out, "-o", report.string(), "--done", (folder / "done.json").string()});
    EXPECT_TRUE(code == 0 || code == 1) << errors;
    const std::string html = contentOf(report);
    // Both digests, the verdict, the counts of the file as it is on disk.
    EXPECT_NE(html.find(*project::digestOf(in)), std::string::npos);
    EXPECT_NE(html.find(*project::digestOf(out)), std::string::npos);
    EXPECT_NE(html.find("surface is solid"), std::string::npos);
    const auto triangles = run["output"]["counts"]["triangles"].get<int>();
    const std::size_t row = html.find("<th scope=\"row\">triangles</th>");
    ASSERT_NE(row, std::string::npos);
    EXPECT_NE(html.substr(row, 120).find("<td class=\"n\">" + std::to_string(triangles) + "</td></tr>"),
              std::string::npos);
    for (const auto& step : run["steps"]) EXPECT_NE(html.find(step["name"].get<std::string>()), std::string::npos);
    EXPECT_NE(html.find("&quot;zither&quot;: 1"), std::string::npos);
    // Nothing is fetched from elsewhere; each picture has words.
    EXPECT_EQ(html.find("src=\"http"), std::string::npos);
    EXPECT_EQ(html.find("href="), std::string::npos);
    int pictures = 0;
    for (std::size_t at = html.find("<img "); at != std::string::npos; at = html.find("<img ", at + 1), ++pictures) {
        const std::string tag = html.substr(at, html.find('>', at) - at);
        EXPECT_EQ(tag.find("<img src=\"data:image/png;base64,iVBORw0KGgo"), 0U);
        const std::size_t words = tag.find("alt=\"");
        ASSERT_NE(words, std::string::npos);
        EXPECT_GT(tag.find('"', words + 5), words + 15);
    }
    EXPECT_GE(pictures, 3);
    // On pages: the same words.
    const fs::path pages = folder / "report.pdf";
    call({"report", in, out, "-o", pages.string(), "--done", (folder / "done.json").string()});
    const std::string printed = textOf(pages);
    EXPECT_NE(printed.find("ball-mended.stl"), std::string::npos);
    EXPECT_NE(printed.find("surface is solid"), std::string::npos);
    EXPECT_NE(printed.find("SHA-256"), std::string::npos);
    std::string joined;
    std::remove_copy_if(printed.begin(), printed.end(), std::back_inserter(joined),
                        [](unsigned char c) { return std::isspace(c); });
    EXPECT_NE(joined.find(*project::digestOf(out)), std::string::npos);
    EXPECT_NE(joined.find("triangles" + std::to_string(run["input"]["counts"]["triangles"].get<int>()) +
                          std::to_string(triangles)),
              std::string::npos);
    for (const auto& step : run["steps"]) EXPECT_NE(printed.find(step["name"].get<std::string>()), std::string::npos);
    // The same again: the same bytes.
    const fs::path again = folder / "again.html";
    call({"report", in, out, "-o", again.string(), "--done", (folder / "done.json").string(), "--threads", "1"});
    EXPECT_EQ(contentOf(again), html);
}

// Whatever is to be said: long tables go on at the next page with their heads, long text wraps, and nothing is left
// out.
TEST_F(Reports, PagesHoldAllOfADocument) {
    project::Document document{"A title \xFF that is no text", {}};
    using Column = project::Table::Column;
    project::Table table{"Many rows", {"number", "code"}, "row", {Column::Number, Column::Code}};
    constexpr int rows = 150;
    for (int i = 0; i < rows; ++i)
        table.rows.push_back({fmt::format("row{}", i),
                              {std::to_string(i * i), std::string(100, 'a')},
                              i % 10 == 0 ? project::Tone::Bad : project::Tone::Plain});
    document.blocks.emplace_back(table);
    for (int i = 0; i < 3; ++i)
        document.blocks.emplace_back(project::Figure{draw::Picture(60, 400, draw::colourOf(0xB7824F)), "a tall picture",
                                                     fmt::format("tall{}", i)});
    document.blocks.emplace_back(project::Bars{{}, "no bars", "nobars"});
    std::string long_;
    for (int i = 0; i < 400; ++i) long_ += fmt::format("line{} of text as a machine reads it\n", i);
    document.blocks.emplace_back(project::Verbatim{long_});
    document.blocks.emplace_back(project::Items{{{"one", "a reason", {}}, {"two", "", {"sentence."}}}});
    const fs::path pdf = folder / "long.pdf";
    ASSERT_TRUE(project::writeReport(document, pdf));
    const std::string text = textOf(pdf);
    for (int i = 0; i < rows; ++i) EXPECT_NE(text.find(fmt::format("row{} ", i)), std::string::npos) << i;
    for (int i = 0; i < 400; ++i) EXPECT_NE(text.find(fmt::format("line{} of", i)), std::string::npos) << i;
    for (const char* words : {"tall0", "tall2", "nobars", "1. one – a reason", "2. two", "sentence.", "page 5"})
        EXPECT_NE(text.find(words), std::string::npos) << words;
    std::size_t heads = 0;
    for (std::size_t at = text.find("number"); at != std::string::npos; at = text.find("number", at + 1)) ++heads;
    EXPECT_GT(heads, 3U);
    EXPECT_FALSE(project::writeReport(document, folder / "long.doc"));
    EXPECT_FALSE(fs::exists(folder / "long.doc"));
}

TEST_F(Reports, AreSafeWhateverFilesAreCalledAndHold) {
    const std::string in = write("a<b>&\"c.stl", unitBox());
    const fs::path report = folder / "report.html";
    EXPECT_EQ(call({"report", in, in, "-o", report.string()}), 0) << errors;
    const std::string html = contentOf(report);
    EXPECT_EQ(html.find("a<b>"), std::string::npos);
    EXPECT_NE(html.find("a&lt;b&gt;&amp;&quot;c.stl"), std::string::npos);
    EXPECT_NE(html.find("steps are not known"), std::string::npos);
    // A part that is gone, and one that was nothing.
    const std::string empty = write("empty.stl", Mesh());
    EXPECT_NE(call({"report", in, empty, "-o", report.string()}), 0);
    EXPECT_EQ(call({"report", in, in, "-o", (folder / "report.txt").string()}), 2);
    EXPECT_EQ(call({"report", in, (folder / "nowhere.stl").string(), "-o", report.string()}), 2);
    std::ofstream(folder / "nonsense.json") << "[1, 2";
    EXPECT_EQ(call({"report", in, in, "-o", report.string(), "--done", (folder / "nonsense.json").string()}), 2);
}

}  // namespace
}  // namespace zither::tests
