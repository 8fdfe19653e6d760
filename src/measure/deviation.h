// How far one surface lies from another: a proven upper bound of the one-sided Hausdorff distance, and the mean.
#pragma once

#include <span>
#include <vector>

#include "measure/measure_tolerances.h"
#include "mesh/edges.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "space/triangle_tree.h"

namespace zither::measure {

// Lengths in the file's unit. For an empty first surface all is 0; for an empty second one, infinite. Unless `enough`
// is said, distances below tolerance::deviationBeside of both surfaces' diagonal may be found larger than they are, up
// to that.
struct OneSidedDeviation {
    double max = 0;                           // upper bound: no point of the surface is farther than this
    double found = 0;                         // the largest distance met at a point; max - found is the uncertainty
    mesh::Point worst = mesh::Point::Zero();  // where it was met
    double mean = 0;                          // over area: measured at points
    std::size_t meanPoints = 0;               // so many
    double area = 0;
};

// A surface with what measuring needs: a tree over every triangle, and the edges.
struct MeasuredSurface {
    const space::TriangleTree& tree;
    const mesh::Edges& edges;
    [[nodiscard]] const mesh::Mesh& mesh() const { return tree.surface(); }
};

struct DeviationOptions {
    // Triangles of the first surface that are known to lie in the second (distance 0); empty: none.
    std::span<const std::uint8_t> skip;
    // For each triangle of the first surface one of the second that probably lies close, or noIndex; empty: none is
    // known. Where it does not lie close, what is nearest is found all the same.
    std::span<const mesh::TriangleId> close = {};
    // A bound up to this is not made sharper: for callers that only ask whether a limit holds.
    double enough = 0;
    // After so many pieces were split the bounds are left as they are.
    std::size_t mostSplits = 1'000'000;
    // The mean is measured at so many points at least; 0: at the corners and centroid of each triangle.
    double meanPoints = 0;
};

// From `from` to the surface of `to`. Branch and bound after Guthe, Borodin & Klein 2005 and Tang, Lee & Kim 2009: the
// distance to one convex triangle is convex, so over a piece it is largest at the piece's corners; pieces whose bound
// exceeds what was found are split. Departs from them in a sharper bound for pieces over several triangles that they
// can be laid onto (overlay.h).
mesh::Outcome<OneSidedDeviation> deviationFrom(const MeasuredSurface& from, const MeasuredSurface& to,
                                               const DeviationOptions& options, mesh::Progress& progress);

// Both directions, kept share and the area-weighted mean of both, measured at 40 000 points or more each way: a surface
// of few triangles is measured as densely as one of many. Where `enough` is said nobody asks for the mean.
struct Comparison {
    OneSidedDeviation aToB;
    OneSidedDeviation bToA;
    double mean = 0;
    std::size_t meanPoints = 0;  // that the mean was measured at
    double volumeA = 0;
    double volumeB = 0;
    double areaA = 0;
    double areaB = 0;
    double kept = 1;
};
mesh::Outcome<Comparison> compare(const MeasuredSurface& a, const MeasuredSurface& b, mesh::Progress& progress,
                                  double enough = 0);

// From each corner to the surface of `to`; 0 where that is empty. Error: cancelled.
mesh::Outcome<std::vector<double>> distancesAtCorners(const mesh::Mesh& from, const space::TriangleTree& to,
                                                      mesh::Progress& progress);

}  // namespace zither::measure
