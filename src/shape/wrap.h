// A new skin around everything: for surfaces that no local repair makes solid.
#pragma once

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"
#include "shape/contour.h"

namespace zither::shape {

struct WrapOptions {
    double cell = 0;     // edge of a cell of the grid, in the file's unit
    double sealing = 0;  // openings up to this width are closed; 0: those alone that hardly show from within
    mesh::Precision precision = mesh::Precision::Single;  // of the coordinates that come out
};

// The skin (contour.h) of where the generalised winding number (Jacobson 2013, Barill 2018) exceeds a half: it closes
// over gaps. With `sealing`, what cannot be reached from outside by a ball of that width is inside too. Expects a
// surface that faces outwards (orient). No point of a closed input is farther from the skin than the diagonal of a
// cell, where the skin has room for it.
mesh::Outcome<Skin> wrap(const check::Surveyed& s, const WrapOptions& options, mesh::Progress& progress);

// The cell with which a skin around the mesh has about so many triangles, and the other way round.
double cellForTriangles(const mesh::Mesh& m, double triangles);
double trianglesForCell(const mesh::Mesh& m, double cell);

}  // namespace zither::shape
