// A patch for every rim, whatever crosses it: for whoever decides afterwards which of them are of use.
#pragma once

#include <string_view>
#include <vector>

#include "check/surveyed.h"
#include "holes/patches.h"
#include "holes/rims.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::holes {

struct Candidate {
    RimShape shape;
    std::size_t edges = 0;        // of the rim
    std::string_view meant;       // why the opening is likely meant; empty where it looks like damage
    mesh::TriangleId beside = 0;  // one at the rim
    Patch patch;                  // its own vertices are numbered from positions.size() on
    double least = 0;             // area of a patch that only spans the rim: what bends on may be larger
};

// Rims are found whichever way triangles face: walks along open edges, which come apart into simple loops. One that
// ends (a fin on a surface) goes back along edges of three, five ... triangles by the shortest way, or straight where
// that is long. Each loop gets a patch as fill would choose it, but flat or taut where the surface cannot be carried
// on: where it hangs together in other ways along the rim. Patches cross whatever they cross. Error: only cancelled.
mesh::Outcome<std::vector<Candidate>> candidatePatches(const check::Surveyed& s, mesh::Precision precision,
                                                       mesh::Progress& progress);

}  // namespace zither::holes
