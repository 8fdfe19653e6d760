// Bodies within bodies: their skins go, or they become voids.
#pragma once

#include <vector>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"

namespace zither::repair {

using mesh::Mesh;
using mesh::Outcome;
using mesh::Pick;
using mesh::Progress;

// What a closed shell is that faces outwards within material.
enum class Buried {
    Material,  // its skin bounds nothing and goes; what it encloses stays full
    Void,      // it is turned, with all that it holds, and what it encloses is empty
};

struct AbsorbedShell {
    mesh::Point position;
    double size = 0;    // diagonal of its box
    double volume = 0;  // that it encloses
    std::size_t triangles = 0;
};
struct AbsorbResult {
    Mesh mesh;
    std::vector<AbsorbedShell> shells;  // that went or were turned, largest first
    double emptied = 0;                 // volume that was full, and is not any more
};
// absorb: closed shells with material on both sides go: the winding number (of the closed shells that hold one without
// crossing it) is 1 or more within it and around it. Shells that a pick does not hold as a whole stay, and so do those
// that cross others (fuse makes one of these). Triangles that stay keep their bits.
Outcome<AbsorbResult> absorb(const check::Surveyed& s, const Pick& pick, Buried buried, Progress& progress);

}  // namespace zither::repair
