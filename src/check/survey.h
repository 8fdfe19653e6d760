// All checks at once: every number of definitions.md and every place with a defect.
#pragma once

#include <optional>
#include <string_view>

#include "check/surroundings.h"
#include "measure/mass.h"

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
    std::uint64_t selfIntersectingPairs = 0;
    std::uint64_t selfIntersectingTriangles = 0;

    bool operator==(const Counts&) const = default;
};

// Key and member, in the order in which they are printed.
struct CountKey {
    std::string_view key;
    std::uint64_t Counts::*member;
};
inline constexpr CountKey countKeys[] = {
    {"triangles", &Counts::triangles},
    {"vertices", &Counts::vertices},
    {"collapsed_triangles", &Counts::collapsedTriangles},
    {"degenerate_triangles", &Counts::degenerateTriangles},
    {"duplicate_triangles", &Counts::duplicateTriangles},
    {"boundary_edges", &Counts::boundaryEdges},
    {"holes", &Counts::holes},
    {"nonmanifold_edges", &Counts::nonmanifoldEdges},
    {"nonmanifold_vertices", &Counts::nonmanifoldVertices},
    {"misoriented_edges", &Counts::misorientedEdges},
    {"shells", &Counts::shells},
    {"inward_shells", &Counts::inwardShells},
    {"self_intersecting_pairs", &Counts::selfIntersectingPairs},
    {"self_intersecting_triangles", &Counts::selfIntersectingTriangles},
};

struct SurveyOptions {
    // Triangles with an angle below this are listed as slivers.
    double sliverAngleDeg = 5;
};

struct Survey {
    Counts counts;
    measure::Mass mass;
    measure::EdgeLength edgeLength;
    double smallestAngleDeg = 0;
    bool watertight = false;
    bool solid = false;
    std::vector<Shell> shells;
    std::vector<std::uint32_t> shellOf;       // shell of each triangle; noEdge for collapsed ones
    std::vector<TrianglePair> crossingPairs;  // self-intersecting ones
    Findings findings;
};

// Runs every check, in parallel where that pays. The mesh may be anything that validates. Results do not depend on the
// number of threads. Error: only cancelled.
mesh::Outcome<Survey> survey(const Mesh& m, const SurveyOptions& options, mesh::Progress& progress);

}  // namespace zither::check
