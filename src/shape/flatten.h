// A nearly flat base, or rims, brought to one plane.
#pragma once

#include <vector>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/pick.h"
#include "mesh/precision.h"

namespace zither::shape {

struct FlattenOptions {
    mesh::Point down = -mesh::Point::UnitZ();  // a base faces that way; of length 1
    double within = 0;                         // vertices farther from the plane stay; in the file's unit
    mesh::Precision precision = mesh::Precision::Single;
};

// A plane that vertices were brought to.
struct FlatPlace {
    mesh::Point at = mesh::Point::Zero();
    mesh::Point normal = mesh::Point::UnitZ();
    std::size_t vertices = 0;
    double farthestMoved = 0;
    double farthestOff = 0;  // from the plane, as rounded; 0 across an axis
};

struct Flattened {
    mesh::Mesh mesh;
    std::vector<FlatPlace> places;
    std::size_t tooUneven = 0;  // rims that no plane holds within the length
};

// The base: triangles within 30 degrees of `down` whose corners lie within the length of the lowest point; their
// corners go to the height that lies in the middle of them, weighed by area. Of a pick: its triangles, whichever way
// they face, to the plane that fits them best. A plane within a degree of lying across an axis lies across it, and then
// its vertices lie in it with every bit. Nothing is looked at for crossings.
Flattened flattenBase(const check::Surveyed& s, const mesh::Pick& pick, const FlattenOptions& options);

// Each open rim (of a pick: those it has an edge of) to the plane that fits it best.
Flattened flattenRims(const check::Surveyed& s, const mesh::Pick& pick, const FlattenOptions& options);

}  // namespace zither::shape
