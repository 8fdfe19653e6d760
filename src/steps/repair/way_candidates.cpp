// Preparations and ends, put together.
#include "steps/repair/way_candidates.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <utility>

namespace zither::steps {
namespace {

constexpr std::size_t oneIn = 10;   // triangles that are written twice: more are no accident
constexpr std::size_t share = 20;   // one triangle in twenty in trouble is much
constexpr double mostlyOpen = 0.5;  // of the open edges: what stitching leaves are no cracks
constexpr double nearlyNone = 0.05;

std::string_view nameOf(Stage stage) {
    static constexpr std::pair<Stage, std::string_view> names[] = {
        {Stage::Clean, "clean"},
        {Stage::Stitch, "stitch"},
        {Stage::StitchApart, "stitch but leave sheets apart"},
        {Stage::Orient, "orient"},
        {Stage::Specks, "drop specks"},
        {Stage::Local, "local steps"},
        {Stage::LocalUnstitched, "local steps without stitching"},
        {Stage::Enclose, "enclose"},
        {Stage::EncloseCovered, "enclose with plates"},
    };
    return std::find_if(std::begin(names), std::end(names), [&](const auto& n) { return n.first == stage; })->second;
}

}  // namespace

std::string nameOf(const Way& way) {
    std::vector<std::string_view> names;
    for (const Stage stage : way.stages) names.push_back(nameOf(stage));
    return fmt::format("{}", fmt::join(names, ", "));
}

bool isHeavy(const check::Counts& counts) {
    const std::size_t tied = counts.nonmanifoldEdges + counts.duplicateTriangles;
    if (tied + counts.boundaryEdges + counts.misorientedEdges == 0) return false;
    return share * (counts.selfIntersectingTriangles + 2 * tied) > counts.triangles;
}

bool isLoose(const check::Counts& counts) {
    return 2 * counts.shells > counts.triangles;
}

namespace {

bool isStitching(Stage stage) {
    return stage == Stage::Stitch || stage == Stage::StitchApart;
}

// A surface that is written twice nearly everywhere, once each way, bounds nothing: cleaning would hide that.
bool isTwofold(const check::Counts& came) {
    return oneIn * came.duplicateTriangles > came.triangles;
}

}  // namespace

std::vector<Stage> beginningOf(const check::Counts& came) {
    const bool surplus = came.duplicateTriangles + came.collapsedTriangles > 0;
    return surplus && !isTwofold(came) ? std::vector<Stage>{Stage::Clean} : std::vector<Stage>();
}

std::vector<Way> candidatesFor(const RepairFacts& facts) {
    const check::Counts& came = facts.came;
    const bool twofold = isTwofold(came);
    const bool turns = came.misorientedEdges + came.inwardShells + came.nonmanifoldEdges > 0;
    const bool specks = came.shells > 1 && came.boundaryEdges > 0;
    const bool soup = isLoose(facts.ready);

    const std::vector<Stage> start = beginningOf(came);
    const auto way = [&](std::vector<Stage> middle, Stage end) {
        Way w{start};
        w.stages.insert(w.stages.end(), middle.begin(), middle.end());
        if (specks && (end == Stage::Enclose)) {
            const auto stitched = std::find_if(w.stages.begin(), w.stages.end(), isStitching);
            w.stages.insert(stitched == w.stages.end() ? w.stages.begin() + static_cast<std::ptrdiff_t>(start.size())
                                                       : stitched + 1,
                            Stage::Specks);
        }
        w.stages.push_back(end);
        return w;
    };

    // Two that differ in much stand one after the other: where the first loses too much, one like it does as well.
    std::vector<Way> enclosing;
    const bool faces = turns && !twofold;
    // Where nearly all rims are cracks, triangles that stand alone are nothing else.
    const bool asItCame = !(facts.hasCracks && facts.openLeft <= nearlyNone && soup);
    const auto stitching = [&](Stage stage) {
        return faces ? way({stage, Stage::Orient}, Stage::Enclose) : way({stage}, Stage::Enclose);
    };
    const bool apartFirst = facts.sewsAmiss && facts.openLeft > nearlyNone && !soup;
    if (apartFirst && faces) enclosing.push_back(way({Stage::Orient}, Stage::Enclose));
    if (apartFirst) enclosing.push_back(way({}, Stage::Enclose));
    if (facts.hasCracks) enclosing.push_back(stitching(Stage::Stitch));
    // A sheet that is stitched to a body and stays hangs on it: worse than what came, where nothing did.
    if (facts.hasCracks && came.nonmanifoldEdges == 0) enclosing.push_back(stitching(Stage::StitchApart));
    if (asItCame && !apartFirst && faces) enclosing.push_back(way({Stage::Orient}, Stage::Enclose));
    if (facts.hasCracks && faces) enclosing.push_back(way({Stage::Stitch}, Stage::Enclose));
    if (asItCame && !apartFirst) enclosing.push_back(way({}, Stage::Enclose));
    if (asItCame && turns && twofold) enclosing.push_back(way({Stage::Orient}, Stage::Enclose));
    std::vector<Way> local{way({}, Stage::Local)};
    // What was taken for cracks may have been the rims of a thin part; or of holes, which are known for what they are.
    if (facts.hasCracks) local.insert(facts.onlyDamage ? local.begin() : local.end(), way({}, Stage::LocalUnstitched));

    const bool localFirst = !isHeavy(facts.ready) && (facts.openLeft < mostlyOpen || facts.onlyDamage);
    std::vector<Way> all = localFirst ? local : enclosing;
    const std::vector<Way>& others = localFirst ? enclosing : local;
    all.insert(all.end(), others.begin(), others.end());
    return all;
}

}  // namespace zither::steps
