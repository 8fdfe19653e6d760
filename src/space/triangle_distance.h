// How far two triangles are apart.
#pragma once

#include <array>

#include "mesh/mesh.h"

namespace zither::space {

using Triangle3 = std::array<const mesh::Point*, 3>;

// A plane has one of them on each side, each more than `reach` / 2 from it: tried are those of the two and those across
// them through their edges. Never true where they are no farther apart than `reach`, however it is rounded.
bool surelyFarther(const Triangle3& a, const Triangle3& b, double reach);

// Squared, of triangles that do not meet; rounded.
double distanceSquared(const Triangle3& a, const Triangle3& b);

// Where they are nearest, each as weights of its corners; rounded.
struct NearestPoints {
    std::array<double, 3> a;
    std::array<double, 3> b;
};
NearestPoints nearestPoints(const Triangle3& a, const Triangle3& b);

}  // namespace zither::space
