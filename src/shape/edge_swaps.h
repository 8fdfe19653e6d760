// Better triangles at no cost: edges between two triangles in one plane swap where the smallest angle grows (Lawson
// 1977).
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/mesh.h"

namespace zither::shape {

// Squared sine of the smallest angle, which lies between the two longest sides; 0 for a degenerate triangle.
double smallestSineSquared(const mesh::Point& a, const mesh::Point& b, const mesh::Point& c);

struct SwapOptions {
    // Four corners within this of one plane lie in it. Of a triangle that comes of a swap, this is added to the reach.
    double flat = 0;
    // Above this no reach may come; only where reaches are given.
    double mostReach = 0;
};

// One flag a triangle: `may` take part in a swap, `changed` before, of which each swap needs one. Both triangles of a
// swap are flagged as changed; regions are of one side and the other as before, as edges between regions stay. No edge
// comes twice; whether triangles come to meet others is not looked at. `reach` may be empty. Returns how many swapped.
std::size_t swapForShape(mesh::Mesh& m, const std::vector<std::uint8_t>& may, std::vector<std::uint8_t>& changed,
                         std::vector<float>& reach, const SwapOptions& options);

}  // namespace zither::shape
