// A choice of triangles that a step works on. No pick means the whole mesh.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/mesh.h"

namespace zither::mesh {

class Pick {
public:
    Pick() = default;
    explicit Pick(std::vector<TriangleId> triangles) : triangles_(std::move(triangles)) {}

    // True where nothing was picked: a step then works on everything.
    [[nodiscard]] bool everything() const { return triangles_.empty(); }
    [[nodiscard]] const std::vector<TriangleId>& triangles() const { return triangles_; }

    // One flag a triangle of m; all set where nothing was picked. Ids beyond m are ignored.
    [[nodiscard]] std::vector<std::uint8_t> mask(const Mesh& m) const {
        std::vector<std::uint8_t> flags(m.triangles.size(), everything() ? 1 : 0);
        for (TriangleId t : triangles_)
            if (t < flags.size()) flags[t] = 1;
        return flags;
    }

private:
    std::vector<TriangleId> triangles_;
};

// The pick with every triangle that shares a corner with it, `rings` times over; and without those that share a corner
// with what is not picked. Ids ascend. A pick of everything stays so; one that shrinks to nothing is empty, which its
// caller must tell from everything.
Pick grown(const Mesh& m, const Pick& pick, unsigned rings);
Pick shrunk(const Mesh& m, const Pick& pick, unsigned rings);

// The same of flags (0 or 1), one a triangle: one flag a vertex, those of flagged triangles; and a ring more is
// flagged.
std::vector<std::uint8_t> cornersOf(const Mesh& m, const std::vector<std::uint8_t>& flags);
void growByRing(const Mesh& m, std::vector<std::uint8_t>& flags);

}  // namespace zither::mesh
