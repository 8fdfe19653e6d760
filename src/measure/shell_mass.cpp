// Seen from the first corner of each shell, so that what is far from the origin is not lost in rounding.
#include "measure/shell_mass.h"

#include <Eigen/Geometry>

namespace zither::measure {

std::vector<ShellMass> massOfShells(const mesh::Mesh& m, const mesh::Groups& shells) {
    std::vector<ShellMass> masses(shells.count);
    std::vector<mesh::TriangleId> first(shells.count, mesh::noIndex);
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) {
        const std::uint32_t s = shells.of[t];
        if (s == mesh::noEdge) continue;
        if (first[s] == mesh::noIndex) first[s] = t;
        const mesh::Point n = mesh::areaVector(m, t);
        masses[s].area += 0.5 * n.norm();
        masses[s].volume += n.dot(m.corner(t, 0) - m.corner(first[s], 0)) / 6;
    }
    return masses;
}

}  // namespace zither::measure
