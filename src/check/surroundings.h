// What several checks need to know of a mesh, computed once; and the functions of the checks, one file each.
#pragma once

#include <cstdint>
#include <utility>
#include <vector>

#include "check/crossing_pairs.h"
#include "check/finding.h"
#include "mesh/edges.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::check {

struct Surroundings {
    explicit Surroundings(const Mesh& m);

    const Mesh& mesh;
    mesh::Edges edges;
    mesh::Groups shells;
    std::vector<std::uint8_t> degenerate;  // a triangle: collapsed, or its corners on one line (exactly)
};

// A count by definitions.md and the places that make it up.
struct CheckResult {
    std::uint64_t count = 0;
    Findings findings;
};

// Components of boundary edges; count is the number of boundary edges, one finding a hole.
CheckResult checkOpenEdges(const Surroundings& s);
CheckResult checkNonmanifoldEdges(const Surroundings& s);
CheckResult checkNonmanifoldVertices(const Surroundings& s);
// count is the number of misoriented edges; findings are connected runs of them.
CheckResult checkMisorientedEdges(const Surroundings& s);
CheckResult checkDuplicateTriangles(const Surroundings& s);
CheckResult checkDegenerateTriangles(const Surroundings& s);
// Triangles whose smallest angle is below limitDeg.
CheckResult checkSlivers(const Surroundings& s, double limitDeg);

struct SelfIntersections {
    std::vector<TrianglePair> pairs;  // ascending, first < second
    std::uint64_t triangles = 0;      // distinct triangles in the pairs
    Findings findings;                // connected groups of them
};
mesh::Outcome<SelfIntersections> checkSelfIntersections(const Surroundings& s, mesh::Progress& progress);

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
// All shells with their nesting; `crossing` pairs of triangles keep shells that cross from being nested.
std::vector<Shell> shellList(const Surroundings& s, const std::vector<TrianglePair>& crossing);

CheckResult checkInwardShells(const Surroundings& s, const std::vector<Shell>& shells);
CheckResult checkShells(const Surroundings& s, const std::vector<Shell>& shells);

}  // namespace zither::check
