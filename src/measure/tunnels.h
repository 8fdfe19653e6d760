// Small handles and tunnels of a surface: short loops along edges that do not part it.
#pragma once

#include <cstdint>
#include <functional>
#include <vector>

#include "mesh/edges.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::measure {

struct Tunnel {
    std::vector<mesh::VertexId> loop;
    double length = 0;  // of the loop
};

// Borrows everything.
struct TunnelGround {
    const mesh::Mesh& surface;
    const mesh::Edges& edges;
    const mesh::Corners& corners;
    const std::vector<std::uint8_t>& chosen;  // one flag a triangle: looked for there
};

// A handle is small where a piece of surface within three quarters of `longest` (along edges) about one of its vertices
// holds the whole of it: that piece then has a genus (Guskov & Wood 2001). A hole drilled through a plate is none: the
// way through it and back around the plate is long. Of each, the shortest loop through the middle that does not part
// the piece is found with a tree and a cotree (Erickson & Whittlesey 2005), tightened from its own vertices; loops
// longer than `longest`, and those that `wanted` refuses, are left out. Of several within twice that length one is
// given: the same handle is found from many places. Shells with open or non-manifold edges near by are left. Error:
// only cancelled.
mesh::Outcome<std::vector<Tunnel>> tunnelsOf(const TunnelGround& ground, double longest,
                                             const std::function<bool(const std::vector<mesh::VertexId>&)>& wanted,
                                             mesh::Progress& progress);

}  // namespace zither::measure
