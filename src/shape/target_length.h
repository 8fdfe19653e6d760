// How long the edges of a surface should be, place by place.
#pragma once

#include <limits>
#include <vector>

#include "mesh/edges.h"
#include "mesh/mesh.h"
#include "shape/feature_lines.h"

namespace zither::shape {

struct TargetOptions {
    double longest = 0;   // where it is flat, in the file's unit
    double shortest = 0;  // where it is curved most; as `longest`: even
    // Edges bridge a curve no farther than this; infinite: they follow its turn alone. It makes edges shorter than
    // `shortest`, down to leastOfShortest.
    double deviation = std::numeric_limits<double>::infinity();
    double turnDeg = 20;  // an edge spans at most this turn of the surface, between the two lengths
    double growth = 0.3;  // from place to place the length changes by at most this share of the way between them
};

// Of the shortest length that is asked for: a smaller deviation is not reached by shorter edges.
inline constexpr double leastOfShortest = 1.0 / 4;

// About how many triangles edges of these lengths (of each vertex) make.
double expectedTriangles(const Mesh& m, const std::vector<double>& lengths);

// Of each vertex. Between lines that run beside each other no longer than a few times the way between them, down to
// leastOfShortest. Curvature from the turn at edges between triangles, averaged over the triangles around a vertex (as
// Cohen-Steiner & Morvan 2003), and along lines from their turn. O(n log n).
std::vector<double> targetLengths(const Mesh& m, const mesh::Edges& edges, const FeatureLines& lines,
                                  const TargetOptions& options);

// No length is longer than that of a neighbour and `growth` times the way to it.
void limitGrowth(std::vector<double>& lengths, const Mesh& m, double growth);

}  // namespace zither::shape
