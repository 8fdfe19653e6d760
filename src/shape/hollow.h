// A body made a shell of a wall, with holes that what is inside can leave by.
#pragma once

#include <limits>
#include <optional>
#include <vector>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::shape {

struct HollowOptions {
    double wall = 0;                                      // at least, in the file's unit
    double cell = 0;                                      // of the grid; at most half the wall
    std::size_t drains = 0;                               // of each void, where `at` names no places
    double drainDiameter = 0;                             // of their holes
    mesh::Point up = mesh::Point::UnitZ();                // of the build: what is inside runs down; of length 1
    std::vector<mesh::Point> at = {};                     // places on the surface where drains go instead
    mesh::Precision precision = mesh::Precision::Single;  // of the coordinates that come out
};

struct Drain {
    mesh::Point from;  // in the skin of the void
    mesh::Point to;    // on the surface of the body
};

struct Hollowed {
    mesh::Mesh mesh;
    std::size_t made = 0;    // voids
    std::size_t voids = 0;   // with those that were there, where drains were asked for
    std::size_t crumbs = 0;  // voids too small to be worth one, left full
    double removed = 0;      // volume
    double thinnest = 0;     // wall, at `points`
    double thickest = 0;     // the same from the void to the nearest surface
    std::size_t points = 0;
    std::vector<Drain> drains = {};           // that were drilled
    std::vector<mesh::Point> undrilled = {};  // places where none could be
};

// The voids are where a solid is deeper than the wall (distance_field.h); the body's own triangles stay with their
// bits. Where triangles of a void cut corners they are farther in, by as much as it takes. Voids smaller than a cube of
// the wall are left full. A drain is a straight hole of 32 sides along the shortest way from the void to the outside:
// the first in the midst of the lowest part of its floor, each next one as far from the others as the floor allows,
// none near the sides where there is room. A drain whose ends would not lie free all around is not drilled. Error:
// cancelled, or the surface is no solid, or the cell is too small for the part.
mesh::Outcome<Hollowed> hollow(const check::Surveyed& s, const HollowOptions& options, mesh::Progress& progress);

}  // namespace zither::shape
