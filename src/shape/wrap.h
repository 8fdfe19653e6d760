// A new skin around everything: for surfaces that no local repair makes solid.
#pragma once

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::shape {

struct WrapOptions {
    double cell = 0;     // edge of a cell of the grid, in the file's unit
    double sealing = 0;  // openings up to this width are closed; 0: those alone that hardly show from within
    mesh::Precision precision = mesh::Precision::Single;  // of the coordinates that come out
};

struct WrapResult {
    mesh::Mesh mesh;
    std::size_t cells = 0;    // that the skin runs through
    std::size_t relaxed = 0;  // vertices drawn back from sharp edges because triangles crossed there
    bool fused = false;       // what crossed still was cut and fused
    bool solid = false;
};

// Manifold dual contouring (Ju 2002; Schaefer, Ju, Warren 2007) on a sparse grid. Inside is where the generalised
// winding number (Jacobson 2013, Barill 2018) exceeds a half; cells are visited from those that triangles run through
// to wherever the sign still changes, so that the skin closes over gaps. A vertex stands where the planes of the
// surface around meet best, within its cell: sharp edges stay. A cell has a vertex for each sheet of the skin in it.
// With `sealing`, what cannot be reached from outside by a ball of that width is inside too. Triangles that cross are
// drawn back to the middles of their cells, and fused at last. Expects a surface that faces outwards (orient). No point
// of a closed input is farther from the skin than the diagonal of a cell, where the skin has room for it.
mesh::Outcome<WrapResult> wrap(const check::Surveyed& s, const WrapOptions& options, mesh::Progress& progress);

// The cell with which a skin around the mesh has about so many triangles, and the other way round.
double cellForTriangles(const mesh::Mesh& m, double triangles);
double trianglesForCell(const mesh::Mesh& m, double cell);

}  // namespace zither::shape
