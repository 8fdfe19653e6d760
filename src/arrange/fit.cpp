// Rungs of a ladder: each longer length takes out more of what rounding cannot hold.
#include "arrange/fit.h"

#include <algorithm>

#include "arrange/settle.h"
#include "arrange/slivers.h"
#include "mesh/tolerances.h"
#include "mesh/vertex_join.h"

namespace zither::arrange {
namespace {

using mesh::Mesh;
using mesh::TriangleId;

// The flags of vertices of `from` for those of `to`: a vertex with other coordinates than any of `from` is made.
std::vector<std::uint8_t> carried(const Mesh& from, const std::vector<std::uint8_t>& made, const Mesh& to) {
    std::vector<mesh::Point> both = from.positions;
    both.insert(both.end(), to.positions.begin(), to.positions.end());
    const std::vector<mesh::VertexId> first = mesh::firstOfEqual(std::span<const mesh::Point>(both));
    std::vector<std::uint8_t> flags(to.positions.size());
    for (std::size_t v = 0; v < flags.size(); ++v) {
        const mesh::VertexId same = first[from.positions.size() + v];
        flags[v] = same >= from.positions.size() || made[same];
    }
    return flags;
}

// A triangle that stands in the settled surface with the coordinates of its source.
std::vector<std::uint8_t> stillUntouched(const Mesh& from, const std::vector<std::uint8_t>& untouched,
                                         const Settled& to) {
    std::vector<std::uint8_t> flags(to.mesh.triangles.size());
    for (TriangleId t = 0; t < flags.size(); ++t) {
        const TriangleId source = to.sourceOf[t];
        flags[t] = untouched[source];
        for (unsigned k = 0; k < 3; ++k) flags[t] &= to.mesh.corner(t, k) == from.corner(source, k);
    }
    return flags;
}

}  // namespace

mesh::Outcome<Fit> makeFit(const Mesh& m, const FitOptions& options, mesh::Progress& progress) {
    mesh::PartOfProgress first(progress, 0, 0.3);
    auto exact = settle(m, mesh::Precision::Double, first);
    if (!exact) return tl::unexpected(exact.error());
    const std::vector<std::uint8_t> made = carried(m, options.made, exact->mesh);
    const std::vector<std::uint8_t> untouched = stillUntouched(m, options.untouched, *exact);
    const bool nothingMade = std::find(made.begin(), made.end(), 1) == made.end();
    const double length = tolerance::needleHeight * mesh::boxOf(m).diagonal();
    Fit best;
    bool any = false;
    constexpr int rungs = 4;
    double reach = length;
    for (int rung = 0; rung < rungs; ++rung, reach *= 4) {
        mesh::PartOfProgress part(progress, 0.3 + 0.7 * rung / rungs, 0.3 + 0.7 * (rung + 1) / rungs);
        Fit fit;
        Mesh clean = exact->mesh;
        std::vector<TriangleId> cleanSource(clean.triangles.size());
        for (TriangleId t = 0; t < cleanSource.size(); ++t) cleanSource[t] = t;
        if (!nothingMade) {
            mesh::PartOfProgress cleaning(part, 0, 0.4);
            auto slivers =
                removeSlivers(exact->mesh, {.tolerance = reach, .movable = made, .fixed = untouched}, cleaning);
            if (!slivers) return tl::unexpected(slivers.error());
            fit.collapsed = slivers->collapsed;
            fit.swapped = slivers->swapped;
            fit.farthestMoved = slivers->farthestMoved;
            clean = std::move(slivers->mesh);
            cleanSource = std::move(slivers->sourceOf);
        }
        mesh::PartOfProgress rounding(part, 0.4, 1);
        auto settled = settle(clean, options.precision, rounding);
        if (!settled) return tl::unexpected(settled.error());
        fit.farthestMoved += settled->farthestMoved;
        fit.unsound = std::move(settled->unsound);
        fit.mesh = std::move(settled->mesh);
        for (const TriangleId t : settled->sourceOf) fit.sourceOf.push_back(exact->sourceOf[cleanSource[t]]);
        const bool sound = fit.unsound.empty();
        if (!any || fit.unsound.size() < best.unsound.size()) best = std::move(fit);
        any = true;
        if (sound || nothingMade) break;
    }
    if (!progress.report(1)) return mesh::cancelled();
    return best;
}

}  // namespace zither::arrange
