// Repairs of a few triangles, as a person asks for them. Errors say why something cannot be.
#pragma once

#include <optional>

#include "check/surveyed.h"
#include "holes/fill.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"

namespace zither::repair {

// remove: the mesh without the pick, grown by `rings`.
mesh::Outcome<mesh::Mesh> removePick(const mesh::Mesh& m, const mesh::Pick& pick, unsigned rings,
                                     mesh::Progress& progress);

struct MendResult {
    mesh::Mesh mesh;
    std::size_t removed = 0;   // triangles
    unsigned rings = 0;        // that were taken away in the end
    bool tooMuch = false;      // nothing was done: so many triangles, and that share of the area, would have to go
    double share = 0;          // of the area that was taken away, or would have been
    holes::FillResult filled;  // its mesh is empty
};
struct MendOptions {
    unsigned rings = 0;
    holes::FillWay way = holes::FillWay::Chosen;
    double mostShare = 1;  // of the area that may be taken away
};

// mend: the same, and what was torn open is closed. Where a patch would cross the surface or itself, further rings are
// taken away, up to three more; the holes that were there before stay.
mesh::Outcome<MendResult> mend(const mesh::Mesh& m, const mesh::Pick& pick, const MendOptions& options,
                               mesh::Progress& progress);

// flip: the picked triangles face the other way; all of them where nothing is picked.
mesh::Mesh flipPick(const mesh::Mesh& m, const mesh::Pick& pick);

// The vertex that lies nearest to a place; nothing where there is none.
std::optional<mesh::VertexId> nearestVertex(const mesh::Mesh& m, const mesh::Point& to);

// move-vertex: the vertex nearest to `from` goes to `to`. Not where a triangle around it would become degenerate or
// turn over, or meet another one that it did not meet before.
mesh::Outcome<mesh::Mesh> moveVertex(const mesh::Mesh& m, const mesh::Point& from, const mesh::Point& to,
                                     mesh::Progress& progress);

// collapse-edge: the edge nearest to `at` becomes its middle. Not where that would change how the surface hangs
// together (the link condition), or as above.
mesh::Outcome<mesh::Mesh> collapseEdge(const check::Surveyed& s, const mesh::Point& at, mesh::Progress& progress);

// swap-edge: the edge nearest to `at` becomes the other diagonal of its two triangles. Not where that edge is there
// already, or as above.
mesh::Outcome<mesh::Mesh> swapEdge(const check::Surveyed& s, const mesh::Point& at, mesh::Progress& progress);

}  // namespace zither::repair
