// Sheets made bodies.
#pragma once

#include <vector>

#include "mesh/mesh.h"
#include "mesh/precision.h"

namespace zither::repair {

struct Thickened {
    mesh::Mesh mesh;  // closed bodies; the sheets' own triangles come first, in their order and with their bits
    std::vector<mesh::TriangleId> sourceOf;  // of each triangle: the one of the sheets; noIndex for backs and walls
};

// Each sheet gets a copy of itself, turned over and moved back by `thickness` against its normals, and a wall along its
// rim. A vertex moves so that it comes to that distance from the planes of all triangles around it as nearly as it can,
// and no farther than twice. Sheets end where more than two of them meet and where neighbours face opposite ways, so
// that one without sides (Moebius 1858) comes apart there. Bodies may cross themselves and each other where sheets bend
// or meet: what is inside any of them is inside. Coordinates are rounded to the precision. Collapsed triangles are left
// out.
Thickened thickened(const mesh::Mesh& sheets, double thickness, mesh::Precision precision);

}  // namespace zither::repair
