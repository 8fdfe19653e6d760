// Sheets made bodies.
#pragma once

#include <vector>

#include "mesh/mesh.h"
#include "mesh/precision.h"
#include "mesh/traced.h"

namespace zither::enclose {

// Each sheet gets a copy of itself, moved back by `thickness` against its normals: what lies between the two is the
// body. A vertex moves so that it comes to that distance from the planes of all triangles around it as nearly as it
// can, and no farther than twice. Sheets end where more than two of them meet and where neighbours face opposite ways,
// so that one without sides (Moebius 1858) comes apart there. Between a triangle and its copy there are three
// tetrahedra; all that are not flat are counted as full whichever way they are turned, so that folds hollow nothing
// out. Coordinates are rounded to the precision. Collapsed triangles are left out. O(n log n).
// The bodies are closed, and nowhere inside out: the winding number is positive inside and 0 outside. Where a sheet
// bends more sharply than it is thick, they overlap. Triangles of the sheets with their bits have a source.
mesh::Traced thickened(const mesh::Mesh& sheets, double thickness, mesh::Precision precision);

}  // namespace zither::enclose
