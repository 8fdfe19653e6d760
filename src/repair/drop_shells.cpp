// Shells are listed with their nesting; open ones are enclosed where closed ones wind about them.
#include "repair/drop_shells.h"

#include <algorithm>
#include <cmath>

#include "check/shell_list.h"
#include "space/winding.h"

namespace zither::repair {
namespace {

// Closed shells tell exactly what they enclose; of open ones, those about which the closed ones wind are enclosed.
std::vector<std::uint8_t> enclosedShells(const check::Surveyed& s, const std::vector<check::Shell>& shells) {
    const Mesh& m = s.mesh();
    const mesh::Groups& groups = s.shells();
    std::vector<std::uint8_t> enclosed(shells.size(), 0);
    std::vector<mesh::TriangleId> closed;
    bool anyOpen = false;
    for (std::size_t i = 0; i < shells.size(); ++i) {
        enclosed[i] = shells[i].depth > 0;
        anyOpen |= !shells[i].closed;
    }
    if (!anyOpen) return enclosed;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        if (groups.of[t] != mesh::noEdge && shells[groups.of[t]].closed) closed.push_back(t);
    const space::WindingTree winding(m, closed, std::vector<int>(m.triangles.size(), 1));
    for (std::size_t i = 0; i < shells.size(); ++i)
        if (!shells[i].closed) enclosed[i] = std::abs(winding.at(m.corner(shells[i].firstTriangle, 0))) > 0.5;
    return enclosed;
}

}  // namespace

Outcome<DropShellsResult> dropShells(const check::Surveyed& s, const Pick& pick, const DropShellsOptions& options,
                                     Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    const Mesh& m = s.mesh();
    const mesh::Groups& groups = s.shells();
    mesh::PartOfProgress listing(progress, 0, 0.6);
    const auto list = check::shellList(s, {}, listing);
    if (!list) return mesh::errorOf(list);
    const std::vector<check::Shell>& shells = *list;
    const double wholeSize = mesh::boxOf(m).diagonal();
    const auto wholeTriangles = static_cast<double>(m.triangles.size());
    const auto largest = std::max_element(
        shells.begin(), shells.end(), [](const auto& a, const auto& b) { return a.box.diagonal() < b.box.diagonal(); });

    std::vector<std::uint8_t> drop(shells.size(), 0);
    const std::vector<std::uint8_t> enclosed = enclosedShells(s, shells);
    if (!progress.report(0.8)) return mesh::cancelled();
    for (std::size_t i = 0; i < shells.size(); ++i)
        drop[i] = (!options.enclosedOnly || enclosed[i]) &&
                  shells.begin() + static_cast<std::ptrdiff_t>(i) != largest &&
                  shells[i].box.diagonal() < options.belowSizeShare * wholeSize &&
                  static_cast<double>(shells[i].triangles) < options.belowTriangleShare * wholeTriangles;
    const std::vector<std::uint8_t> chosen = pick.mask(m);
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        if (groups.of[t] != mesh::noEdge && !chosen[t]) drop[groups.of[t]] = 0;

    DropShellsResult result;
    for (std::size_t i = 0; i < shells.size(); ++i) {
        const check::Shell& shell = shells[i];
        if (drop[i])
            result.dropped.push_back({shell.box.centre(), shell.box.diagonal(), shell.area, shell.volume, shell.closed,
                                      enclosed[i] != 0, shell.triangles});
        else
            ++result.kept;
    }
    std::sort(result.dropped.begin(), result.dropped.end(),
              [](const auto& a, const auto& b) { return a.size > b.size; });
    std::vector<std::uint8_t> keep(m.triangles.size(), 1);
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        keep[t] = groups.of[t] == mesh::noEdge || !drop[groups.of[t]];
    result.mesh = mesh::keepTriangles(m, keep);
    if (!progress.report(1)) return mesh::cancelled();
    return result;
}

}  // namespace zither::repair
