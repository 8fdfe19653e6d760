// The generalised winding number of triangles about a point (Jacobson 2013), with distant groups of triangles replaced
// by their dipole (Barill 2018).
#pragma once

#include <span>
#include <vector>

#include "mesh/mesh.h"

namespace zither::space {

// Keeps a reference to the mesh, which must outlive it. Queries are const and may run in parallel.
class WindingTree {
public:
    // Every triangle, once.
    explicit WindingTree(const mesh::Mesh& m);
    // Only these triangles; triangle t is counted weightOf[t] times.
    WindingTree(const mesh::Mesh& m, const std::vector<mesh::TriangleId>& triangles, const std::vector<int>& weightOf);

    // Within about 0.01 of the exact sum; groups count as far where their distance exceeds `farAway` times their
    // radius, and at 2 the error is about 0.03. A triangle in whose plane p lies counts as nothing, so that on a
    // surface the result is the mean of its two sides.
    [[nodiscard]] double at(const mesh::Point& p, double farAway = 3) const;
    // The same of many points: what is far from a bundle of neighbours is summed once for all of them, so that points
    // that follow on each other should lie beside each other. `values`: one a point.
    void at(std::span<const mesh::Point> points, std::span<double> values, double farAway = 3) const;
    // At the middle of flagged triangles of a mesh, in any order, on all cores; 0 for the others.
    [[nodiscard]] std::vector<double> atMiddles(const mesh::Mesh& of, const std::vector<std::uint8_t>& flags) const;

private:
    struct Group {
        mesh::Point centre = mesh::Point::Zero();  // of the area
        mesh::Point dipole = mesh::Point::Zero();  // sum of area vectors
        double area = 0;
        double radius = 0;
        double spread = 0;  // mean square of how far it reaches along one axis in its plane
    };
    struct Item {
        mesh::TriangleId triangle = 0;
        int weight = 1;
    };
    struct Node {
        std::uint32_t level = 0;
        std::uint32_t index = 0;
    };
    [[nodiscard]] Node root() const { return {static_cast<std::uint32_t>(levels_.size() - 1), 0}; }
    [[nodiscard]] std::size_t endOf(const Node& n) const;
    void build();
    [[nodiscard]] static double solidAngle(const Group& group, const mesh::Point& to, double squared);
    [[nodiscard]] double sumFrom(std::span<const Node> nodes, const mesh::Point& p, double farAway) const;
    void atBundle(std::span<const mesh::Point> points, std::span<double> values, double farAway) const;

    const mesh::Mesh* mesh_;
    std::vector<Item> items_;                 // in Hilbert order
    std::vector<std::vector<Group>> levels_;  // each item; groups of `fan` of them, of `fan` groups, and so on
};

}  // namespace zither::space
