// A part cut off at a plane.
#pragma once

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::shape {

using mesh::Mesh;
using mesh::Point;

struct TrimOptions {
    Point through = Point::Zero();                        // a point of the plane, in the file's unit
    Point towards = Point::UnitZ();                       // what stays lies on this side; of length 1
    bool cap = true;                                      // what was inside is closed in the plane; else it stays open
    mesh::Precision precision = mesh::Precision::Single;  // of the coordinates that come out
};

struct Trimmed {
    Mesh mesh;
    double capArea = 0;
    std::size_t cutTriangles = 0;  // of which only pieces are left
    double farthestFromPlane = 0;  // corners of the cap, as written; 0 across an axis
    std::vector<Point> unsound;    // places that could not be settled
};

// Exact: the part is intersected with a body one of whose faces is a single triangle in the plane (fit/fuse.h).
// Across an axis the plane is put where coordinates are held (2^-24 of the diagonal off at most, in 32 bits), and the
// cap lies in it with every bit. Of a pick its triangles are cut, the others stay. An empty mesh where nothing lies on
// that side. Error: cancelled.
mesh::Outcome<Trimmed> trim(const check::Surveyed& s, const mesh::Pick& pick, const TrimOptions& options,
                            mesh::Progress& progress);

}  // namespace zither::shape
