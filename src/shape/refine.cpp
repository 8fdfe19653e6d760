// Splits of a surface that knows its neighbours.
#include "shape/refine.h"

#include "mesh/memory.h"
#include "shape/longest_first.h"
#include "shape/target_length.h"

namespace zither::shape {

mesh::Outcome<Refined> refine(const check::Surveyed& s, const mesh::Pick& pick, double length) {
    const Mesh& m = s.mesh();
    constexpr double bytesATriangle = 300;
    // Bisected triangles are half as large as even ones, on average.
    const double bytes =
        std::min(1e18, 2 * bytesATriangle * expectedTriangles(m, std::vector<double>(m.positions.size(), length)));
    if (auto fits = mesh::enoughMemory("so many triangles", static_cast<std::uint64_t>(bytes)); !fits)
        return tl::unexpected(fits.error());
    LinkedSurface surface(m, s.edges());
    const std::vector<std::uint8_t> picked =
        pick.everything() ? std::vector<std::uint8_t>(m.triangles.size(), 1) : pick.mask(m);
    for (mesh::EdgeId e = 0; e < s.edges().count(); ++e) {
        const auto around = s.edges().around(e);
        bool free = around.size() <= 2 && (around.size() < 2 || !mesh::runsAlong(m, around[0], around[1]));
        for (const HalfEdge h : around) free = free && picked[h / 3];
        if (free) continue;
        for (const HalfEdge h : around) surface.setLine(h, lockedLine);
    }
    Refined result;
    splitLongestFirst(
        surface, [&](HalfEdge h) { return (surface.at(surface.from(h)) - surface.at(surface.to(h))).norm() / length; },
        [&](HalfEdge h) {
            surface.split(h, 0.5 * (surface.at(surface.from(h)) + surface.at(surface.to(h))));
            ++result.split;
        });
    result.mesh = surface.compact(m).mesh;
    return result;
}

}  // namespace zither::shape
