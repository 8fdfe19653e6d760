// What all checks together find: every number of definitions.md and every place with a defect.
#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <string_view>
#include <vector>

#include "check/crossing_pairs.h"
#include "check/finding.h"
#include "measure/mass.h"
#include "mesh/edges.h"

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
    std::uint64_t needles = 0;

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
    {"self_intersecting_pairs", "pairs of triangles that meet", &Counts::selfIntersectingPairs, true},
    {"self_intersecting_triangles", "triangles that meet others", &Counts::selfIntersectingTriangles},
    {"needles", "needles", &Counts::needles, true},
};

// A piece of surface: triangles linked across shared edges.
struct Shell {
    std::uint64_t triangles = 0;
    mesh::Box box;
    double volume = 0;  // about its own centre
    double area = 0;
    int volumeSign = 0;                         // exact; meaningful where closed
    bool closed = false;                        // every edge has two triangles, running against each other
    std::uint32_t depth = 0;                    // closed shells around it, which it does not cross
    std::uint32_t directParent = mesh::noEdge;  // innermost of them; noEdge where there is none
    bool inward = false;                        // direction disagrees with its depth
    TriangleId firstTriangle = 0;
};

struct SurveyOptions {
    // Triangles with an angle below this are listed as slivers.
    double sliverAngleDeg = 5;
    // What takes longer is measured where it is asked for; 0: not.
    double wall = 0;                    // in the file's unit: thinner walls are thin
    double slopeDeg = 0;                // of overhangs towards `up`
    double knifeDeg = 0;                // sharper edges are knife edges
    double narrowEdges = 0;             // walls thinner than so many edges are too thin for the mesh
    double narrowEdge = 0;              // of that length, in the file's unit; 0: of the mean edge
    double componentPercent = 0;        // of the part's diagonal: smaller shells are small
    double holePercent = 0;             // the same of the width of holes
    double tunnelPercent = 0;           // and of the way around tunnels
    double parallelDeg = 0;             // of undercuts along `up`: walls nearer to it than this are none
    std::array<double, 3> up{0, 0, 1};  // build direction
    // Sizes of build volumes, any of which will do: width, depth and height, in the file's unit; the height is along
    // `up`.
    std::vector<std::array<double, 3>> build = {};

    [[nodiscard]] Point upward() const { return Point(up[0], up[1], up[2]).normalized(); }

    bool operator==(const SurveyOptions&) const = default;
    // All that the others ask for is measured with these as well.
    [[nodiscard]] bool cover(const SurveyOptions& other) const;
};

// What is only measured where it is asked for, and where the surface is what can be measured: NaN elsewhere.
struct Shape {
    static constexpr double untold = std::numeric_limits<double>::quiet_NaN();
    double thinArea = untold;      // share of the area
    double thinnest = untold;      // infinite: nothing is thin
    double thinPlaces = untold;    // how many
    double wallStep = untold;      // grid within triangles longer than the limit
    bool wallCoarser = false;      // than half the limit
    double narrowPlaces = untold;  // how many are too thin for the mesh
    double narrowest = untold;
    double smallComponents = untold;
    double smallHoles = untold;
    double smallTunnels = untold;
    double overhangArea = untold;
    double undercutArea = untold;
    double knifeLength = untold;
    double outsideBuild = untold;  // how much longer than a build volume allows
    double voids = 0;              // cavities within material; always told
    double voidVolume = 0;
};

// Lengths in the file's unit. Made by Surveyed::survey.
struct Survey {
    SurveyOptions options;
    Counts counts;
    measure::Mass mass;
    measure::EdgeLength edgeLength;
    double smallestAngleDeg = 0;
    Shape shape;
    bool watertight = false;
    bool solid = false;
    std::vector<Shell> shells;
    std::vector<std::uint32_t> shellOf;       // shell of each triangle; noEdge for collapsed ones
    std::vector<TrianglePair> crossingPairs;  // self-intersecting ones
    Findings findings;
};

// A count as what a brief limits.
template <std::uint64_t Counts::*member>
double countOf(const Survey& survey) {
    return static_cast<double>(survey.counts.*member);
}

template <double Shape::*member>
double shapeOf(const Survey& survey) {
    return survey.shape.*member;
}

}  // namespace zither::check
