// The cells into which pieces divide space.
#pragma once

#include <cstdint>
#include <vector>

#include "arrange/pieces.h"
#include "mesh/edges.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::enclose {

struct Cells {
    std::uint32_t count = 0;  // cell 0 is the outside
    // Of each piece: the cell in front of it and the cell behind it.
    std::vector<std::array<std::uint32_t, 2>> of;
    // Pieces linked across edges are one group; groups touch each other in vertices at most.
    std::vector<std::uint32_t> groupOf;  // of each piece
    std::vector<std::uint32_t> around;   // of each group: the cell that it lies in
    std::vector<std::uint32_t> owner;    // of each cell: the group that encloses it; noIndex: the outside
};

// Sides of pieces are linked across edges of two pieces, around the end of an edge of one, and by the order of the fans
// around edges of more. `source`: what was cut. What groups lie in is told by rays that keep clear of every edge.
// Error: only cancelled.
mesh::Outcome<Cells> cellsOf(const arrange::Pieces& pieces, const mesh::Mesh& source, mesh::Progress& progress);

}  // namespace zither::enclose
