// The window and the command line do one job: the same file comes out with the same bytes and the same verdict.
#include <QFile>

#include <nlohmann/json.hpp>

#include "tests/core/assemblies.h"
#include "tests/core/cli_call.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

using nlohmann::json;

QByteArray bytesOf(const QString& file) {
    QFile f(file);
    return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
}

// Of the export that was made last: each requirement with what it is, and whether that will do.
json verdictOf(const session::Delivered& delivered) {
    json all = json::object();
    for (const steps::Judged& j : delivered.verdict.judged)
        all[std::string(std::string_view(j.requirement.measure->id))] = {j.met, j.value ? json(*j.value) : json()};
    return all;
}

json verdictOf(const json& output) {
    json all = json::object();
    for (const json& r : output["requirements"]) {
        const json value = r["value"].is_null() ? json() : json(r["value"].get<double>());
        all[r["id"].get<std::string>()] = {r["met"], value};
    }
    return all;
}

// Opened, repaired with one click, exported; and by one call.
void expectTheSame(const QString& file) {
    SCOPED_TRACE(file.toStdString());
    WindowDriver d;
    ASSERT_TRUE(d.open({file}));
    ASSERT_TRUE(d.clickButton("Repair"));
    ASSERT_TRUE(d.settle(120000));
    const QString byWindow = d.folder() + "/by-window.stl";
    d.workshop().handingOver().exportTo(byWindow);
    ASSERT_TRUE(d.settle(60000));
    const QString byCall = d.folder() + "/by-call.stl";
    const Called called = callCli({"repair", file.toStdString(), "-o", byCall.toStdString(), "--json"});
    const auto& delivered = d.workshop().handingOver().delivered();
    // What cannot be written by one cannot be written by the other.
    ASSERT_EQ(delivered.has_value(), called.code != 2) << called.err;
    if (!delivered) return;
    EXPECT_TRUE(bytesOf(byWindow) == bytesOf(byCall));
    const json said = json::parse(called.out);
    EXPECT_EQ(verdictOf(*delivered), verdictOf(said["output"]));
    EXPECT_EQ(delivered->survey->solid, said["output"]["solid"].get<bool>());
    EXPECT_EQ(delivered->loss->lost, said["lost"].get<double>());
    // What waits for a person is the same, too.
    std::size_t questions = 0;
    for (const session::QuestionGroup& group :
         session::questionsOf(*d.workshop().parts().current(), *d.workshop().looks().kept(), {}))
        for (const session::Question& q : group.questions)
            for (const char* key : {"openings", "sheets"}) questions += group.key == key && !q.answers.empty();
    std::size_t listed = 0;
    for (const json& q : said["questions"]) listed += q["kind"] == "opening" || q["kind"] == "sheet";
    EXPECT_EQ(questions, listed);
}

TEST(Parity, EveryPartOfTheRig) {
    for (const char* part : {"blade", "duct-frame", "hub", "nacelle", "spinner", "strainer", "fairing"})
        expectTheSame(rig(part));
}

// Ugly ones, and assemblies of which some need 64 bits, read from OBJ and bound for a file of 32.
TEST(Parity, GeneratedParts) {
    QTemporaryDir folder;
    std::vector<std::pair<std::string, Mesh>> parts = uglyMeshes();
    for (std::size_t kind = 0; kind < 14; ++kind)
        parts.emplace_back("assembly", AssemblyMaker(kind + 1).make(kind).mesh);
    parts.emplace_back("halves", halvesOfABall());
    parts.emplace_back("open ball", without(sphere(3, 24, 12), {5, 6}));
    std::size_t compared = 0;
    for (const auto& [name, mesh] : parts) {
        if (mesh.triangles.empty()) continue;
        const QString file = folder.path() + QString("/part-%1.obj").arg(compared);
        ASSERT_TRUE(io::writeSurface(mesh, file.toStdString(), {io::obj}, silent()));
        SCOPED_TRACE(name);
        expectTheSame(file);
        ++compared;
    }
    EXPECT_GE(compared, 20U);
}

}  // namespace
}  // namespace zither::tests
