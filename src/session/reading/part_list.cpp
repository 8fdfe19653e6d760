// Trees by the innermost shell around each; damage by the places of failing classes.
#include "session/reading/part_list.h"

#include <algorithm>
#include <functional>

#include "check/catalogue.h"
#include "session/reading/number_text.h"

namespace zither::session {
namespace {

// A shell that is smaller than this share of the part, and has less than that share of its area, is a detail.
constexpr double smallAcross = 0.05;
constexpr double smallArea = 0.01;

bool matters(const check::Shell& shell, const check::Survey& survey) {
    return shell.box.diagonal() >= smallAcross * survey.mass.size.diagonal() ||
           shell.area >= smallArea * survey.mass.area;
}

// Places of failing classes on each shell.
std::vector<std::size_t> damageOf(const Workshop& w, const check::Survey& survey) {
    std::vector<std::size_t> damage(survey.shells.size(), 0);
    const std::vector<check::DefectClass> failing = w.judging().failingClasses();
    for (const check::Finding& f : survey.findings.list) {
        const auto triangles = survey.findings.trianglesOf(f);
        if (triangles.empty() || std::find(failing.begin(), failing.end(), f.defect) == failing.end()) continue;
        if (const std::uint32_t shell = survey.shellOf[triangles.front()]; shell < damage.size()) ++damage[shell];
    }
    return damage;
}

QString detailOf(const check::Shell& shell, std::size_t damage, const Numbers& numbers) {
    QString detail = spaced(shell.triangles) + " tri · ";
    if (damage > 0)
        detail += QString("%1 %2").arg(spaced(damage), damage == 1 ? "bad place" : "bad places");
    else if (shell.inward)
        detail += "faces inward";
    else if (!shell.closed)
        detail += "open";
    else if (shell.isCavity())
        detail += "cavity";
    else if (shell.buried)
        detail += "buried in another";
    else if (shell.depth > 0)
        detail += "inside another";
    else
        detail += QString("volume %1").arg(numbers.shortNumber(shell.volume));
    return detail;
}

// What lies within something that is listed comes under it.
struct Entry {
    std::size_t shell;
    int indent;
};
std::vector<Entry> asTree(const std::vector<std::size_t>& bySize, const std::vector<check::Shell>& shells) {
    std::vector<Entry> tree;
    std::vector<std::uint8_t> listed(shells.size(), 0);
    for (const std::size_t s : bySize) listed[s] = 1;
    const auto parentOf = [&](std::size_t s) {
        const std::uint32_t parent = shells[s].directParent;
        return parent != mesh::noEdge && listed[parent] ? parent : mesh::noEdge;
    };
    const std::function<void(std::uint32_t, int)> add = [&](std::uint32_t parent, int indent) {
        for (const std::size_t s : bySize)
            if (parentOf(s) == parent) {
                tree.push_back({s, indent});
                add(static_cast<std::uint32_t>(s), indent + 1);
            }
    };
    add(mesh::noEdge, 0);
    return tree;
}

}  // namespace

QString nameOf(ShellOrder order) {
    return order == ShellOrder::Within   ? "what is within what"
           : order == ShellOrder::Damage ? "most damage"
                                         : "deepest";
}

ShellList shellsOf(const Workshop& w, ShellOrder order, std::size_t most) {
    const Look* look = w.looks().kept();
    if (!look || look->survey->shells.size() < 2) return {};
    const check::Survey& survey = *look->survey;
    const std::vector<check::Shell>& shells = survey.shells;
    const std::vector<std::size_t> damage = damageOf(w, survey);
    std::vector<std::size_t> all;
    for (std::size_t i = 0; i < shells.size(); ++i)
        if (order == ShellOrder::Within ? matters(shells[i], survey) : order == ShellOrder::Depth || damage[i] > 0)
            all.push_back(i);
    ShellList list;
    // One that matters is the part itself.
    const bool isThePart = order == ShellOrder::Within && all.size() == 1;
    if (isThePart) all.clear();
    const std::size_t named = std::min(most, all.size());
    list.rest = shells.size() - named - (isThePart ? 1 : 0);
    const auto comesFirst = [&](std::size_t a, std::size_t b) {
        if (order == ShellOrder::Damage && damage[a] != damage[b]) return damage[a] > damage[b];
        if (order == ShellOrder::Depth && shells[a].depth != shells[b].depth) return shells[a].depth > shells[b].depth;
        const double sizeA = shells[a].box.diagonal();
        const double sizeB = shells[b].box.diagonal();
        return sizeA != sizeB ? sizeA > sizeB : a < b;
    };
    std::partial_sort(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(named), all.end(), comesFirst);
    all.resize(named);
    std::vector<Entry> entries;
    if (order == ShellOrder::Within)
        entries = asTree(all, shells);
    else
        for (const std::size_t s : all) entries.push_back({s, 0});
    for (const auto& [s, indent] : entries)
        list.lines.push_back({s, indent, QString("shell %1").arg(s + 1),
                              detailOf(shells[s], damage[s], w.preferences().numbers()), w.veil().of(shells[s])});
    return list;
}

QString detailOf(const Part& part) {
    const auto survey = part.track.part()->known();
    if (!survey) return QString("%1 tri").arg(spaced(part.track.part()->mesh().triangles.size()));
    const auto& shells = survey->shells;
    const auto mattering =
        std::count_if(shells.begin(), shells.end(), [&](const auto& s) { return matters(s, *survey); });
    QString detail = QString("%1 %2").arg(spaced(shells.size()), shells.size() == 1 ? "shell" : "shells");
    if (static_cast<std::size_t>(mattering) < shells.size())
        detail += QString(" · %1 %2").arg(mattering).arg(mattering == 1 ? "matters" : "matter");
    return detail;
}

std::optional<std::size_t> linkedShell(const Workshop& w) {
    const Look* look = w.looks().kept();
    if (!look) return std::nullopt;
    const auto ofTriangle = [&](mesh::TriangleId t) -> std::optional<std::size_t> {
        const std::uint32_t shell = look->survey->shellOf[t];
        return shell < look->survey->shells.size() ? std::optional<std::size_t>(shell) : std::nullopt;
    };
    if (const auto chosen = w.choice().chosenFinding()) {
        const auto triangles = look->survey->findings.trianglesOf(look->survey->findings.list[*chosen]);
        if (!triangles.empty()) return ofTriangle(triangles.front());
    }
    const mesh::Pick& pick = w.picking().pick();
    return pick.everything() ? std::nullopt : ofTriangle(pick.triangles().back());
}

}  // namespace zither::session
