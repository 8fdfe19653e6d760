// What all checks together find: every number of definitions.md and every place with a defect.
#pragma once

#include <cstdint>
#include <vector>

#include "check/counts.h"
#include "check/crossing_pairs.h"
#include "check/finding.h"
#include "check/measured.h"
#include "check/survey_options.h"
#include "measure/mass.h"
#include "mesh/edges.h"

namespace zither::check {

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
    int around = 0;       // of these, how many enclose positive volume less how many enclose negative volume
    bool inward = false;  // closed, encloses negative volume, and nothing is full around it
    bool buried = false;  // closed, encloses positive volume, within what is full
    TriangleId firstTriangle = 0;

    // It faces the wrong way for what is around it.
    [[nodiscard]] bool isMisplaced() const { return inward || buried; }
    // Closed, enclosing negative volume within what is full.
    [[nodiscard]] bool isCavity() const { return closed && volumeSign < 0 && !inward; }
};

// Lengths in the file's unit. Made by Surveyed::survey.
struct Survey {
    SurveyOptions options;
    Counts counts;
    measure::Mass mass;
    measure::EdgeLength edgeLength;
    double smallestAngleDeg = 0;
    Measured measured;
    bool watertight = false;
    bool solid = false;
    std::vector<Shell> shells;
    std::vector<std::uint32_t> shellOf;       // shell of each triangle; noEdge for collapsed ones
    std::vector<TrianglePair> crossingPairs;  // self-intersecting ones
    std::vector<TriangleId> hairs;            // triangles of hair gaps, ascending
    Findings findings;
};

// A count as what a brief limits.
template <std::uint64_t Counts::*member>
double countOf(const Survey& survey) {
    return static_cast<double>(survey.counts.*member);
}

template <const Measure& measure>
double measuredOf(const Survey& survey) {
    return survey.measured[measure];
}

}  // namespace zither::check
