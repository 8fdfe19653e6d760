// The part with a candidate patch in each of its rims.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "check/surveyed.h"
#include "holes/candidates.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::enclose {

struct Patched {
    std::size_t given = 0;  // triangles of the part
    mesh::Mesh mesh;        // the part, then the patches
    std::vector<holes::Candidate> candidates;
    std::vector<std::uint32_t> candidateOf;  // of each triangle of a patch

    [[nodiscard]] bool isPatch(mesh::TriangleId t) const { return t >= given; }
    [[nodiscard]] std::uint32_t candidateAt(mesh::TriangleId t) const { return candidateOf[t - given]; }
    // Of each triangle: 0 for the part, 1 for patches.
    [[nodiscard]] std::vector<std::uint8_t> operands() const;
};

// Of what lies twice the rims are those of one of them. A piece whose patches would be larger than itself, or lie on it
// in part, is a sheet and gets none. Error: cancelled.
mesh::Outcome<Patched> patchedAll(const check::Surveyed& s, mesh::Precision precision, mesh::Progress& progress);

// What cells are told apart by, in the file's unit: far from the origin by what a file of 32 bits holds there.
double thinnessOf(const mesh::Mesh& m);

}  // namespace zither::enclose
