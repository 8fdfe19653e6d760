// Edges of a mesh and the triangles around them, computed beside the mesh. Half-edge h = 3 t + k runs from corner k of
// triangle t to corner (k + 1) % 3. Collapsed triangles have no edges here (definitions.md leaves them out).
#pragma once

#include <span>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/progress.h"

namespace zither::mesh {

using EdgeId = Id<struct EdgeTag>;
using HalfEdge = Id<struct HalfEdgeTag>;

inline constexpr NoIndex noEdge;

inline TriangleId triangleOf(HalfEdge h) {
    return h / 3;
}
inline unsigned cornerOf(HalfEdge h) {
    return h % 3;
}
inline HalfEdge nextInTriangle(HalfEdge h) {
    return h % 3 == 2 ? h - 2 : h + 1;
}
inline HalfEdge previousInTriangle(HalfEdge h) {
    return h % 3 == 0 ? h + 2 : h - 1;
}
inline VertexId fromVertex(const Mesh& m, HalfEdge h) {
    return m.triangles[h / 3][h % 3];
}
inline VertexId toVertex(const Mesh& m, HalfEdge h) {
    return m.triangles[h / 3][(h + 1) % 3];
}
inline VertexId oppositeVertex(const Mesh& m, HalfEdge h) {
    return m.triangles[h / 3][(h + 2) % 3];
}

// Edges numbered by (lower vertex, higher vertex). 20 bytes a half-edge at most.
class Edges {
public:
    // O(n) time for bounded valence; the same result for any thread count.
    explicit Edges(const Mesh& m);

    [[nodiscard]] std::size_t count() const { return first_.size() - 1; }
    // The half-edges along edge e, ascending; one for a boundary edge, three or more for a non-manifold one.
    [[nodiscard]] std::span<const HalfEdge> around(EdgeId e) const {
        return {halfEdges_.data() + first_[e], halfEdges_.data() + first_[e + 1]};
    }
    [[nodiscard]] std::uint32_t degree(EdgeId e) const { return first_[e + 1] - first_[e]; }
    // noEdge for half-edges of collapsed triangles.
    [[nodiscard]] EdgeId edgeOf(HalfEdge h) const { return edgeOf_[h]; }
    // The half-edge on the other side of a manifold edge; noEdge where the edge has not exactly two triangles.
    [[nodiscard]] HalfEdge twin(HalfEdge h) const;

private:
    std::vector<HalfEdge> halfEdges_;
    std::vector<std::uint32_t> first_;
    std::vector<EdgeId> edgeOf_;
};

// True where both half-edges of a manifold edge run from the same vertex: the two triangles face opposite ways.
inline bool runsAlong(const Mesh& m, HalfEdge a, HalfEdge b) {
    return fromVertex(m, a) == fromVertex(m, b);
}

// For each triangle the group it belongs to when linked across shared edges of any degree (the shells of
// definitions.md); groups are numbered by their first triangle. Collapsed triangles get noEdge.
struct Groups {
    std::vector<std::uint32_t> of;
    std::uint32_t count = 0;
};
Groups shellsOf(const Mesh& m, const Edges& edges);

// As shellsOf, but linked only across edges with exactly two triangles: the patches between non-manifold edges.
Groups patchesOf(const Mesh& m, const Edges& edges);

// Triangles around each vertex (all of them, collapsed ones once a corner): half-edges that start there, ascending.
class Corners {
public:
    explicit Corners(const Mesh& m);
    [[nodiscard]] std::span<const HalfEdge> at(VertexId v) const {
        return {corners_.data() + first_[v], corners_.data() + first_[v + 1]};
    }

private:
    std::vector<HalfEdge> corners_;
    std::vector<std::uint32_t> first_;
};

// Of `count` triangles around a vertex: from each one comes to another that begins where it ends, once around through
// all of them. `begins(i)`, `ends(i)`: the corners after and before the vertex. O(count²).
template <class Begins, class Ends>
bool goAroundOnce(std::size_t count, const Begins& begins, const Ends& ends) {
    // Who has been to as many as there are and is back has been to each once: so no two begin alike.
    std::size_t i = 0;
    for (std::size_t steps = 1; steps <= count; ++steps) {
        const VertexId end = ends(i);
        for (i = 0; i < count && begins(i) != end;) ++i;
        if (i == count) return false;
        if (i == 0) return steps == count;
    }
    return false;
}

// Some triangle has both as corners; a collapsed one too.
inline bool linked(const Mesh& m, const Corners& corners, VertexId a, VertexId b) {
    const auto at = corners.at(a);
    return std::any_of(at.begin(), at.end(),
                       [&](HalfEdge h) { return toVertex(m, h) == b || oppositeVertex(m, h) == b; });
}

}  // namespace zither::mesh
