// A body grown or shrunk by a length.
#pragma once

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::shape {

struct OffsetOptions {
    double distance = 0;  // outwards; below 0: inwards
    bool sharp = true;    // corners stay corners where that folds nowhere; else all is made anew by distance
    double cell = 0;      // of the grid, where it is made anew; at most half the distance
    mesh::Precision precision = mesh::Precision::Single;  // of the coordinates that come out
};

struct Offset {
    mesh::Mesh mesh;  // empty where nothing is so deep
    bool anew = false;
    // From corners of the result, and middles of its triangles and their edges, to what came in.
    double nearest = 0;
    double farthest = 0;
    std::size_t points = 0;
};

// Sharp: every vertex goes where the planes of the triangles around it are moved to, in the least squares; the mesh
// stays the same. That is taken where the result is solid, nothing of it is nearer to what came in than the distance
// asks for, and corners are no farther than twice that. Else, and where corners may be round: the body of all points
// nearer (or deeper) than the distance (distance_field.h), whose convex corners are round where it grows. Error:
// cancelled, the surface is no solid, or the cell is too small for the part.
mesh::Outcome<Offset> offset(const check::Surveyed& s, const OffsetOptions& options, mesh::Progress& progress);

}  // namespace zither::shape
