// Rungs of a ladder: each longer length takes out more of what rounding cannot hold.
#include "arrange/fit.h"

#include <algorithm>
#include <map>

#include "arrange/cut_surface.h"
#include "arrange/slivers.h"
#include "mesh/tolerances.h"
#include "mesh/vertex_join.h"
#include "space/cell_grid.h"

namespace zither::arrange {
namespace {

using mesh::Mesh;
using mesh::TriangleId;

// The flags of vertices of `from` for those of `to`: a vertex with other coordinates than any of `from` is made.
std::vector<std::uint8_t> carried(const Mesh& from, const std::vector<std::uint8_t>& made, const Mesh& to) {
    std::vector<std::uint8_t> flags;
    for (const mesh::VertexId same : mesh::equalIn(from.positions, to.positions))
        flags.push_back(same == mesh::noIndex || (!made.empty() && made[same]));
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

// Made vertices onto the first vertex within the distance: constructed points that crowd together are one. Of the
// triangles that are left, those on the same corners that face opposite ways cancel out. `sourceOf` follows.
double joinCrowded(Mesh& m, std::vector<std::uint8_t>& made, std::vector<TriangleId>& sourceOf, double distance) {
    space::CellGrid grid(distance);
    double farthest = 0;
    std::vector<mesh::VertexId> onto(m.positions.size());
    for (mesh::VertexId v = 0; v < onto.size(); ++v) {
        onto[v] = v;
        if (made[v])
            grid.near(space::around(m.positions[v], distance), [&](mesh::VertexId w) {
                const double apart = (m.positions[w] - m.positions[v]).norm();
                if (onto[v] != v || apart > distance) return;
                onto[v] = w;
                farthest = std::max(farthest, apart);
            });
        if (onto[v] == v) grid.add(v, m.positions[v]);
    }
    std::map<mesh::Triangle, std::vector<TriangleId>> alike;
    std::vector<std::uint8_t> keep(m.triangles.size(), 1);
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        bool changed = false;
        for (mesh::VertexId& v : m.triangles[t]) {
            changed |= onto[v] != v;
            v = onto[v];
        }
        if (mesh::isCollapsed(m.triangles[t]))
            keep[t] = 0;
        else if (changed)
            alike[mesh::sortedCorners(m.triangles[t])].push_back(t);
    }
    if (!alike.empty())
        for (TriangleId t = 0; t < m.triangles.size(); ++t)
            if (keep[t])
                if (const auto it = alike.find(mesh::sortedCorners(m.triangles[t]));
                    it != alike.end() && std::find(it->second.begin(), it->second.end(), t) == it->second.end())
                    it->second.push_back(t);
    for (const auto& [corners, list] : alike) {
        int balance = 0;
        const auto turn = [&, &sorted = corners](TriangleId t) { return sameTurn(sorted, m.triangles[t]); };
        for (const TriangleId t : list) balance += turn(t);
        // What is left of them: at most one, facing as most of them do.
        bool stays = balance == 0;
        for (const TriangleId t : list) {
            const bool stay = !stays && turn(t) == (balance > 0 ? 1 : -1);
            stays |= stay;
            keep[t] = stay;
        }
    }
    std::vector<std::uint8_t> used(m.positions.size(), 0);
    std::vector<TriangleId> sources;
    for (TriangleId t = 0; t < keep.size(); ++t) {
        if (!keep[t]) continue;
        sources.push_back(sourceOf[t]);
        for (const mesh::VertexId v : m.triangles[t]) used[v] = 1;
    }
    std::vector<std::uint8_t> flags;
    for (std::size_t v = 0; v < used.size(); ++v)
        if (used[v]) flags.push_back(made[v]);
    m = mesh::keepTriangles(m, keep);
    made = std::move(flags);
    sourceOf = std::move(sources);
    return farthest;
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
        Mesh joined = m;
        std::vector<TriangleId> sourceOf(m.triangles.size());
        for (TriangleId t = 0; t < sourceOf.size(); ++t) sourceOf[t] = t;
        const double crowded = tolerance::crowdedPoints * mesh::boxOf(m).diagonal();
        const double moved = joinCrowded(joined, made, sourceOf, crowded);
        SettleOptions exactly(mesh::Precision::Double);
        exactly.made = made;
        exactly.part = false;  // by what the file holds, afterwards
        auto settled = settle(joined, exactly, first);
        if (!settled) return tl::unexpected(settled.error());
        exact = std::move(*settled);
        for (TriangleId& t : exact.sourceOf) t = sourceOf[t];
        exact.farthestMoved += moved;
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
        const std::size_t left = settled->unsound.size();
        // A rung that gains nothing, or leaves a fifth of all, says that the next will not help either: on to the last.
        const bool hopeless = 5 * left > settled->mesh.triangles.size();
        const bool stuck = hopeless || (rung > 0 && 10 * left > 9 * best.unsound.size());
        if (rung == 0 || left < best.unsound.size()) {
            static_cast<Settled&>(best) = std::move(*settled);
            for (TriangleId& t : best.sourceOf) t = exact.sourceOf[clean.sourceOf[t]];
            best.farthestMoved += exact.farthestMoved + clean.farthestMoved;
            best.collapsed = clean.collapsed;
            best.swapped = clean.swapped;
        }
        if (sound) break;
        for (; stuck && rung + 2 < rungs; ++rung) reach *= 4;
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
