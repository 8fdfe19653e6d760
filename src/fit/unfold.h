// Skins that are folded back onto themselves, laid flat.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/precision.h"
#include "mesh/traced.h"

namespace zither::fit {

struct UnfoldOptions {
    double angleDeg = 0;   // sides of an edge that enclose less are folded
    double tolerance = 0;  // how far the surface may move, in the file's unit
    double needle = 0;     // corners nearer than this become one, and lower triangles are no sides of folds
    std::vector<std::uint8_t> fixed = {};  // one flag a triangle: it must stay. Empty: none
    mesh::Precision precision = mesh::Precision::Double;
};

struct UnfoldResult : mesh::Traced {
    std::size_t unfolded = 0;  // edges
    double farthestMoved = 0;
};

// Where two triangles lie on each other over the edge that they share, what both cover goes, a piece at a time, so that
// a fin or a slit of next to no thickness closes up from its edge on: the nearer corner is put into the other triangle
// or onto its border, or the crossing of two borders into both, and the two pieces that have the same corners then go.
// Each change is made only where every vertex around it still has one closed fan, no new triangle is degenerate or
// meets another or passes over it, and the surface moves no farther than the tolerance there; of a fin nothing goes
// that stood out farther. For closed surfaces without crossings; elsewhere such places stay as they are.
UnfoldResult unfold(const mesh::Mesh& m, const UnfoldOptions& options);

}  // namespace zither::fit
