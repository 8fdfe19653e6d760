// A table of hashes with open addresses.
#include "measure/by_corners.h"

#include <algorithm>
#include <bit>

#include "mesh/parallel.h"

namespace zither::measure {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

ByCorners::ByCorners(const Mesh& m, mesh::Precision precision)
    : m_(m),
      precision_(precision),
      hashes_(hashesOf(m)),
      table_(std::bit_ceil(2 * m.triangles.size() + 2), mesh::noIndex) {
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        std::size_t slot = slotOf(hashes_[t]);
        while (table_[slot] != mesh::noIndex) slot = slotOf(slot + 1);
        table_[slot] = t;
    }
}

// The three corners in a fixed order, as bits; -0 is +0.
ByCorners::Key ByCorners::keyOf(const Mesh& m, TriangleId t) const {
    std::array<std::array<std::uint64_t, 3>, 3> corners;
    for (unsigned k = 0; k < 3; ++k) {
        const Point at = mesh::rounded(precision_, m.corner(t, k));
        for (unsigned i = 0; i < 3; ++i) corners[k][i] = std::bit_cast<std::uint64_t>(at[i] + 0.0);
    }
    std::sort(corners.begin(), corners.end());
    Key key;
    for (unsigned k = 0; k < 3; ++k) std::copy(corners[k].begin(), corners[k].end(), key.begin() + 3 * k);
    return key;
}

std::vector<std::uint64_t> ByCorners::hashesOf(const Mesh& m) const {
    std::vector<std::uint64_t> result(m.triangles.size());
    mesh::parallelFor(result.size(), 4096, [&](std::size_t t) {
        std::uint64_t h = 0;
        for (const std::uint64_t k : keyOf(m, static_cast<TriangleId>(t)))
            h = (h ^ k ^ (h >> 32)) * 0x9E3779B97F4A7C15ULL;
        result[t] = h ^ (h >> 31);
    });
    return result;
}

std::vector<TriangleId> twinsOf(const Mesh& a, const Mesh& b) {
    std::vector<TriangleId> twins(a.triangles.size(), mesh::noIndex);
    ByCorners(b, mesh::Precision::Single).match(a, [&](TriangleId t, TriangleId same) {
        twins[t] = same;
        return true;
    });
    return twins;
}

}  // namespace zither::measure
