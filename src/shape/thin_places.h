// Thin places of a body made thicker.
#pragma once

#include <limits>
#include <vector>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::shape {

struct ThinPlacesOptions {
    double wall = 0;                                      // thinner is thin; in the file's unit, above 0
    mesh::Precision precision = mesh::Precision::Single;  // of the coordinates that come out
};

struct ThickerPlaces {
    mesh::Mesh mesh;
    std::size_t placesIn = 0;  // thin places that came in (measure/wall.h), of the pick
    std::size_t placesLeft = 0;
    double thinnestIn = std::numeric_limits<double>::infinity();
    double thinnestLeft = std::numeric_limits<double>::infinity();
    double farthest = 0;      // of what was put there from the surface that came in
    bool otherHoles = false;  // its holes are not those that came in: gaps beside thin walls were closed, say
    std::vector<mesh::Point> unsound = {};  // places that could not be settled, and stayed as they were
};

// Halfway through each thin place lies a sheet of points; what is within half the wall of it is fused with the body,
// which stays as it is elsewhere, bit for bit. So a thin plate gets half of what it lacks on either side, and an edge
// that ends in nothing a rim as round as the wall is thick, which reaches half the wall beyond it. What is thin still
// is looked at again, three times at most. Of a pick: places that have a triangle in it. Error: cancelled, or the
// surface is no solid, or the wall is too small for the part.
mesh::Outcome<ThickerPlaces> thickenThinPlaces(const check::Surveyed& s, const mesh::Pick& pick,
                                               const ThinPlacesOptions& options, mesh::Progress& progress);

}  // namespace zither::shape
