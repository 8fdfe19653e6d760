// Patches over the rim of a hole, one function a way of making them.
#pragma once

#include <array>
#include <functional>
#include <set>
#include <span>
#include <vector>

#include "mesh/edges.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::holes {

struct Loop {
    std::vector<mesh::VertexId> vertices;  // each once, in the direction in which new triangles run along the rim
    std::vector<mesh::Point> rimNormals;   // unit normal of the triangle beyond the edge vertices[i], vertices[i+1]
};

// Triangles over a rim. Vertices from positions.size() on are the patch's own, in the order of `added`.
struct Patch {
    std::vector<mesh::Point> added;
    std::vector<mesh::Triangle> triangles;
};

// The corners of a triangle of a patch over a surface with these positions; and its area.
std::array<mesh::Point, 3> cornersOf(const Patch& patch, const mesh::Triangle& t,
                                     const std::vector<mesh::Point>& positions);
double areaOf(const Patch& patch, const std::vector<mesh::Point>& positions);

// What a patch may not use.
struct Forbidden {
    std::function<bool(mesh::VertexId, mesh::VertexId)> isEdge;  // chords that would make an edge non-manifold
    std::set<mesh::Triangle> triangles = {};                     // sorted corners: they cross something
};

// taut: triangles over the loop's vertices, of least weight: first the sharpest fold (with the rim and among
// themselves), then area (Barequet & Sharir 1995; weights of Liepa 2003, section 3). Loops longer than a few hundred
// edges are first cut by short chords. No triangle where there is no such patch.
mesh::Outcome<Patch> tautPatch(const std::vector<mesh::Point>& positions, const Loop& loop, const Forbidden& forbidden,
                               mesh::Progress& progress);

// flat: the constrained Delaunay triangulation of the loops (an outer one and islands in it) seen along `normal`,
// with vertices of its own inside long ones, so that no triangle reaches over a whole hole of thousands of edges. No
// triangle where a loop crosses itself or another one in that view.
Patch flatPatch(const std::vector<mesh::Point>& positions, std::span<const Loop> loops, const mesh::Point& normal);

// ruled: between the two stretches into which the two vertices farthest from each other part the loop; the next
// triangle is always that with the shorter rule.
Patch ruledPatch(const std::vector<mesh::Point>& positions, const Loop& loop);

// A fan about a new vertex in the middle: it has no chords that could be edges already.
Patch fanPatch(const std::vector<mesh::Point>& positions, const Loop& loop);

// sharp: the flat faces around the rim carried on to the ridge in which two of them meet, or the corner of three. No
// triangle where the rim has other faces, or they do not meet within reach.
Patch sharpPatch(const std::vector<mesh::Point>& positions, const Loop& loop);

// The triangles beyond a rim turn sharply at two or three places: where that may help.
bool meetsFaces(const Loop& loop);

struct Surrounding {
    const mesh::Mesh& mesh;
    const mesh::Corners& corners;
};

// creased: where the surface around a rim is two faces, plane or not, that meet in a crease, the crease is carried on
// from where it enters the hole to where it leaves it, as the arc that goes on as it came, and either side is closed
// flat or taut. No triangle where the rim has not two such places.
mesh::Outcome<Patch> creasedPatch(const Surrounding& surrounding, const Loop& loop, mesh::Progress& progress);

// smooth: a patch (taut or flat) refined to the density of the rim (Liepa 2003, section 4) and bent so that it goes on
// where the surface stops: minimal variation of its Laplacian with the surface around held fixed (Botsch & Kobbelt
// 2004), towards the mean curvature found beyond the rim (Schneider & Kobbelt 2001), so that the cap of a sphere comes
// back round. `base` is over the vertices of the mesh alone.
mesh::Outcome<Patch> smoothPatch(const Surrounding& surrounding, const Loop& loop, const Patch& base,
                                 mesh::Progress& progress);

}  // namespace zither::holes
