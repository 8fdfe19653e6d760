// Rounding a surface to the precision of a file without breaking it.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"
#include "mesh/traced.h"

namespace zither::fit {

struct Settled : mesh::Traced {
    std::size_t rounded = 0;    // vertices that rounding moved
    std::size_t joined = 0;     // vertices that became another one
    std::size_t recut = 0;      // triangles that crossed each other after rounding and were cut anew
    std::size_t separated = 0;  // vertices of touching bodies that were pulled apart
    double farthestMoved = 0;   // of any vertex that came in
    int passes = 0;
    // What is left: empty if no triangles meet where they should not, none is degenerate or a duplicate, and no edge or
    // vertex is non-manifold.
    std::vector<mesh::Point> unsound;
    // Triangles of the input that crossed others in some pass, or came to nothing, ascending.
    std::vector<mesh::TriangleId> troubled;
};

// As a file holds it: the nearest values of that precision; with a grid above 0, of its multiples.
mesh::Point placedOn(double grid, mesh::Precision precision, const mesh::Point& p);

// The length whose multiples what cutting makes of this surface should be placed on.
double madeGrid(const mesh::Mesh& m);

struct SettleOptions {
    mesh::Precision precision;
    // One flag a vertex: its coordinates are not exact, rounded already or not, as those that cutting made. Empty:
    // none.
    std::vector<std::uint8_t> made = {};
    // Above 0: what is made lies on multiples of this length, in the file's unit (of twice as much from pass to pass,
    // where mending does not end), so that points that crowd together become one, and what touches is parted by a few
    // of them at least.
    double grid = 0;
    bool impatient = false;                             // given up as soon as mending makes more of what it mends
    SettleOptions(mesh::Precision p) : precision(p) {}  // NOLINT: the precision is all that is asked mostly
};

// Rounds, and mends what rounding broke where it broke: triangles that cross are cut along their curves and only the
// outer skin is kept, its new vertices are rounded again, until nothing crosses; bodies that touch at an edge or a
// vertex are pulled apart by a few units in the last place. The surface must be without self-intersections before
// rounding (open edges may be there); what touches already is mended as well.
mesh::Outcome<Settled> settle(const mesh::Mesh& m, const SettleOptions& options, mesh::Progress& progress);

}  // namespace zither::fit
