// One clean outer skin from surfaces that cross each other.
#pragma once

#include <vector>

#include "fit/settle.h"
#include "arrange/skin.h"
#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"

namespace zither::fit {

struct FuseOptions {
    const mesh::Mesh* with = nullptr;  // the other surface; without one the surface is joined with itself
    arrange::Solid solid = arrange::Solid::Union;        // of the two
    mesh::Precision precision = mesh::Precision::Single;  // of the coordinates that come out
    double slivers = 0;  // needles and caps narrower than this go (removeSlivers); 0: none
};

struct FuseResult {
    mesh::Mesh mesh;
    std::size_t crossingPairs = 0;
    std::size_t shellsIn = 0;
    std::vector<arrange::GoneShell> gone;  // shells of which nothing is left, largest first
    std::size_t trianglesCut = 0;
    std::size_t kept = 0;          // triangles that came in and went out with their bits
    std::size_t openShells = 0;    // judged by the generalised winding number
    std::size_t buriedPieces = 0;  // of open shells
    std::size_t inwardShells = 0;  // closed, enclosing negative volume: taken for cavities
    std::size_t recut = 0;         // triangles mended after rounding
    std::size_t separated = 0;     // vertices of touching bodies pulled apart
    double farthestRounded = 0;
    std::size_t snapped = 0;           // vertices that were moved onto another one before anything was cut
    double snapDistance = 0;           // and how far they may have moved
    std::size_t sliversRemoved = 0;    // edges collapsed or swapped, among what was cut
    double farthestMoved = 0;          // by that
    std::vector<mesh::Point> unsound;  // places that could not be settled
};

// The skin of a surface that crosses itself (skinOf), or of two: their union, difference or intersection, of which each
// is fused on the way where it crosses itself. Settled to the precision. Of a pick, its triangles alone; the others
// stay as they are.
mesh::Outcome<FuseResult> fuse(const check::Surveyed& s, const mesh::Pick& pick, const FuseOptions& options,
                               mesh::Progress& progress);

}  // namespace zither::fit
