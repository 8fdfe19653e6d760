// What cutting made, made fit for use: no needle that is not forced, and sound as a file will hold it.
#pragma once

#include <cstdint>
#include <vector>

#include "arrange/settle.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::arrange {

struct FitOptions {
    mesh::Precision precision = mesh::Precision::Single;  // of the coordinates that come out
    // One flag a vertex: it was made, and may be moved. One flag a triangle: it stays as it is.
    std::vector<std::uint8_t> made = {};       // empty: nothing was
    std::vector<std::uint8_t> untouched = {};  // empty: none must
};

// What settling did in the end; `sourceOf` and `farthestMoved` cover all that was done.
struct Fit : Settled {
    std::size_t collapsed = 0;  // edges of needles
    std::size_t swapped = 0;    // edges of caps
};

// Settles to 64 bits, takes needles and caps out of what was made, within a millionth of the diagonal (or two units of
// the last place, where that is more), and settles to the precision asked for. Where rounding cannot be settled, the
// same again within 4, 16 and 64 times that length, on the last rung of everything; the soundest is the result. The
// surface must be without self-intersections, as settle says.
mesh::Outcome<Fit> makeFit(const mesh::Mesh& m, const FitOptions& options, mesh::Progress& progress);

}  // namespace zither::arrange
