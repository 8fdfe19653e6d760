// Winding numbers beside closed shells, from who holds whom.
#include "repair/absorb.h"

#include <algorithm>

#include "check/shell_list.h"

namespace zither::repair {
namespace {

// With all that they hold, so that voids in them are bodies in a void then. `mayGo`: which may.
std::vector<std::uint8_t> buriedWithAllTheyHold(const check::NestedShells& nested,
                                                const std::vector<std::uint8_t>& mayGo) {
    std::vector<std::uint8_t> turned(nested.shells.size(), 0);
    for (std::size_t i = 0; i < turned.size(); ++i) {
        if (!nested.shells[i].closed || !mayGo[i]) continue;
        int turns = nested.shells[i].buried;
        // One within another is turned with it once, not twice.
        for (const std::uint32_t holder : nested.holders[i]) turns |= nested.shells[holder].buried && mayGo[holder];
        turned[i] = turns != 0;
    }
    return turned;
}

}  // namespace

Outcome<AbsorbResult> absorb(const check::Surveyed& s, const Pick& pick, Buried buried, Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    const Mesh& m = s.mesh();
    const mesh::Groups& groups = s.shells();
    mesh::PartOfProgress searching(progress, 0, 0.7);
    const auto crossing = check::crossingPairs(s.tree(), searching, {.leftOut = s.degenerate()});
    if (!crossing) return mesh::errorOf(crossing);
    mesh::PartOfProgress nesting(progress, 0.7, 1);
    const auto nested = check::nestedShells(s, *crossing, nesting);
    if (!nested) return mesh::errorOf(nested);
    const std::vector<check::Shell>& shells = nested->shells;
    std::vector<std::uint8_t> mayGo(shells.size(), 1);
    const std::vector<std::uint8_t> picked = pick.mask(m);
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        if (groups.of[t] != mesh::noEdge && !picked[t]) mayGo[groups.of[t]] = 0;
    for (const auto& [a, b] : *crossing)
        if (groups.of[a] != groups.of[b]) mayGo[groups.of[a]] = mayGo[groups.of[b]] = 0;

    const bool turns = buried == Buried::Void;
    std::vector<std::uint8_t> chosen(shells.size(), 0);
    if (turns)
        chosen = buriedWithAllTheyHold(*nested, mayGo);
    else
        for (std::size_t i = 0; i < shells.size(); ++i)
            chosen[i] = mayGo[i] && shells[i].closed && shells[i].around > 0 &&
                        shells[i].around + shells[i].volumeSign > 0 && shells[i].volumeSign != 0;

    AbsorbResult result;
    result.mesh = m;
    for (std::size_t i = 0; i < shells.size(); ++i) {
        if (!chosen[i]) continue;
        const check::Shell& shell = shells[i];
        result.shells.push_back({shell.box.centre(), shell.box.diagonal(), shell.volume, shell.triangles});
        if (turns) result.emptied += shell.volume;
    }
    std::stable_sort(result.shells.begin(), result.shells.end(),
                     [](const auto& a, const auto& b) { return a.size > b.size; });
    const auto isChosen = [&](mesh::TriangleId t) { return groups.of[t] != mesh::noEdge && chosen[groups.of[t]] != 0; };
    if (turns) {
        for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
            if (isChosen(t)) std::swap(result.mesh.triangles[t][1], result.mesh.triangles[t][2]);
    } else if (!result.shells.empty()) {
        std::vector<std::uint8_t> keep(m.triangles.size(), 1);
        for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) keep[t] = !isChosen(t);
        result.mesh = mesh::keepTriangles(m, keep);
    }
    if (!progress.report(1)) return mesh::cancelled();
    return result;
}

}  // namespace zither::repair
