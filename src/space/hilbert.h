// Place of a point on a 3D Hilbert curve: neighbours on the curve are neighbours in space.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "mesh/mesh.h"

namespace zither::space {

// Key of the cell (x, y, z), each below 2^bits, with bits <= 21. Skilling 2004, "Programming the Hilbert curve".
inline std::uint64_t hilbertKey(std::array<std::uint32_t, 3> x, unsigned bits) {
    const std::uint32_t top = 1U << (bits - 1);
    for (std::uint32_t q = top; q > 1; q >>= 1) {
        const std::uint32_t p = q - 1;
        for (unsigned i = 0; i < 3; ++i) {
            if (x[i] & q) {
                x[0] ^= p;
            } else {
                const std::uint32_t t = (x[0] ^ x[i]) & p;
                x[0] ^= t;
                x[i] ^= t;
            }
        }
    }
    x[1] ^= x[0];
    x[2] ^= x[1];
    std::uint32_t t = 0;
    for (std::uint32_t q = top; q > 1; q >>= 1)
        if (x[2] & q) t ^= q - 1;
    for (std::uint32_t& v : x) v ^= t;
    std::uint64_t key = 0;
    for (unsigned b = bits; b-- > 0;)
        for (unsigned i = 0; i < 3; ++i) key = key << 1 | (x[i] >> b & 1U);
    return key;
}

// The triangles, or all of them, in the order of their box centres on a curve through the box of the whole. Ties go by
// number; the same for any number of threads.
std::vector<mesh::TriangleId> hilbertOrder(const mesh::Mesh& m);
std::vector<mesh::TriangleId> hilbertOrder(const mesh::Mesh& m, std::vector<mesh::TriangleId> triangles);

}  // namespace zither::space
