// refine: long edges split, without a change of shape.
#pragma once

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"

namespace zither::shape {

struct Refined {
    mesh::Mesh mesh;        // not rounded: new vertices are exact but for 64 bits
    std::size_t split = 0;  // edges
};

// Edges longer than `length` are split in their middle, of each triangle the longest first; every triangle of the
// result lies in one that came in, with its region. Of a pick, edges of other triangles stay, and so do those where
// more than two triangles meet; close to such edges others may stay longer. Error: not enough memory for so many
// triangles.
mesh::Outcome<Refined> refine(const check::Surveyed& s, const mesh::Pick& pick, double length);

}  // namespace zither::shape
