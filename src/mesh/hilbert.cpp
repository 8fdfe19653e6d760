// Centroids on a grid, sorted by their place on the curve: first by stretches of it, then each within a core's cache.
#include "mesh/hilbert.h"

#include <algorithm>
#include <numeric>

#include "mesh/partition.h"

namespace zither::mesh {
namespace {

struct Keyed {
    std::uint64_t key;
    TriangleId triangle;
    bool operator<(const Keyed& o) const { return key != o.key ? key < o.key : triangle < o.triangle; }
};

Box boundsOf(const Mesh& m, const std::vector<TriangleId>& triangles) {
    return parallelBlocks(
        triangles.size(), Box{},
        [&](std::size_t begin, std::size_t end) {
            Box box;
            for (std::size_t i = begin; i < end; ++i) box.add(boxOf(m, triangles[i]));
            return box;
        },
        [](Box a, const Box& b) {
            a.add(b);
            return a;
        });
}

}  // namespace

std::vector<TriangleId> hilbertOrder(const Mesh& m) {
    std::vector<TriangleId> all(m.triangles.size());
    std::iota(all.begin(), all.end(), 0U);
    return hilbertOrder(m, all);
}

std::vector<TriangleId> hilbertOrder(const Mesh& m, const std::vector<TriangleId>& triangles) {
    const Box bounds = boundsOf(m, triangles);
    constexpr unsigned bits = 16;
    constexpr double cells = (1U << bits) - 1;
    const Point scale = bounds.extent().unaryExpr([](double e) { return e > 0 ? cells / e : 0.0; });
    std::vector<std::uint64_t> keys(triangles.size());
    parallelFor(triangles.size(), 4096, [&](std::size_t i) {
        const Box box = boxOf(m, triangles[i]);
        std::array<std::uint32_t, 3> cell;
        for (unsigned k = 0; k < 3; ++k)
            cell[k] = static_cast<std::uint32_t>(
                std::clamp((0.5 * box.min[k] + 0.5 * box.max[k] - bounds.min[k]) * scale[k], 0.0, cells));
        keys[i] = hilbertKey(cell, bits);
    });
    constexpr unsigned stretchBits = 11;
    const Partition stretches(keys.size(), 1U << stretchBits,
                              [&](std::size_t i) { return keys[i] >> (3 * bits - stretchBits); });
    std::vector<TriangleId> ordered(triangles.size());
    parallelFor(stretches.bucketCount(), 1, [&](std::size_t s) {
        std::vector<Keyed> keyed;
        keyed.reserve(stretches[s].size());
        for (const std::uint32_t i : stretches[s]) keyed.push_back({keys[i], triangles[i]});
        parallelSort(keyed.begin(), keyed.end());
        std::transform(keyed.begin(), keyed.end(), ordered.begin() + static_cast<std::ptrdiff_t>(stretches.beginOf(s)),
                       [](const Keyed& k) { return k.triangle; });
    });
    return ordered;
}

}  // namespace zither::mesh
