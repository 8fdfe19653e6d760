// What speaks for it that a cell is full, and what for empty.
#pragma once

#include <vector>

#include "arrange/pieces.h"
#include "enclose/cells.h"
#include "enclose/patched.h"

namespace zither::enclose {

struct Evidence {
    std::vector<double> area;     // of each piece
    std::vector<double> border;   // of each cell: area of its sides
    std::vector<double> winding;  // of each cell, by what faces mean where they lie
    std::vector<double> counts;   // of each cell: 1, less where it is very thin
    std::vector<int> facing;      // of each group: 1 as it is, -1 inside out, 0 without direction
};

// The generalised winding number (Jacobson et al. 2013) at the largest sides of each cell, with the patches in place,
// understood group by group from the outside inwards. `thin`: cells thinner than that hardly count.
Evidence evidenceOf(const arrange::Pieces& pieces, const Cells& cells, const Patched& patched, double thin);

}  // namespace zither::enclose
