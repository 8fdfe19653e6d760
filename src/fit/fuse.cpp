// The skin, settled and freed of slivers; again with near vertices joined where the file cannot tell them apart.
#include "fit/fuse.h"

#include <algorithm>

#include "fit/fit_tolerances.h"
#include "fit/settle.h"
#include "fit/sliver_removal.h"
#include "mesh/vertex_join.h"
#include "space/cell_grid.h"

namespace zither::fit {
namespace {

// Moves each vertex onto the first one within the distance; returns how many moved.
std::size_t snapVertices(mesh::Mesh& m, double distance) {
    space::CellGrid grid(distance);
    std::size_t moved = 0;
    for (mesh::VertexId v = 0; v < m.positions.size(); ++v) {
        const mesh::Point* onto = nullptr;
        grid.near(space::around(m.positions[v], distance), [&](mesh::VertexId w) {
            if (!onto && (m.positions[w] - m.positions[v]).norm() <= distance) onto = &m.positions[w];
        });
        if (onto) {
            m.positions[v] = *onto;
            ++moved;
        } else {
            grid.add(v, m.positions[v]);
        }
    }
    if (moved > 0) mesh::joinEqualVertices(m);
    return moved;
}

// One flag a vertex of `out`: no vertex of `in` has its coordinates.
std::vector<std::uint8_t> newVertices(const mesh::Mesh& in, const mesh::Mesh& out) {
    std::vector<std::uint8_t> isNew;
    for (const mesh::VertexId v : mesh::equalIn(in.positions, out.positions)) isNew.push_back(v == mesh::noIndex);
    return isNew;
}

mesh::Outcome<FuseResult> fuseOperands(const check::Surveyed& s, const arrange::SkinOptions& operands,
                                       const FuseOptions& options, mesh::Progress& progress) {
    mesh::PartOfProgress cutting(progress, 0, 0.65);
    auto skin = arrange::skinOf(s, operands, cutting);
    if (!skin) return mesh::errorOf(skin);
    FuseResult result;
    result.crossingPairs = skin->crossingPairs;
    result.shellsIn = skin->shellsIn;
    result.gone = std::move(skin->gone);
    result.trianglesCut = skin->cut;
    result.openShells = skin->openShells;
    result.buriedPieces = skin->buriedPieces;
    result.inwardShells = skin->inwardShells;

    mesh::PartOfProgress settling(progress, 0.65, 0.9);
    SettleOptions settle(options.precision);
    for (const mesh::VertexId v : skin->givenVertex) settle.made.push_back(v == mesh::noIndex);
    // Around 0 a file holds far finer coordinates than anywhere else: among them mending would not end.
    if (options.precision == mesh::Precision::Single) settle.grid = madeGrid(skin->mesh);
    auto settled = fit::settle(skin->mesh, settle, settling);
    if (!settled) return mesh::errorOf(settled);
    std::vector<std::uint8_t> whole(settled->mesh.triangles.size(), 0);
    for (mesh::TriangleId t = 0; t < whole.size(); ++t) {
        const mesh::TriangleId source = settled->sourceOf[t];
        if (source >= skin->whole) continue;
        whole[t] = 1;
        for (unsigned k = 0; k < 3; ++k) whole[t] &= settled->mesh.corner(t, k) == skin->mesh.corner(source, k);
        result.kept += whole[t];
    }
    result.recut = settled->recut;
    result.separated = settled->separated;
    result.farthestRounded = settled->farthestMoved;
    result.unsound = std::move(settled->unsound);
    result.mesh = std::move(settled->mesh);
    // As much as what follows takes.
    skin = arrange::Skin();
    settled = Settled();
    if (options.slivers > 0 && result.unsound.empty()) {
        mesh::PartOfProgress cleaning(progress, 0.9, 1);
        SliverOptions slivers{.tolerance = options.slivers,
                              .angleDeg = tolerance::fitAngleDeg,
                              .movable = newVertices(s.mesh(), result.mesh),
                              .fixed = std::move(whole),
                              .slides = true};
        auto clean = removeSlivers(result.mesh, slivers, cleaning);
        if (!clean) return mesh::errorOf(clean);
        result.sliversRemoved = clean->collapsed + clean->swapped;
        result.farthestMoved = clean->farthestMoved;
        result.mesh = std::move(clean->mesh);
    }
    return result;
}

// Surfaces that lie within a few units in the last place of each other leave slivers that no rounding can hold. Where
// settling fails for them, vertices that close together are made one first, and all is done again.
mesh::Outcome<FuseResult> fuseAndSettle(const check::Surveyed& s, const arrange::SkinOptions& operands,
                                        const FuseOptions& options, mesh::Progress& progress) {
    const mesh::Mesh& m = s.mesh();
    mesh::PartOfProgress first(progress, 0, 0.9);
    auto result = fuseOperands(s, operands, options, first);
    const mesh::Box box = mesh::boxOf(m);
    const double unit = box.empty() ? 0 : mesh::unitInLastPlace(options.precision, box.farthest());
    for (const double units : {2.0, 8.0, 32.0}) {
        if (!result || result->unsound.empty() || result->openShells > 0) break;
        mesh::Mesh snapped = m;
        const std::size_t count = snapVertices(snapped, units * unit);
        if (count == 0) continue;
        mesh::PartOfProgress again(progress, 0.9, 1);
        auto retried = fuseOperands(snapped, operands, options, again);
        if (!retried) return retried;
        if (retried->unsound.size() >= result->unsound.size()) continue;
        result = std::move(retried);
        result->snapped = count;
        result->snapDistance = units * unit;
    }
    return result;
}

// What was not picked stands beside the result.
void putBeside(const mesh::Mesh& m, const std::vector<std::uint8_t>& chosen, FuseResult& result) {
    std::vector<std::uint8_t> others(chosen.size());
    for (std::size_t t = 0; t < chosen.size(); ++t) others[t] = chosen[t] == 0;
    mesh::Mesh rest = mesh::keepTriangles(m, others);
    result.kept += rest.triangles.size();
    mesh::append(rest, result.mesh);
    rest.regionNames = result.mesh.regionNames.size() > m.regionNames.size() ? result.mesh.regionNames : m.regionNames;
    if (!m.regions.empty()) {
        // append numbers the regions of what it appends anew; here they are the same ones.
        const std::size_t first = rest.triangles.size() - result.mesh.triangles.size();
        for (std::size_t i = 0; i < result.mesh.regions.size(); ++i) rest.regions[first + i] = result.mesh.regions[i];
    }
    mesh::joinEqualVertices(rest);
    result.mesh = std::move(rest);
}

mesh::Outcome<FuseResult> fuseAll(const check::Surveyed& s, const FuseOptions& options, mesh::Progress& progress) {
    if (!options.with) return fuseAndSettle(s, {}, options, progress);
    const mesh::Mesh& m = s.mesh();
    mesh::Mesh both = m;
    mesh::append(both, *options.with);
    mesh::joinEqualVertices(both);
    arrange::SkinOptions operands;
    operands.solid = options.solid;
    operands.operandOf.assign(both.triangles.size(), 1);
    std::fill_n(operands.operandOf.begin(), m.triangles.size(), std::uint8_t{0});
    return fuseAndSettle(check::Surveyed(both), operands, options, progress);
}

}  // namespace

mesh::Outcome<FuseResult> fuse(const check::Surveyed& s, const mesh::Pick& pick, const FuseOptions& options,
                               mesh::Progress& progress) {
    if (pick.everything()) return fuseAll(s, options, progress);
    const std::vector<std::uint8_t> chosen = pick.mask(s.mesh());
    const mesh::Mesh picked = mesh::keepTriangles(s.mesh(), chosen);
    auto result = fuseAll(check::Surveyed(picked), options, progress);
    if (result) putBeside(s.mesh(), chosen, *result);
    return result;
}

}  // namespace zither::fit
