// Non-manifold edges and vertices untied: what bounds no solid goes, what only touches is parted or joined.
#pragma once

#include <vector>

#include "fit/separate.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::fit {

struct ResolveOptions {
    Touching touching = Touching::Part;
    bool removeSheets = true;  // pairs of triangles on the same three vertices that enclose nothing
    double largestFin = 0.05;  // a fin above this share (0 to 1) of the area of its shell stays
    mesh::Precision precision = mesh::Precision::Single;  // in whose units what touches is moved apart
};

struct RemovedSheet {
    enum Kind { Wall, Fin, Double } kind = Wall;
    mesh::Point position = mesh::Point::Zero();
    double size = 0;  // diagonal of its box
    double area = 0;
    std::size_t triangles = 0;
};

struct ResolveResult {
    mesh::Mesh mesh;
    std::vector<RemovedSheet> removed;   // largest first
    std::vector<RemovedSheet> leftFins;  // too large to go without a word
    std::size_t surplus = 0;             // duplicates of which one stays
    std::size_t flipped = 0;             // triangles turned, so that bodies at an edge can be told apart
    std::size_t parted = 0;              // vertices that got copies of their own
    double farthestMoved = 0;            // by parting
    std::size_t edgesLeft = 0;           // non-manifold ones
};

// Space around the surface is divided into cells: the two sides of a patch between non-manifold edges, linked around
// those edges by the exact angular order of the triangles there (Zhou, Grinspun, Zorin, Jacobson 2016, section 3). A
// patch with full cells on both sides is an interior wall and goes; one with the same cell on both sides is a fin, and
// goes up to a size; the others are turned to face the empty cell. Then bodies that still share an edge or a vertex are
// parted by moving copies of it a few units of the last place into them, or joined by moving them out. Holes do not
// link the sides of a patch, fins do: a rim that ends on a non-manifold edge, or makes up most of its patch's border.
// Of a pick only picked triangles are removed; parting then waits for no pick.
mesh::Outcome<ResolveResult> resolve(const mesh::Mesh& m, const mesh::Pick& pick, const ResolveOptions& options,
                                     mesh::Progress& progress);

}  // namespace zither::fit
