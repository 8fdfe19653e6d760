// The numbers of a part, or of a pick of it, as a drawing or a report has them.
#pragma once

#include <cstddef>
#include <optional>
#include <vector>

#include "measure/mass.h"
#include "measure/quality.h"
#include "mesh/edges.h"
#include "mesh/mesh.h"
#include "mesh/pick.h"

namespace zither::measure {

// Of the volume that a closed surface encloses; none where that is nothing.
std::optional<mesh::Point> centreOfMass(const mesh::Mesh& m);

// V - E + F of the whole, without collapsed triangles: 2 for each closed shell without handles, 2 less for each handle.
std::ptrdiff_t eulerOf(const mesh::Mesh& m, const mesh::Edges& edges);

struct Numbers {
    std::size_t triangles = 0;
    std::size_t vertices = 0;
    mesh::Box box;
    double area = 0;
    // Of a whole surface without open edges.
    std::optional<double> volume;
    std::optional<mesh::Point> centreOfMass;
    mesh::Point centreOfArea = mesh::Point::Zero();
    EdgeLength edges;
    double borderLength = 0;  // of open edges, or of the rim of a pick
    TriangleQuality quality;
};
Numbers numbersOf(const mesh::Mesh& m, const mesh::Edges& edges, const mesh::Pick& pick);

}  // namespace zither::measure
