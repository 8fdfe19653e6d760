// How fit triangles are for a mesh of a volume.
#pragma once

#include <array>
#include <cstdint>
#include <string_view>
#include <vector>

#include "mesh/edges.h"
#include "mesh/mesh.h"

namespace zither::measure {

// One value of each triangle, or edge, from the worst on.
struct Spread {
    double worst = 0;
    double onePercent = 0;  // a hundredth of them are no better
    double mean = 0;
    std::size_t count = 0;
    // How many in each of as many even steps from `low` to `high`; what lies beyond counts with the last.
    static constexpr std::size_t steps = 24;
    double low = 0;
    double high = 1;
    std::array<std::uint32_t, steps> histogram{};
};

// Collapsed triangles are the worst of all.
struct TriangleQuality {
    Spread angle;     // the smallest of each, in degrees: 60 at best
    Spread score;     // 4 sqrt(3) times the area over the sum of the squared edges: 1 at best (Bhatia & Lawrence 1990)
    Spread aspect;    // longest edge over least height, over that of an even triangle: 1 at best
    Spread edge;      // length over the mean of those that it meets, or the other way round: 1 at best
    Spread dihedral;  // degrees by which the surface turns over each edge of two triangles: 0 at best
};

// How a kind of quality is named and shown.
struct QualityKind {
    std::string_view key;    // in JSON
    std::string_view title;  // for people
    std::string_view unit;   // "deg" or none
    Spread TriangleQuality::*spread;
    double low;  // ends of the histogram
    double high;
    bool lessIsWorse;
};
inline constexpr std::array<QualityKind, 5> qualityKinds = {{
    {"smallest_angle", "smallest angle", "deg", &TriangleQuality::angle, 0, 60, true},
    {"score", "score for a volume mesh, 1 at best", "", &TriangleQuality::score, 0, 1, true},
    {"aspect", "aspect, 1 at best", "", &TriangleQuality::aspect, 1, 10, false},
    {"edge_against_neighbours", "edge against its neighbours, 1 at best", "", &TriangleQuality::edge, 1, 4, false},
    {"dihedral", "turn over an edge", "deg", &TriangleQuality::dihedral, 0, 180, false},
}};

// Of the chosen triangles (one flag each), and of their edges.
TriangleQuality qualityOf(const mesh::Mesh& m, const mesh::Edges& edges, const std::vector<std::uint8_t>& chosen);

// Of each triangle its value; where the kind is of edges, that of its worst edge.
std::vector<double> qualityOfEach(const mesh::Mesh& m, const mesh::Edges& edges, const QualityKind& kind);

}  // namespace zither::measure
