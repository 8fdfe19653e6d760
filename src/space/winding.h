// The generalised winding number of triangles about a point (Jacobson 2013), with distant groups of triangles replaced
// by their dipole (Barill 2018).
#pragma once

#include <vector>

#include "mesh/mesh.h"

namespace zither::space {

// Keeps a reference to the mesh, which must outlive it. Queries are const and may run in parallel.
class WindingTree {
public:
    // Only these triangles; triangle t is counted weightOf[t] times.
    WindingTree(const mesh::Mesh& m, std::vector<mesh::TriangleId> triangles, const std::vector<int>& weightOf);

    // Within about 0.02 of the exact sum; groups count as far where their distance exceeds `farAway` times their
    // radius, and at 2 the error is about 0.05. A triangle in whose plane p lies counts as nothing, so that on a
    // surface the result is the mean of its two sides.
    [[nodiscard]] double at(const mesh::Point& p, double farAway = 3) const;

private:
    struct Group {
        mesh::Point centre = mesh::Point::Zero();  // of the area
        mesh::Point dipole = mesh::Point::Zero();  // sum of area vectors
        double area = 0;
        double radius = 0;
    };
    struct Item {
        mesh::TriangleId triangle = 0;
        int weight = 1;
    };
    [[nodiscard]] double exactOver(const mesh::Point& p, std::size_t begin, std::size_t end) const;

    const mesh::Mesh* mesh_;
    std::vector<Item> items_;                 // in Hilbert order
    std::vector<std::vector<Group>> levels_;  // groups of `fan` items, of `fan` groups, and so on
};

}  // namespace zither::space
