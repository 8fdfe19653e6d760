// Pulling apart bodies that touch along an edge or at a vertex.
#pragma once

#include <span>
#include <vector>

#include "fit/fit_tolerances.h"
#include "mesh/edges.h"
#include "mesh/mesh.h"
#include "mesh/precision.h"

namespace zither::fit {

enum class Touching { Part, Join };  // bodies that share an edge or a vertex

// Triangles to be replaced by others, so that what touched gets vertices of its own.
struct Separation {
    std::vector<mesh::Point> added;               // new vertices, numbered from positions.size() on
    std::vector<mesh::Point> addedFrom;           // where they would be if nothing were moved
    std::vector<mesh::TriangleId> replaced;       // triangles that go
    std::vector<mesh::Triangle> replacement;      // triangles that come
    std::vector<mesh::TriangleId> replacementOf;  // the triangle that each of them stands for
};

struct SeparateOptions {
    mesh::Precision precision = mesh::Precision::Single;
    double units = tolerance::partingUnits;  // in the last place of that precision, that a copy moves
    double leastUnit = 0;                    // what counts as a unit where that is less, in the file's unit
    Touching touching = Touching::Part;
};

// At each non-manifold edge the triangles are paired around the solid wedges between them, by their exact angular
// order; at each vertex, those linked by pairs stay together, and every group but the largest gets a copy of the
// vertex, moved by some units in the last place into the solid. A touching edge whose ends are not parted gets a
// vertex in its middle first. Touching::Join pairs around the empty wedges instead and moves outwards, so that the
// bodies become one with a hair of material between them. Edges around which the triangles do not bound wedges in turn
// (open sheets through each other) are left alone.
Separation separateTouching(const mesh::Mesh& m, const mesh::Edges& edges, const SeparateOptions& options);

// Half-edges around an edge by the angle of their triangles about it, counter-clockwise seen against the direction from
// its lower vertex to the higher. Exact.
std::vector<mesh::HalfEdge> byAngle(const mesh::Mesh& m, std::span<const mesh::HalfEdge> around);

}  // namespace zither::fit
