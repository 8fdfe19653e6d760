// Triangles sorted by the piece that they go to.
#include "project/parting.h"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

#include "mesh/partition.h"

namespace zither::project {
namespace {

using mesh::Mesh;
using mesh::TriangleId;
using mesh::VertexId;

// Of each triangle its piece, below `count`; those beyond go nowhere. Pieces without triangles are left out.
// Vertices and triangles keep their order. O(n log n) for all pieces together, however many they are.
std::vector<Mesh> sorted(const Mesh& m, const std::vector<std::uint32_t>& pieceOf, std::size_t count) {
    const mesh::Partition parts(pieceOf.size(), count + 1,
                                [&](std::size_t t) { return std::min<std::size_t>(pieceOf[t], count); });
    std::vector<Mesh> pieces;
    std::vector<VertexId> numberOf(m.positions.size());  // in the piece at hand
    for (std::size_t number = 0; number < count; ++number) {
        const auto triangles = parts[number];
        if (triangles.empty()) continue;
        Mesh& piece = pieces.emplace_back();
        piece.regionNames = m.regionNames;
        piece.regionsAre = m.regionsAre;
        std::vector<VertexId> used;
        for (const TriangleId t : triangles) used.insert(used.end(), m.triangles[t].begin(), m.triangles[t].end());
        std::sort(used.begin(), used.end());
        used.erase(std::unique(used.begin(), used.end()), used.end());
        for (const VertexId v : used) {
            numberOf[v] = static_cast<std::uint32_t>(piece.positions.size());
            piece.positions.push_back(m.positions[v]);
        }
        for (const TriangleId t : triangles) {
            const mesh::Triangle& corners = m.triangles[t];
            piece.triangles.push_back({numberOf[corners[0]], numberOf[corners[1]], numberOf[corners[2]]});
            if (!m.regions.empty()) piece.regions.push_back(m.regions[t]);
        }
    }
    return pieces;
}

std::vector<Piece> numbered(std::vector<Mesh> meshes, const std::string& name) {
    std::vector<Piece> pieces;
    pieces.reserve(meshes.size());
    for (Mesh& m : meshes) pieces.push_back({fmt::format("{} {}", name, pieces.size() + 1), std::move(m)});
    return pieces;
}

}  // namespace

std::vector<Piece> apartByBody(const check::Surveyed& part, const check::Survey& survey, const std::string& name) {
    const std::vector<check::Shell>& shells = survey.shells;
    // A cavity bounds what is around it.
    std::vector<std::uint32_t> bodyOf(shells.size());
    for (std::uint32_t s = 0; s < shells.size(); ++s) {
        bodyOf[s] = shells[s].isCavity() ? shells[s].directParent : s;
    }
    std::vector<std::uint32_t> order(shells.size());
    std::iota(order.begin(), order.end(), 0U);
    std::stable_sort(order.begin(), order.end(),
                     [&](std::uint32_t a, std::uint32_t b) { return shells[a].area > shells[b].area; });
    std::vector<std::uint32_t> rank(shells.size());
    for (std::uint32_t i = 0; i < order.size(); ++i) rank[order[i]] = i;
    std::vector<std::uint32_t> pieceOf(part.mesh().triangles.size(), mesh::noIndex);
    for (std::size_t t = 0; t < pieceOf.size(); ++t)
        if (const std::uint32_t s = survey.shellOf[t]; s != mesh::noEdge) pieceOf[t] = rank[bodyOf[s]];
    return numbered(sorted(part.mesh(), pieceOf, shells.size()), name);
}

std::vector<Piece> apartByRegion(const check::Surveyed& part, const std::string& name) {
    const Mesh& m = part.mesh();
    std::vector<Piece> pieces;
    for (Mesh& piece : sorted(m, m.regions.empty() ? std::vector<std::uint32_t>(m.triangles.size(), 0) : m.regions,
                              std::max<std::size_t>(1, m.regionNames.size()))) {
        const std::string region = piece.regions.empty() ? "" : piece.regionNames[piece.regions.front()];
        pieces.push_back({fmt::format("{} {}", name, region.empty() ? std::to_string(pieces.size() + 1) : region),
                          std::move(piece)});
    }
    return pieces;
}

std::vector<Piece> apartByPick(const check::Surveyed& part, const mesh::Pick& pick, const std::string& name) {
    const std::vector<std::uint8_t> chosen = pick.mask(part.mesh());
    std::vector<std::uint32_t> pieceOf(chosen.size());
    for (std::size_t t = 0; t < chosen.size(); ++t) pieceOf[t] = chosen[t] ? 0 : 1;
    return numbered(sorted(part.mesh(), pieceOf, 2), name);
}

std::vector<std::string> fileNamesOf(const std::vector<Piece>& pieces) {
    std::vector<std::string> names;
    for (const Piece& piece : pieces) {
        std::string name = piece.name;
        constexpr std::string_view minded = "/\\:*?\"<>|";
        for (char& c : name)
            if (minded.find(c) != std::string_view::npos || static_cast<unsigned char>(c) < ' ') c = '_';
        std::string unique = name;
        for (int i = 2; std::find(names.begin(), names.end(), unique) != names.end(); ++i)
            unique = fmt::format("{} ({})", name, i);
        names.push_back(std::move(unique));
    }
    return names;
}

Mesh joined(const std::vector<Piece>& pieces) {
    Mesh all;
    for (const Piece& piece : pieces) {
        Mesh m = piece.mesh;
        const bool named = std::any_of(m.regionNames.begin(), m.regionNames.end(),
                                       [](const std::string& name) { return !name.empty(); });
        if (m.regions.empty() || !named) {
            m.regions.assign(m.triangles.size(), 0);
            m.regionNames = {piece.name};
        }
        mesh::append(all, m);
    }
    return all;
}

}  // namespace zither::project
