// remesh: even triangles in place of those that came.
#pragma once

#include <limits>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"
#include "shape/target_length.h"

namespace zither::shape {

using mesh::Outcome;
using mesh::Pick;
using mesh::Progress;

struct RemeshOptions {
    TargetOptions target;
    double creaseDeg = 35;
};

struct Remeshed {
    check::SurveyedPtr part;  // with its survey, where the input's is known
    [[nodiscard]] const Mesh& mesh() const { return part->mesh(); }

    double smallestAngleDeg = 0;
    double shareBelow30 = 0;        // of triangles that came, those with an angle below 30 degrees
    double meanEdge = 0;            // of what came
    std::size_t lines = 0;          // creases and borders that were kept
    std::size_t heldTriangles = 0;  // of the input: left as they came, because new ones would meet others there
    double deviation = 0;           // upper bound, both ways; only where it was limited
};

// Splits edges longer than four thirds of the target, collapses those shorter than four fifths, flips towards six edges
// a vertex, moves vertices within the surface towards the middle of their neighbours and back onto the surface that
// came in (Botsch & Kobbelt 2004, target lengths by curvature as Dunyach et al. 2013), then flips, moves and collapses
// what has a small angle still. Vertices on creases, borders and borders of regions stay on their line, its ends where
// they are. Nothing turns over. Where the deviation is limited it is measured, edges become shorter where it is more,
// and what cannot be brought within it stays as it came. What came out is tested exactly, in the precision that came
// in: where triangles meet now that did not, it is made again with the triangles there left as they came. Triangles
// that are not picked, degenerate, or meet others already stay as they are. Error: only cancelled.
Outcome<Remeshed> remesh(const check::Surveyed& s, const Pick& pick, const RemeshOptions& options, Progress& progress);

}  // namespace zither::shape
