// By edges, by pairs, and by the sign of the volume.
#include "check/tight_shells.h"

#include <Eigen/Geometry>

namespace zither::check {

using mesh::Point;
using mesh::TriangleId;

std::vector<std::int8_t> tightShells(const Surveyed& s, const std::vector<TrianglePair>& crossing) {
    const Mesh& m = s.mesh();
    const mesh::Groups& shells = s.shells();
    const mesh::Edges& edges = s.edges();
    std::vector<std::uint8_t> tight(shells.count, 1);
    for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
        const auto around = edges.around(e);
        if (around.size() != 2 || fromVertex(m, around[0]) == fromVertex(m, around[1]))
            tight[shells.of[mesh::triangleOf(around[0])]] = 0;
    }
    for (const TrianglePair& pair : crossing) {
        const std::uint32_t shell = shells.of[pair.first];
        if (shell == shells.of[pair.second] && shell != mesh::noEdge) tight[shell] = 0;
    }
    // About a corner of each shell, so that far from the origin no digits are lost.
    std::vector<double> volume(shells.count, 0);
    std::vector<TriangleId> first(shells.count, mesh::noIndex);
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        const std::uint32_t shell = shells.of[t];
        if (shell == mesh::noEdge) continue;
        if (first[shell] == mesh::noIndex) first[shell] = t;
        volume[shell] += mesh::areaVector(m, t).dot(m.corner(t, 0) - m.corner(first[shell], 0));
    }
    std::vector<std::int8_t> of(m.triangles.size(), 0);
    for (TriangleId t = 0; t < of.size(); ++t) {
        const std::uint32_t shell = shells.of[t];
        if (shell == mesh::noEdge || !tight[shell] || volume[shell] == 0) continue;
        of[t] = volume[shell] > 0 ? 1 : -1;
    }
    return of;
}

}  // namespace zither::check
