// What cutting made, made fit for use: no needle that is not forced, and sound as a file will hold it.
#pragma once

#include <cstdint>
#include <vector>

#include "fit/settle.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::fit {

// Triangles in trouble that are covered where nobody says otherwise: a few times as many triangles of plates are cut.
inline constexpr std::size_t usuallyCovered = 6000;

struct FitOptions {
    mesh::Precision precision = mesh::Precision::Single;  // of the coordinates that come out
    // One flag a vertex: it was made, and may be moved. One flag a triangle: it stays as it is.
    std::vector<std::uint8_t> made = {};       // empty: nothing was
    std::vector<std::uint8_t> untouched = {};  // empty: none must
    std::size_t mostCovered = usuallyCovered;  // triangles in trouble that plates cover where nothing else helps
};

// What settling did in the end; `sourceOf` and `farthestMoved` cover all that was done.
struct Fit : Settled {
    std::size_t collapsed = 0;         // edges of needles
    std::size_t swapped = 0;           // edges of caps
    std::vector<mesh::Point> patched;  // spots that were cut out and closed anew: the middles of their rims
    double largestPatch = 0;           // diagonal of the largest rim's box
    std::size_t coverable = 0;         // triangles in trouble still that more plates may cover; 0 where none can
    std::size_t plates = 0;            // that cover what no rounding holds
    // Triangles that do not stand as they came with an angle below fitAngleDeg still: edges around them that must stay
    // force it. Only counted where something was cut or mended.
    std::size_t smallAngles = 0;
    double plateHeight = 0;  // they reach plateReach (cover.h) times so far at most
};

// Takes needles and caps out of what was made, within a millionth of the diagonal (or two units of the last place,
// where that is more), puts what was made on a grid that 32 bits hold, and settles to the precision asked for. What
// crosses or touches after that is cut out of the rounded surface, each spot as narrowly as it closes, and patched
// without new vertices, patches tested exactly as they are written (holes/fill.h); what is left of it again. Where that
// does not end, the next rung: the same within 4, 16 ... 256 times that length, but only around what was in trouble.
// What is in trouble still is covered with plates (cover.h), 4, 16 ... 256 times that length high, which are climbed
// with like the rest. The soundest is the result; needles that came of all this are taken out of it, and where that
// does not do, with given triangles beside them. The surface must be without self-intersections, as settle says.
// Angles below half a degree go in the same way, where nothing that stood moves for it. sourceOf of a patch is noIndex.
mesh::Outcome<Fit> makeFit(const mesh::Mesh& m, const FitOptions& options, mesh::Progress& progress);

}  // namespace zither::fit
