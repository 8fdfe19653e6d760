// Edges between two names, as flat triangles in a tree.
#include "measure/regions.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <string>
#include <utility>

#include "space/triangle_tree.h"

namespace zither::measure {
namespace {

using mesh::Mesh;
using mesh::Point;

using Names = std::pair<std::string, std::string>;  // in the order of the alphabet

std::set<std::string> namesOf(const Mesh& m) {
    std::set<std::string> names;
    if (m.regions.empty()) return names;
    std::vector<std::uint8_t> has(m.regionNames.size(), 0);
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        if (!has[m.regions[t]] && mesh::areaVector(m, t).norm() > 0) {
            has[m.regions[t]] = 1;
            names.insert(m.regionNames[m.regions[t]]);
        }
    return names;
}

// Each edge as a triangle that has no area, by the names on its sides.
std::map<Names, Mesh> bordersOf(const RegionSurface& s) {
    std::map<Names, Mesh> borders;
    if (s.mesh.regions.empty()) return borders;
    for (mesh::EdgeId e = 0; e < s.edges.count(); ++e) {
        const auto around = s.edges.around(e);
        if (around.size() != 2) continue;
        const std::uint32_t a = s.mesh.regions[mesh::triangleOf(around[0])];
        const std::uint32_t b = s.mesh.regions[mesh::triangleOf(around[1])];
        if (a == b) continue;
        const auto [low, high] = std::minmax(s.mesh.regionNames[a], s.mesh.regionNames[b]);
        Mesh& m = borders[{low, high}];
        const std::uint32_t first = static_cast<std::uint32_t>(m.positions.size());
        m.positions.push_back(s.mesh.positions[mesh::fromVertex(s.mesh, around[0])]);
        m.positions.push_back(s.mesh.positions[mesh::toVertex(s.mesh, around[0])]);
        m.triangles.push_back({first, first + 1, first + 1});
    }
    return borders;
}

}  // namespace

RegionChange regionChange(const RegionSurface& import, const RegionSurface& result, double tolerance) {
    RegionChange change;
    const std::set<std::string> now = namesOf(result.mesh);
    for (const std::string& name : namesOf(import.mesh)) change.lost += !now.contains(name);
    double whole = 0;
    double gone = 0;
    const std::map<Names, Mesh> after = bordersOf(result);
    for (const auto& [names, borders] : bordersOf(import)) {
        const auto found = after.find(names);
        const Mesh none;
        const space::TriangleTree tree(found == after.end() ? none : found->second);
        for (mesh::TriangleId t = 0; t < borders.triangles.size(); ++t) {
            const Point& a = borders.corner(t, 0);
            const Point& b = borders.corner(t, 1);
            const double length = (b - a).norm();
            constexpr double most = 100;
            const int parts = static_cast<int>(std::clamp(std::ceil(2 * length / tolerance), 1.0, most));
            for (int i = 0; i < parts; ++i)
                if (!tree.reaches(a + (i + 0.5) / parts * (b - a), tolerance)) gone += length / parts;
            whole += length;
        }
    }
    if (whole > 0) change.bordersLost = gone / whole;
    return change;
}

}  // namespace zither::measure
