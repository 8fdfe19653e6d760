// Place of a point on a 3D Hilbert curve: neighbours on the curve are neighbours in space.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "mesh/mesh.h"

namespace zither::mesh {

// Bit i, of the lowest 21, goes to bit 3 i.
inline std::uint64_t spreadByThree(std::uint64_t x) {
    x = (x | x << 32) & 0x1F00000000FFFFU;
    x = (x | x << 16) & 0x1F0000FF0000FFU;
    x = (x | x << 8) & 0x100F00F00F00F00FU;
    x = (x | x << 4) & 0x10C30C30C30C30C3U;
    return (x | x << 2) & 0x1249249249249249U;
}

// Key of the cell (x, y, z), each below 2^bits, with bits <= 21. Skilling 2004, "Programming the Hilbert curve".
inline std::uint64_t hilbertKey(std::array<std::uint32_t, 3> x, unsigned bits) {
    const std::uint32_t top = 1U << (bits - 1);
    for (std::uint32_t q = top; q > 1; q >>= 1) {
        const std::uint32_t p = q - 1;
        for (unsigned i = 0; i < 3; ++i) {
            // Without branches, which nothing could predict: the low bits of x[0] are turned over where the bit is set,
            // else exchanged with those of x[i].
            const std::uint32_t set = 0U - static_cast<std::uint32_t>((x[i] & q) != 0);
            const std::uint32_t t = (x[0] ^ x[i]) & p & ~set;
            x[0] ^= t | (p & set);
            x[i] ^= t;
        }
    }
    x[1] ^= x[0];
    x[2] ^= x[1];
    std::uint32_t t = 0;
    for (std::uint32_t q = top; q > 1; q >>= 1) t ^= (q - 1) & (0U - static_cast<std::uint32_t>((x[2] & q) != 0));
    for (std::uint32_t& v : x) v ^= t;
    std::uint64_t key = 0;
    for (unsigned i = 0; i < 3; ++i) key |= spreadByThree(x[i]) << (2 - i);
    return key;
}

// The triangles, or all of them, in the order of their box centres on a curve through the box of the whole. Ties go by
// number; the same for any number of threads.
std::vector<TriangleId> hilbertOrder(const Mesh& m);
std::vector<TriangleId> hilbertOrder(const Mesh& m, const std::vector<TriangleId>& triangles);

}  // namespace zither::mesh
