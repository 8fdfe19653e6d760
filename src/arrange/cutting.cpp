// Pairs, figures, then the cutting of each triangle alone or together with those in its plane.
#include "arrange/cutting.h"

#include <algorithm>
#include <atomic>
#include <map>

#include "mesh/disjoint_sets.h"
#include "mesh/parallel.h"

namespace zither::arrange {

namespace {

// Those with at least one that may cross; a tree of what lies near those is all that it takes.
mesh::Outcome<std::vector<check::TrianglePair>> pairsOfSuspects(const CutSurface& surface, mesh::Progress& progress) {
    const Mesh& m = surface.mesh;
    std::vector<TriangleId> suspects;
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if (surface.mayCross[t]) suspects.push_back(t);
    const space::TriangleTree around(m, suspects);
    std::vector<std::uint8_t> flags(m.triangles.size(), 0);
    mesh::parallelFor(flags.size(), 1024, [&](std::size_t t) {
        around.overlapping(mesh::boxOf(m, static_cast<TriangleId>(t)), [&](TriangleId) { flags[t] = 1; });
    });
    std::vector<TriangleId> near;
    for (TriangleId t = 0; t < flags.size(); ++t)
        if (flags[t]) near.push_back(t);
    return check::crossingPairs(space::TriangleTree(m, near), progress, {.suspects = surface.mayCross});
}

// Of the points that were made in it.
void dropUnusedPoints(Cutting::Block& block) {
    std::vector<std::uint32_t> numberOf(block.made.size(), mesh::noIndex);
    std::uint32_t count = 0;
    for (Piece& piece : block.pieces)
        for (VertexId& corner : piece.corner) {
            if (corner < TriangleCutter::madeFlag) continue;
            std::uint32_t& number = numberOf[corner - TriangleCutter::madeFlag];
            if (number == mesh::noIndex) number = count++;
            corner = TriangleCutter::madeFlag + number;
        }
    std::vector<Generator> made(count);
    std::vector<Point> madeAt(count);
    for (std::size_t i = 0; i < numberOf.size(); ++i)
        if (numberOf[i] != mesh::noIndex) {
            made[numberOf[i]] = block.made[i];
            madeAt[numberOf[i]] = block.madeAt[i];
        }
    block.made = std::move(made);
    block.madeAt = std::move(madeAt);
    block.pieces.shrink_to_fit();
}

}  // namespace

mesh::Outcome<void> Cutting::run(mesh::Progress& progress) {
    mesh::PartOfProgress searching(progress, 0.1, 0.4);
    if (auto found = findPairs(searching); !found) return found;
    partners = std::make_unique<Partners>(surface_.mesh.triangles.size(), pairs);
    figures = figuresOf(surveyed_.edges(), pairs, *partners, points);
    if (!progress.report(0.5)) return mesh::cancelled();
    if (!cutAll(progress)) return mesh::cancelled();
    numberWhatWasMade();
    return {};
}

mesh::Outcome<void> Cutting::findPairs(mesh::Progress& progress) {
    if (const auto known = surveyed_.known()) {
        pairs = known->crossingPairs;
        return {};
    }
    auto found = surface_.mayCross.empty() ? check::crossingPairs(surveyed_.tree(), progress)
                                           : pairsOfSuspects(surface_, progress);
    if (!found) return mesh::errorOf(found);
    pairs = std::move(*found);
    mesh::parallelSort(pairs.begin(), pairs.end());
    return {};
}

bool Cutting::cutAll(mesh::Progress& progress) {
    // Triangles to cut, alone or with those that they overlap in one plane.
    mesh::DisjointSets planes(surface_.mesh.triangles.size());
    std::vector<std::uint8_t> overlaps(surface_.mesh.triangles.size(), 0);
    for (std::size_t i = 0; i < pairs.size(); ++i)
        if (figures[i].coplanar) {
            planes.join(pairs[i].first, pairs[i].second);
            overlaps[pairs[i].first] = overlaps[pairs[i].second] = 1;
        }
    std::map<std::uint32_t, std::vector<TriangleId>> together;
    std::vector<TriangleId> alone;
    for (TriangleId t = 0; t < surface_.mesh.triangles.size(); ++t) {
        if (partners->of(t).empty()) continue;
        if (overlaps[t])
            together[planes.find(t)].push_back(t);
        else
            alone.push_back(t);
    }
    std::vector<std::vector<TriangleId>> groups;
    groups.reserve(together.size());
    for (auto& [root, members] : together) groups.push_back(std::move(members));
    together.clear();

    constexpr std::size_t aloneABlock = 64;
    constexpr std::size_t groupsABlock = 4;
    const std::size_t aloneBlocks = (alone.size() + aloneABlock - 1) / aloneABlock;
    const std::size_t groupBlocks = (groups.size() + groupsABlock - 1) / groupsABlock;
    blocks.resize(aloneBlocks + groupBlocks);
    std::atomic<bool> stop = false;
    std::atomic<std::size_t> done = 0;
    const auto goesOn = [&] {
        return !stop && progress.report(0.5 + 0.25 * static_cast<double>(done) / static_cast<double>(blocks.size()));
    };
    mesh::parallelFor(blocks.size(), 1, [&](std::size_t b) {
        if (stop) return;
        Block& block = blocks[b];
        TriangleCutter cutter(surface_, surveyed_.edges(), {pairs, figures, *partners}, points);
        cutter.leastOnly = leastOnly;
        cutter.goesOn = goesOn;
        if (b < aloneBlocks) {
            for (std::size_t i = b * aloneABlock; i < std::min(alone.size(), (b + 1) * aloneABlock); ++i) {
                block.rims.push_back({alone[i], {}});
                cutter.cut(alone[i], block.rims.back().second);
            }
        } else {
            const std::size_t first = (b - aloneBlocks) * groupsABlock;
            for (std::size_t i = first; i < std::min(groups.size(), first + groupsABlock); ++i) {
                std::vector<Rim> rims(groups[i].size());
                if (!cutter.cutTogether(groups[i], rims)) {
                    stop = true;
                    return;
                }
                for (std::size_t n = 0; n < rims.size(); ++n) block.rims.emplace_back(groups[i][n], rims[n]);
            }
        }
        block.pieces = std::move(cutter.pieces);
        block.weights = std::move(cutter.weights);
        block.made = std::move(cutter.made);
        block.madeAt = std::move(cutter.madeAt);
        block.sheets = cutter.sheetsMade;
        if (leastOnly) dropUnusedPoints(block);
        ++done;
        if (!goesOn()) stop = true;
    });
    return !stop;
}

// Points and sheets made in blocks get numbers of their own.
void Cutting::numberWhatWasMade() {
    std::size_t made = points.count() - points.givenCount();
    auto sheets = static_cast<std::uint32_t>(surface_.mesh.triangles.size());
    for (Block& block : blocks) {
        block.firstPoint = static_cast<std::uint32_t>(made);
        block.firstSheet = sheets;
        made += block.made.size();
        sheets += block.sheets;
    }
    sheetCount = sheets;
    points.resize(made);
    mesh::parallelFor(blocks.size(), 1, [&](std::size_t b) {
        Block& block = blocks[b];
        for (std::size_t i = 0; i < block.made.size(); ++i)
            points.set(block.firstPoint + i, block.made[i], block.madeAt[i]);
        const auto pointNumber = [&](std::uint32_t name) {
            return name < TriangleCutter::madeFlag
                       ? name
                       : points.givenCount() + block.firstPoint + (name - TriangleCutter::madeFlag);
        };
        const auto sheetNumber = [&](std::uint32_t sheet) {
            return sheet < TriangleCutter::madeFlag ? sheet : block.firstSheet + (sheet - TriangleCutter::madeFlag);
        };
        for (Piece& piece : block.pieces) {
            for (VertexId& c : piece.corner) c = pointNumber(c);
            piece.sheet = sheetNumber(piece.sheet);
        }
        for (auto& [t, rim] : block.rims)
            for (auto& edge : rim)
                for (RimEnd& end : edge) end.sheet = sheetNumber(end.sheet);
        block.made = {};
        block.madeAt = {};
    });
}

}  // namespace zither::arrange
