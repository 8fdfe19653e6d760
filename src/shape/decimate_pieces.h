// A large surface taken apart into pieces that fit a core's cache, whose insides are brought down in parallel.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "shape/edge_collapse.h"

namespace zither::shape {

using mesh::Outcome;

// Triangles of a piece: with all that is known of them they stay within a core's cache.
inline constexpr std::size_t pieceTriangles = 8'000;

// The triangles of a surface, or some of them, piece after piece.
struct Pieces {
    std::vector<TriangleId> order;
    std::vector<std::size_t> begin;  // of each piece in the order; one entry more than there are
    // One flag a vertex: a triangle that is of another piece than others, or of none, has it.
    std::vector<std::uint8_t> seam;

    [[nodiscard]] std::size_t count() const { return begin.size() - 1; }
    [[nodiscard]] std::span<const TriangleId> operator[](std::size_t piece) const {
        return std::span(order).subspan(begin[piece], begin[piece + 1] - begin[piece]);
    }
};

// All triangles, which lie in the box; another `shift` in [0, 1) has other seams.
Pieces piecesOf(const Mesh& m, mesh::Box box, double shift);
// One piece: the triangles at these vertices (one flag each), and so many rings around them.
Pieces pieceAround(const Mesh& m, std::vector<std::uint8_t> vertices, int rings);

// As EdgeCollapse is given it.
struct Undivided {
    const Mesh& mesh;
    const std::vector<VertexKind>& allowed;
    const std::vector<float>& reach;   // empty: 0
    const CollapseSettings& settings;  // but for `offered`
    // One flag a vertex, as CollapseSettings has it; empty: all are.
    const std::vector<std::uint8_t>& offered;
};

// What the pieces leave, in the numbers of what came in.
struct BroughtDown {
    std::vector<Triangle> triangles;  // of those that are alive
    std::vector<std::uint8_t> alive;
    std::vector<Point> positions;
    std::vector<VertexId> wentTo;  // of each vertex; itself where it stands
    std::vector<float> reach;      // of each triangle; empty where it is not kept
    std::vector<Collapse> made;    // in order
};

struct Goal {
    std::size_t wanted = 0;  // triangles; 0: as far as the settings let it come
    std::size_t least = 0;
    // Some pieces tell how dear it gets, the others follow, so that few are in memory at once: about as many as wanted.
    // Else the least number that is not below it, if the pieces can give so much.
    bool sampled = false;
};

// Nothing touches the seams. The same for any number of threads. Error: only cancelled.
Outcome<BroughtDown> bringDownInPieces(const Undivided& surface, const Pieces& pieces, const Goal& goal,
                                       Progress& progress);

}  // namespace zither::shape
