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
inline std::uint64_t hilbertKey(const std::array<std::uint32_t, 3>& cell, unsigned bits) {
    // In registers, and without branches, which nothing could predict: the low bits of x are turned over where the bit
    // of an axis is set, else exchanged with those of the axis.
    std::uint32_t x = cell[0];
    std::uint32_t y = cell[1];
    std::uint32_t z = cell[2];
    const std::uint32_t top = 1U << (bits - 1);
    for (std::uint32_t q = top; q > 1; q >>= 1) {
        const std::uint32_t p = q - 1;
        const auto allOnes = [&](std::uint32_t axis) { return 0U - static_cast<std::uint32_t>((axis & q) != 0); };
        const auto turn = [&](std::uint32_t& axis) {
            const std::uint32_t set = allOnes(axis);
            const std::uint32_t t = (x ^ axis) & p & ~set;
            x ^= t | (p & set);
            axis ^= t;
        };
        x ^= p & allOnes(x);
        turn(y);
        turn(z);
    }
    y ^= x;
    z ^= y;
    std::uint32_t t = 0;
    for (std::uint32_t q = top; q > 1; q >>= 1) t ^= (q - 1) & (0U - static_cast<std::uint32_t>((z & q) != 0));
    return spreadByThree(x ^ t) << 2 | spreadByThree(y ^ t) << 1 | spreadByThree(z ^ t);
}

// The triangles, or all of them, in the order of their box centres on a curve through the box of the whole. Ties go by
// number; the same for any number of threads.
std::vector<TriangleId> hilbertOrder(const Mesh& m);
std::vector<TriangleId> hilbertOrder(const Mesh& m, const std::vector<TriangleId>& triangles);
// All of them, cell after cell of a 32nd of the box to a side, as their first corners lie; by number in each. A fifth
// of the time. What is out of the box is taken to be at its sides.
std::vector<TriangleId> roughHilbertOrder(const Mesh& m, const Box& bounds);

}  // namespace zither::mesh
