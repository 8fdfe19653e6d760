// Triangles found by the places of their corners.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/precision.h"

namespace zither::measure {

// Of a surface, with its corners rounded to that precision; direction does not matter. Keeps a reference.
class ByCorners {
public:
    ByCorners(const mesh::Mesh& m, mesh::Precision precision);

    // Each triangle t of `other` with those that have its corners: takes(t, same) until it says true.
    template <class Takes>
    void match(const mesh::Mesh& other, Takes takes) const {
        const std::vector<std::uint64_t> hashes = hashesOf(other);
        for (mesh::TriangleId t = 0; t < hashes.size(); ++t) {
            const Key key = keyOf(other, t);
            for (std::size_t slot = slotOf(hashes[t]); table_[slot] != mesh::noIndex; slot = slotOf(slot + 1)) {
                const mesh::TriangleId same = table_[slot];
                if (hashes_[same] == hashes[t] && keyOf(m_, same) == key && takes(t, same)) break;
            }
        }
    }

private:
    using Key = std::array<std::uint64_t, 9>;
    [[nodiscard]] Key keyOf(const mesh::Mesh& m, mesh::TriangleId t) const;
    [[nodiscard]] std::vector<std::uint64_t> hashesOf(const mesh::Mesh& m) const;
    [[nodiscard]] std::size_t slotOf(std::size_t hash) const { return hash & (table_.size() - 1); }

    const mesh::Mesh& m_;
    mesh::Precision precision_;
    std::vector<std::uint64_t> hashes_;
    std::vector<mesh::TriangleId> table_;
};

// For each triangle of a one of b whose corners are the same once both are rounded to 32 bits; noIndex: there is none.
std::vector<mesh::TriangleId> twinsOf(const mesh::Mesh& a, const mesh::Mesh& b);

}  // namespace zither::measure
