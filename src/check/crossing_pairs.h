// The exact test of two triangles, and the search for all pairs that fail it.
#pragma once

#include <cstdint>
#include <span>
#include <utility>
#include <vector>

#include "check/finding.h"
#include "exact/predicates.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "space/triangle_tree.h"

namespace zither::check {

using TrianglePair = std::pair<TriangleId, TriangleId>;

// Two corners are one vertex, or the three lie on one line. Exact.
inline bool isDegenerate(const Mesh& m, TriangleId t) {
    return mesh::isCollapsed(m.triangles[t]) || exact::collinear(m.corner(t, 0), m.corner(t, 1), m.corner(t, 2));
}

// True where the two triangles, neither degenerate nor with the same three vertices, meet outside the vertices and the
// edge that they share. Exact.
bool trianglesIntersect(const Mesh& m, TriangleId a, TriangleId b);

// One flag a triangle; an empty span asks nothing.
struct PairSearchOptions {
    std::span<const std::uint8_t> suspects = {};  // only pairs with at least one of them
    std::span<const std::uint8_t> leftOut = {};  // no pairs with any of them: degenerate ones, unless the tree has none
};

// What a search for pairs that meet may find on its way.
struct Meetings {
    std::vector<TrianglePair> crossing;  // as crossingPairs
    std::vector<TriangleId> near;        // ascending: nearer than `reach` to one that shares no vertex and is not met
};
mesh::Outcome<Meetings> meetings(const space::TriangleTree& tree, double reach, mesh::Progress& progress,
                                 const PairSearchOptions& options = {});

// All such pairs among the triangles of the tree, first < second, each once; in an order that depends on the tree
// alone.
mesh::Outcome<std::vector<TrianglePair>> crossingPairs(const space::TriangleTree& tree, mesh::Progress& progress,
                                                       const PairSearchOptions& options = {});

}  // namespace zither::check
