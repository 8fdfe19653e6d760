// Rungs of a ladder: each longer length takes out more of what rounding cannot hold.
#include "arrange/fit.h"

#include <algorithm>

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
        flags[v] = same >= from.positions.size() || (!made.empty() && made[same]);
    }
    return flags;
}

// A triangle that stands in the settled surface with the coordinates of its source.
std::vector<std::uint8_t> stillUntouched(const Mesh& from, const std::vector<std::uint8_t>& untouched,
                                         const Settled& to) {
    std::vector<std::uint8_t> flags(to.mesh.triangles.size());
    for (TriangleId t = 0; t < flags.size(); ++t) {
        const TriangleId source = to.sourceOf[t];
        flags[t] = !untouched.empty() && untouched[source];
        for (unsigned k = 0; k < 3; ++k) flags[t] &= to.mesh.corner(t, k) == from.corner(source, k);
    }
    return flags;
}

}  // namespace

mesh::Outcome<Fit> makeFit(const Mesh& m, const FitOptions& options, mesh::Progress& progress) {
    Settled exact;
    std::vector<std::uint8_t> made = options.made;
    std::vector<std::uint8_t> untouched = options.untouched;
    bool nothingMade = std::find(made.begin(), made.end(), 1) == made.end();
    if (nothingMade) {
        exact.mesh = m;
        for (TriangleId t = 0; t < m.triangles.size(); ++t) exact.sourceOf.push_back(t);
    } else {
        mesh::PartOfProgress first(progress, 0, 0.3);
        SettleOptions exactly(mesh::Precision::Double);
        exactly.made = made;
        auto settled = settle(m, exactly, first);
        if (!settled) return tl::unexpected(settled.error());
        exact = std::move(*settled);
        made = carried(m, options.made, exact.mesh);
        untouched = stillUntouched(m, options.untouched, exact);
    }
    // Far from the origin a file's own grid is coarser than the length that most meshers go by.
    const mesh::Box box = mesh::boxOf(m);
    const double farthest = box.empty() ? 0 : std::max(box.min.cwiseAbs().maxCoeff(), box.max.cwiseAbs().maxCoeff());
    double reach =
        std::max(tolerance::needleHeight * box.diagonal(), 2 * mesh::unitInLastPlace(options.precision, farthest));
    Fit best;
    constexpr int rungs = 4;
    for (int rung = 0; rung < rungs; ++rung, reach *= 4) {
        mesh::PartOfProgress part(progress, 0.3 + 0.7 * rung / rungs, 0.3 + 0.7 * (rung + 1) / rungs);
        SliverResult clean;
        if (!nothingMade) {
            mesh::PartOfProgress cleaning(part, 0, 0.4);
            auto slivers =
                removeSlivers(exact.mesh, {.tolerance = reach, .movable = made, .fixed = untouched}, cleaning);
            if (!slivers) return tl::unexpected(slivers.error());
            clean = std::move(*slivers);
        } else {
            clean.mesh = exact.mesh;
            for (TriangleId t = 0; t < exact.mesh.triangles.size(); ++t) clean.sourceOf.push_back(t);
        }
        mesh::PartOfProgress rounding(part, 0.4, 1);
        auto settled = settle(clean.mesh, options.precision, rounding);
        if (!settled) return tl::unexpected(settled.error());
        const bool sound = settled->unsound.empty();
        if (rung == 0 || settled->unsound.size() < best.unsound.size()) {
            static_cast<Settled&>(best) = std::move(*settled);
            for (TriangleId& t : best.sourceOf) t = exact.sourceOf[clean.sourceOf[t]];
            best.farthestMoved += exact.farthestMoved + clean.farthestMoved;
            best.collapsed = clean.collapsed;
            best.swapped = clean.swapped;
        }
        if (sound) break;
        // What was given stays only as long as it can.
        if (nothingMade || rung + 2 == rungs) {
            made.clear();
            untouched.clear();
            nothingMade = false;
        }
    }
    if (!progress.report(1)) return mesh::cancelled();
    return best;
}

}  // namespace zither::arrange
