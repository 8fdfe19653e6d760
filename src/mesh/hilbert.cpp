// Centroids on a grid, sorted by their place on the curve: first by stretches of it, then each within a core's cache.
#include "mesh/hilbert.h"

#include <algorithm>
#include <numeric>

#include "mesh/partition.h"

namespace zither::mesh {
namespace {

using Cell = std::array<std::uint32_t, 3>;

// From a point to its cell, of 2^bits to a side of the box.
auto cellsOf(const Box& bounds, unsigned bits) {
    const double cells = (1U << bits) - 1;
    const Point scale = bounds.extent().unaryExpr([&](double e) { return e > 0 ? cells / e : 0.0; });
    return [=](const Point& p) {
        Cell cell;
        for (unsigned k = 0; k < 3; ++k)
            cell[k] = static_cast<std::uint32_t>(std::clamp((p[k] - bounds.min[k]) * scale[k], 0.0, cells));
        return cell;
    };
}

}  // namespace

std::vector<TriangleId> hilbertOrder(const Mesh& m) {
    std::vector<TriangleId> all(m.triangles.size());
    std::iota(all.begin(), all.end(), 0U);
    return hilbertOrder(m, all);
}

std::vector<TriangleId> hilbertOrder(const Mesh& m, const std::vector<TriangleId>& triangles) {
    constexpr unsigned bits = 16;
    const auto cellOf = cellsOf(boxOf(m, triangles), bits);
    std::vector<std::uint64_t> keys(triangles.size());
    parallelFor(triangles.size(), 4096, [&](std::size_t i) {
        const Box box = boxOf(m, triangles[i]);
        keys[i] = hilbertKey(cellOf(0.5 * box.min + 0.5 * box.max), bits);
    });
    constexpr unsigned stretchBits = 11;
    const Partition stretches(keys.size(), 1U << stretchBits,
                              [&](std::size_t i) { return keys[i] >> (3 * bits - stretchBits); });
    std::vector<TriangleId> ordered(triangles.size());
    parallelFor(stretches.bucketCount(), 1, [&](std::size_t s) {
        // In one word, which sorts fastest: what follows of the key, then which it is of the stretch.
        constexpr unsigned keptBits = 3 * bits - stretchBits;
        constexpr unsigned memberBits = 64 - keptBits;
        const auto members = stretches[s];
        std::vector<std::uint64_t> words(members.size());
        for (std::size_t i = 0; i < words.size(); ++i) words[i] = keys[members[i]] << memberBits | i;
        parallelSort(words.begin(), words.end());
        for (std::size_t i = 0; i < words.size(); ++i)
            ordered[stretches.beginOf(s) + i] = triangles[members[words[i] & ((1ULL << memberBits) - 1)]];
    });
    return ordered;
}

std::vector<TriangleId> roughHilbertOrder(const Mesh& m, const Box& bounds) {
    constexpr unsigned bits = 5;
    // There are fewer cells than vertices.
    std::vector<std::uint16_t> keyOf(1U << (3 * bits));
    for (std::uint32_t i = 0; i < keyOf.size(); ++i) {
        constexpr std::uint32_t side = (1U << bits) - 1;
        const Cell cell = {i & side, i >> bits & side, i >> (2 * bits)};
        keyOf[i] = static_cast<std::uint16_t>(hilbertKey(cell, bits));
    }
    const auto cellOf = cellsOf(bounds, bits);
    std::vector<std::uint16_t> keys(m.positions.size());
    parallelFor(keys.size(), 4096, [&](std::size_t v) {
        const Cell cell = cellOf(m.positions[v]);
        keys[v] = keyOf[cell[0] | cell[1] << bits | cell[2] << (2 * bits)];
    });
    const Partition cells(m.triangles.size(), keyOf.size(), [&](std::size_t t) { return keys[m.triangles[t][0]]; });
    return {cells.all().begin(), cells.all().end()};
}

}  // namespace zither::mesh
