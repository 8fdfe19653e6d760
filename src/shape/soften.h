// Ridges made round.
#pragma once

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::shape {

struct SoftenOptions {
    double radius = 0;     // nothing farther from a ridge changes; in the file's unit, above 0
    double ridgeDeg = 30;  // edges that turn by more are ridges, or valleys
    mesh::Precision precision = mesh::Precision::Single;  // of the coordinates that come out
};

struct Softened {
    check::SurveyedPtr part;
    double ridges = 0;      // length of the edges that were ridges
    std::size_t split = 0;  // edges, so that there is something to bend
    std::size_t moved = 0;  // vertices
    double farthest = 0;    // that any moved
};

// The surface within the radius of a ridge gets edges of a third of it, and is bent so that it goes on smoothly where
// it is not touched (smooth.h, without volume given back): no farther than a fillet of that radius would be, and into
// the material no farther than a tenth of what is there. Of a pick: ridges between two of its triangles; the pick
// says nothing else of what may move. Borders of regions, open borders and needles stay. Error: cancelled, or the
// radius is too small for the coordinates.
mesh::Outcome<Softened> soften(const check::Surveyed& s, const mesh::Pick& pick, const SoftenOptions& options,
                               mesh::Progress& progress);

// About how many triangles that makes.
double trianglesToSoften(const check::Surveyed& s, const mesh::Pick& pick, const SoftenOptions& options);

}  // namespace zither::shape
