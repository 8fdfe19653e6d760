// Size, area, volume, edge lengths and angles of a surface, as definitions.md means them.
#pragma once

#include "mesh/edges.h"
#include "mesh/mesh.h"

namespace zither::measure {

using mesh::Box;
using mesh::Mesh;

// Lengths in the file's unit, angles in degrees. All zero for a surface without triangles.
struct Mass {
    Box size;
    double area = 0;
    // Signed, by the divergence theorem about the centre of the box; means something only for a closed surface.
    double volume = 0;
};
Mass massOf(const Mesh& m);

// Over distinct edges of triangles that are not collapsed.
struct EdgeLength {
    double min = 0;
    double mean = 0;
    double max = 0;
    // Longest edge over shortest; 1 where there is no edge.
    [[nodiscard]] double ratio() const {
        return min > 0 ? max / min : (max > 0 ? std::numeric_limits<double>::infinity() : 1);
    }
};
EdgeLength edgeLengthOf(const Mesh& m, const mesh::Edges& edges);

// Smallest corner angle of a triangle, in degrees: 60 at best, 0 for a degenerate one.
double smallestAngleDeg(const Mesh& m, mesh::TriangleId t);

// Least height of a triangle: twice its area over its longest edge; 0 for a degenerate one.
double leastHeight(const Mesh& m, mesh::TriangleId t);
double leastHeight(const mesh::Point& a, const mesh::Point& b, const mesh::Point& c);

// Share of a's triangles (0 to 1) that stand in b with bit-identical corners, each of b's counted once; 1 for an empty
// a. Direction does not matter. `of[t]` tells which triangles of a are kept, `in[t]` which of b they are.
struct Kept {
    double share = 1;
    std::vector<std::uint8_t> of;
    std::vector<std::uint8_t> in;
};
Kept keptOf(const Mesh& a, const Mesh& b);

}  // namespace zither::measure
