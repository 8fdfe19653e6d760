// A surface brought onto another: the turn and move that lay what they have in common on each other.
#pragma once

#include <array>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/motion.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "space/triangle_tree.h"

namespace zither::measure {

struct AlignOptions {
    // The share of the surface that the other has as well; what lies farthest from it beyond that is not minded.
    double share = 0.9;
    // However it lies turned; else it is nearly in place.
    bool fromAnywhere = true;
    std::size_t points = 4000;  // of the surface, spread by area
};

struct Aligned {
    mesh::Motion motion;
    // Root mean square of the distances of the points that count, before and after.
    double before = 0;
    double after = 0;
    std::size_t points = 0;  // that count
    int rounds = 0;
};

// Trimmed iterative closest points (Chetverikov et al. 2002) with distances from planes (Chen & Medioni 1991), from
// where it lies and, `fromAnywhere`, from the turns that bring the axes of inertia of both onto each other, of which
// the best goes on. It may end where no small change is better: surfaces that are alike after a turn of their own, or
// of which less than `share` is common, may come to lie wrong, which `after` tells. Error: only cancelled.
mesh::Outcome<Aligned> aligned(const mesh::Mesh& m, const space::TriangleTree& to, const AlignOptions& options,
                               mesh::Progress& progress);

// The turn and move that bring three points nearest to three others (Umeyama 1991, without a scale).
mesh::Motion alignedByPoints(const std::array<mesh::Point, 3>& from, const std::array<mesh::Point, 3>& to);

}  // namespace zither::measure
