// What no rounding holds, covered: a plate around each triangle in trouble becomes one with the body.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"
#include "mesh/traced.h"

namespace zither::fit {

using Corners = std::array<mesh::Point, 3>;

// Plates reach no farther than so many times their height beyond what they cover: twice it across, and to the corners
// of squares around circles of twice it along.
inline constexpr double plateReach = 3.5;

struct Covered : mesh::Traced {
    std::vector<std::uint8_t> whole;  // of each triangle: it is not cut
    std::size_t plates = 0;
};

struct CoverOptions {
    double height = 0;  // of plates, in the file's unit
    double grid = 0;    // that their vertices are placed on; 0: none
    mesh::Precision precision = mesh::Precision::Double;
};

// Closed convex plates around the triangles are made one with the surface, which must be closed. They reach at least
// `height` beyond a triangle of their own plane, and 0.7 of it beyond those that were taken in: triangles that lie in
// one plane and make up something convex have one plate. How far a plate reaches differs from one to the next, so that
// no two faces lie on each other. Vertices of plates are placed as placedOn (settle.h) says. Error: only cancelled.
mesh::Outcome<Covered> covered(const mesh::Mesh& m, std::vector<Corners> trouble, const CoverOptions& options,
                               mesh::Progress& progress);

}  // namespace zither::fit
