// The rims of holes as simple loops, and what kind of opening each is likely to be.
#pragma once

#include <span>
#include <string_view>
#include <vector>

#include "mesh/edges.h"
#include "mesh/mesh.h"

namespace zither::holes {

// One simple loop of boundary half-edges: each vertex once, in the direction of the surface's own triangles.
using Rim = std::vector<mesh::HalfEdge>;

// Every rim. Those that touch themselves at a vertex come apart there into simple loops. Walks that end nowhere, where
// neighbours face opposite ways, are counted in `notClosed`.
std::vector<Rim> rimsOf(const mesh::Mesh& m, const mesh::Edges& edges, std::size_t& notClosed);

// What is seen of a rim. Lengths in the file's unit.
struct RimShape {
    mesh::Point centre = mesh::Point::Zero();  // of its box
    double size = 0;                           // diagonal of its box
    double length = 0;
    // The least distance between two parallel lines that hold it between them, in the plane that fits it best.
    double width = 0;
    mesh::Point area = mesh::Point::Zero();  // area vector (Newell) as a patch over it would have, not doubled
    double offPlane = 0;                     // largest distance from the plane through its middle, across `area`
    // Mean cosine between the patch's direction and that of the triangles beyond the rim: 1 where the surface goes on
    // in the plane of the rim, 0 where it stands upright on it, as a tube on its end.
    double continuation = 0;
    double steadiness = 0;  // mean cosine between triangles beyond neighbouring edges: 1 where the surface is smooth
    bool convex = false;    // seen along `area` it turns one way only
    [[nodiscard]] bool flat() const { return offPlane <= 0.01 * size; }
    // Length squared over 4 pi times the area: 1 for a circle, 1.27 for a square.
    [[nodiscard]] double roundness() const;
};
RimShape shapeOf(const mesh::Mesh& m, const Rim& rim);
// The same of corners in the direction of the surface, with the unit normal of the triangle beyond each one's edge.
RimShape shapeOf(std::span<const mesh::Point> along, std::span<const mesh::Point> normals);

// Why an opening is likely meant to be open (an inlet, an outlet, an open base), as definitions.md says; empty where it
// looks like damage. `edges`: of the rim; `partSize`: diagonal of the box of the part.
std::string_view whyMeant(std::size_t edges, const RimShape& shape, double partSize);

}  // namespace zither::holes
