// Skins that all but touch, moved apart.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::fit {

struct PartOptions {
    double gap = 0;                        // so far apart are triangles that share no vertex afterwards
    double angleDeg = 0;                   // and sides of an edge enclose so much at least; 0: whatever they do
    double needle = 0;                     // lower triangles are no sides of folds
    double tolerance = 0;                  // no vertex moves farther
    std::vector<std::uint8_t> fixed = {};  // one flag a triangle: its corners stay. Empty: none
    mesh::Precision precision = mesh::Precision::Double;
};

struct PartResult {
    std::vector<mesh::Point> positions;
    std::size_t moved = 0;  // vertices
    double farthestMoved = 0;
};

// Moves vertices of a surface whose triangles do not meet, so that no two triangles that share no vertex are nearer
// than the gap, each half of the way where both can move (constraints projected one after the other, after Müller et
// al. 2007, "Position based dynamics"); what would meet or be degenerate then, rounded, goes back to where it was.
// Places that hold no way out stay near. Error: cancelled.
mesh::Outcome<PartResult> partSkins(const mesh::Mesh& m, const PartOptions& options, mesh::Progress& progress);

}  // namespace zither::fit
