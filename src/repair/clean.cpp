// One pass over flags.
#include "repair/clean.h"

#include "check/surplus_triangles.h"

namespace zither::repair {

Outcome<CleanResult> clean(const check::Surveyed& s, const Pick& pick, Progress& progress) {
    const Mesh& m = s.mesh();
    if (!progress.report(0)) return mesh::cancelled();
    const std::vector<std::uint8_t> chosen = pick.mask(m);
    std::vector<std::uint8_t> keep(m.triangles.size(), 1);
    CleanResult result;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        if (chosen[t] && mesh::isCollapsed(m.triangles[t])) {
            keep[t] = 0;
            ++result.collapsed;
        }
    for (mesh::TriangleId t : check::surplusTriangles(s))
        if (chosen[t]) {
            keep[t] = 0;
            ++result.duplicates;
        }
    if (!progress.report(0.8)) return mesh::cancelled();
    const std::size_t before = m.positions.size();
    result.mesh = mesh::keepTriangles(m, keep);
    result.unusedVertices = before - result.mesh.positions.size();
    if (!progress.report(1)) return mesh::cancelled();
    return result;
}

}  // namespace zither::repair
