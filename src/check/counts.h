// What is counted of a surface.
#pragma once

#include <cstdint>
#include <string_view>

namespace zither::check {

// The counts of definitions.md, by their keys.
struct Counts {
    std::uint64_t triangles = 0;
    std::uint64_t vertices = 0;
    std::uint64_t collapsedTriangles = 0;
    std::uint64_t degenerateTriangles = 0;
    std::uint64_t duplicateTriangles = 0;
    std::uint64_t boundaryEdges = 0;
    std::uint64_t holes = 0;
    std::uint64_t nonmanifoldEdges = 0;
    std::uint64_t nonmanifoldVertices = 0;
    std::uint64_t misorientedEdges = 0;
    std::uint64_t shells = 0;
    std::uint64_t inwardShells = 0;
    std::uint64_t buriedShells = 0;
    std::uint64_t selfIntersectingPairs = 0;
    std::uint64_t selfIntersectingTriangles = 0;
    std::uint64_t needles = 0;
    std::uint64_t folds = 0;
    std::uint64_t hairGaps = 0;

    bool operator==(const Counts&) const = default;
};

// Key, words for people, and member, in the order in which they are printed.
struct CountKey {
    std::string_view key;
    std::string_view title;
    std::uint64_t Counts::*member;
    bool isWorse = false;  // more of them is worse, and no other count says it
};
inline constexpr CountKey countKeys[] = {
    {"triangles", "triangles", &Counts::triangles},
    {"vertices", "vertices", &Counts::vertices},
    {"collapsed_triangles", "collapsed triangles", &Counts::collapsedTriangles, true},
    {"degenerate_triangles", "degenerate triangles", &Counts::degenerateTriangles, true},
    {"duplicate_triangles", "duplicate triangles", &Counts::duplicateTriangles, true},
    {"boundary_edges", "open edges", &Counts::boundaryEdges, true},
    {"holes", "holes", &Counts::holes, true},
    {"nonmanifold_edges", "non-manifold edges", &Counts::nonmanifoldEdges, true},
    {"nonmanifold_vertices", "non-manifold vertices", &Counts::nonmanifoldVertices, true},
    {"misoriented_edges", "edges whose sides disagree", &Counts::misorientedEdges, true},
    {"shells", "shells", &Counts::shells},
    {"inward_shells", "inward shells", &Counts::inwardShells, true},
    {"buried_shells", "buried shells", &Counts::buriedShells, true},
    {"self_intersecting_pairs", "pairs of triangles that meet", &Counts::selfIntersectingPairs, true},
    {"self_intersecting_triangles", "triangles that meet others", &Counts::selfIntersectingTriangles},
    {"needles", "needles", &Counts::needles, true},
    {"folds", "folds", &Counts::folds, true},
    {"hair_gaps", "hair gaps", &Counts::hairGaps, true},
};

}  // namespace zither::check
