// A curved surface through the corners of a mesh: a cubic patch over each triangle.
#pragma once

#include <array>
#include <vector>

#include "mesh/edges.h"
#include "mesh/mesh.h"

namespace zither::shape {

// Vlachos et al. 2001 (curved point-normal triangles). Normals at a vertex are the mean of the triangles around it that
// no crease parts, weighted by their angles. Patches meet along common curves: along creases and borders these follow
// the line itself, and end straight where lines meet or turn by more than the crease.
class CurvedPatches {
public:
    // `creaseDeg`: edges whose triangles turn by more are creases; borders of the surface and of regions, and edges
    // where more than two triangles meet, are too. `curved`: one flag a triangle; the others stay flat with all of
    // their sides.
    CurvedPatches(const mesh::Mesh& m, const mesh::Edges& edges, double creaseDeg,
                  const std::vector<std::uint8_t>& curved);

    // The place of the patch over the triangle that has these shares of its corners (their sum is 1).
    [[nodiscard]] mesh::Point at(mesh::TriangleId t, const mesh::Point& shares) const;
    // The same over a point of the triangle.
    [[nodiscard]] mesh::Point over(mesh::TriangleId t, const mesh::Point& p) const;
    // Makes the triangle flat, and so the sides of those beside it.
    void flatten(mesh::TriangleId t);

private:
    // The two inner points of the curve over a half-edge, from its start.
    using Inner = std::array<mesh::Point, 2>;

    void setCurve(mesh::EdgeId e, const Inner& fromStartOfFirst);
    [[nodiscard]] Inner straight(mesh::HalfEdge h) const;

    const mesh::Mesh& mesh_;
    const mesh::Edges& edges_;
    std::vector<Inner> curves_;  // of each half-edge
};

}  // namespace zither::shape
