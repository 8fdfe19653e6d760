#include "repair/fuse.h"

#include <algorithm>

namespace zither::repair {
namespace {

mesh::Outcome<FuseResult> fuseOperands(const mesh::Mesh& m, const SkinOptions& operands, Precision precision,
                                       mesh::Progress& progress) {
    mesh::PartOfProgress cutting(progress, 0, 0.7);
    auto skin = skinOf(m, operands, cutting);
    if (!skin) return tl::unexpected(skin.error());
    FuseResult result;
    result.crossingPairs = skin->crossingPairs;
    result.shellsIn = skin->shellsIn;
    result.gone = std::move(skin->gone);
    result.trianglesCut = skin->cut;
    result.openShells = skin->openShells;
    result.buriedPieces = skin->buriedPieces;
    result.inwardShells = skin->inwardShells;

    mesh::PartOfProgress settling(progress, 0.7, 1);
    auto settled = settle(skin->mesh, precision, settling);
    if (!settled) return tl::unexpected(settled.error());
    for (std::size_t i = 0; i < settled->mesh.triangles.size(); ++i) {
        const mesh::TriangleId source = settled->sourceOf[i];
        if (source >= skin->whole) continue;
        bool same = true;
        for (unsigned k = 0; k < 3; ++k)
            same &= settled->mesh.corner(static_cast<mesh::TriangleId>(i), k) == skin->mesh.corner(source, k);
        result.kept += same;
    }
    result.recut = settled->recut;
    result.separated = settled->separated;
    result.farthestRounded = settled->farthestMoved;
    result.unsound = std::move(settled->unsound);
    result.mesh = std::move(settled->mesh);
    return result;
}

}  // namespace

Precision precisionOf(const mesh::Mesh& m) {
    return fitsPrecision(m, Precision::Single) ? Precision::Single : Precision::Double;
}

mesh::Outcome<FuseResult> fuse(const mesh::Mesh& m, const mesh::Pick& pick, const FuseOptions& options,
                               mesh::Progress& progress) {
    if (pick.everything()) return fuseOperands(m, {}, options.precision, progress);
    std::vector<std::uint8_t> chosen = pick.mask(m);
    auto result = fuseOperands(mesh::keepTriangles(m, chosen), {}, options.precision, progress);
    if (!result) return result;
    for (std::uint8_t& c : chosen) c = c == 0;
    mesh::Mesh rest = mesh::keepTriangles(m, chosen);
    result->kept += rest.triangles.size();
    mesh::append(rest, result->mesh);
    rest.regionNames = m.regionNames;
    if (!m.regions.empty()) {
        // append numbers the regions of what it appends anew; here they are the same ones.
        const std::size_t first = rest.triangles.size() - result->mesh.triangles.size();
        for (std::size_t i = 0; i < result->mesh.regions.size(); ++i) rest.regions[first + i] = result->mesh.regions[i];
    }
    mesh::joinEqualVertices(rest);
    result->mesh = std::move(rest);
    return result;
}

mesh::Outcome<FuseResult> fuseWith(const mesh::Mesh& m, const mesh::Mesh& other, const FuseOptions& options,
                                   mesh::Progress& progress) {
    mesh::Mesh both = m;
    mesh::append(both, other);
    mesh::joinEqualVertices(both);
    SkinOptions operands;
    operands.solid = options.solid;
    operands.operandOf.assign(both.triangles.size(), 1);
    std::fill_n(operands.operandOf.begin(), m.triangles.size(), std::uint8_t{0});
    return fuseOperands(both, operands, options.precision, progress);
}

}  // namespace zither::repair
