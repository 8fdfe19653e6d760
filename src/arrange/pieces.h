// A surface cut wherever it meets itself, all of it kept: the walls between the cells into which it divides space.
#pragma once

#include <cstdint>
#include <vector>

#include "arrange/cut_surface.h"
#include "check/surveyed.h"
#include "mesh/edges.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "mesh/traced.h"

namespace zither::arrange {

// Triangles that were not cut come first, in their order and with their bits; then the pieces. They meet in whole edges
// and corners only, and no two have the same corners. Coordinates of new vertices are within two units of the last
// place (of the largest coordinate) of the exact ones.
struct Pieces : mesh::Traced {
    std::size_t whole = 0;  // the first so many triangles are not cut
    // Of all triangles of the input that a piece is part of, by operand: how many more face as it does than the other
    // way. Both 0 where as many face either way.
    std::vector<Windings> weight;
    // Around each edge of three and more pieces its half-edges by their angle, as byAngle in separate.h, but about the
    // exact points. Edges are those of mesh::Edges(mesh).
    std::vector<std::vector<mesh::HalfEdge>> fans;
};

// `operandOf`: 0 or 1 for each triangle; empty: all 0. Degenerate triangles are left out, of duplicates there is one
// piece. Error: only cancelled.
mesh::Outcome<Pieces> piecesOf(const check::Surveyed& s, const std::vector<std::uint8_t>& operandOf,
                               mesh::Progress& progress);

}  // namespace zither::arrange
