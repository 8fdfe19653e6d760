// Two triangles across a long hole.
#pragma once

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::holes {

// bridge: two triangles between the open edges nearest to two places, so that a long hole becomes two. Error: there are
// no two such edges.
mesh::Outcome<mesh::Mesh> bridge(const check::Surveyed& s, const mesh::Point& from, const mesh::Point& to,
                                 mesh::Progress& progress);

}  // namespace zither::holes
