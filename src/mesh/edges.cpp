// Counting sort of half-edges by their lower vertex, then a short sort by the higher one: as good as linear, and all
// the random access stays within one vertex's neighbourhood.
#include "mesh/edges.h"

#include <algorithm>

#include "mesh/disjoint_sets.h"
#include "mesh/parallel.h"

namespace zither::mesh {
namespace {

struct Keyed {
    VertexId high;
    HalfEdge half;
    bool operator<(const Keyed& o) const { return high != o.high ? high < o.high : half < o.half; }
};

// Calls use(halfEdge, low, high) for each half-edge of each triangle that is not collapsed.
template <class Use>
void forEachHalfEdge(const Mesh& m, const Use& use) {
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        const Triangle& tri = m.triangles[t];
        if (isCollapsed(tri)) continue;
        for (unsigned k = 0; k < 3; ++k) {
            const auto [low, high] = std::minmax(tri[k], tri[k == 2 ? 0 : k + 1]);
            use(3 * t + k, low, high);
        }
    }
}

// First half-edge slot of each lower vertex; one entry more than there are vertices.
std::vector<std::uint32_t> slotsByLowVertex(const Mesh& m) {
    std::vector<std::uint32_t> begin(m.positions.size() + 1, 0);
    forEachHalfEdge(m, [&](HalfEdge, VertexId low, VertexId) { ++begin[low + 1]; });
    for (std::size_t v = 1; v < begin.size(); ++v) begin[v] += begin[v - 1];
    return begin;
}

}  // namespace

Edges::Edges(const Mesh& m) : edgeOf_(3 * m.triangles.size(), noEdge) {
    const std::size_t vertexCount = m.positions.size();
    const std::vector<std::uint32_t> begin = slotsByLowVertex(m);
    std::vector<Keyed> keyed(begin.back());
    {
        std::vector<std::uint32_t> next(begin.begin(), begin.end() - 1);
        forEachHalfEdge(m, [&](HalfEdge h, VertexId low, VertexId high) { keyed[next[low]++] = {high, h}; });
    }
    // Sort each vertex's half-edges and count its edges.
    std::vector<std::uint32_t> edgesBefore(vertexCount + 1, 0);
    parallelFor(vertexCount, 4096, [&](std::size_t v) {
        const auto from = keyed.begin() + begin[v];
        const auto to = keyed.begin() + begin[v + 1];
        std::sort(from, to);
        std::uint32_t edges = 0;
        for (auto it = from; it != to; ++it) edges += it == from || it->high != (it - 1)->high;
        edgesBefore[v + 1] = edges;
    });
    for (std::size_t v = 0; v < vertexCount; ++v) edgesBefore[v + 1] += edgesBefore[v];

    halfEdges_.resize(keyed.size());
    first_.resize(edgesBefore.back() + 1);
    first_.back() = static_cast<std::uint32_t>(keyed.size());
    parallelFor(vertexCount, 4096, [&](std::size_t v) {
        EdgeId edge = edgesBefore[v];
        for (std::uint32_t i = begin[v]; i < begin[v + 1]; ++i) {
            if (i == begin[v] || keyed[i].high != keyed[i - 1].high) first_[edge++] = i;
            halfEdges_[i] = keyed[i].half;
            edgeOf_[keyed[i].half] = edge - 1;
        }
    });
}

HalfEdge Edges::twin(HalfEdge h) const {
    const EdgeId e = edgeOf_[h];
    if (e == noEdge || degree(e) != 2) return noEdge;
    const std::span<const HalfEdge> both = around(e);
    return both[0] == h ? both[1] : both[0];
}

namespace {

Groups numbered(const Mesh& m, DisjointSets& sets) {
    Groups groups;
    groups.of.assign(m.triangles.size(), noEdge);
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        if (isCollapsed(m.triangles[t])) continue;
        // The root is the smallest member, so it has been numbered before any other.
        const TriangleId root = sets.find(t);
        groups.of[t] = root == t ? groups.count++ : groups.of[root];
    }
    return groups;
}

}  // namespace

Groups shellsOf(const Mesh& m, const Edges& edges) {
    DisjointSets sets(m.triangles.size());
    for (EdgeId e = 0; e < edges.count(); ++e) {
        const std::span<const HalfEdge> around = edges.around(e);
        for (std::size_t i = 1; i < around.size(); ++i) sets.join(triangleOf(around[0]), triangleOf(around[i]));
    }
    return numbered(m, sets);
}

Groups patchesOf(const Mesh& m, const Edges& edges) {
    DisjointSets sets(m.triangles.size());
    for (EdgeId e = 0; e < edges.count(); ++e)
        if (edges.degree(e) == 2) sets.join(triangleOf(edges.around(e)[0]), triangleOf(edges.around(e)[1]));
    return numbered(m, sets);
}

Corners::Corners(const Mesh& m) : corners_(3 * m.triangles.size()), first_(m.positions.size() + 1, 0) {
    for (const Triangle& t : m.triangles)
        for (VertexId v : t) ++first_[v + 1];
    for (std::size_t v = 1; v < first_.size(); ++v) first_[v] += first_[v - 1];
    std::vector<std::uint32_t> next(first_.begin(), first_.end() - 1);
    for (HalfEdge h = 0; h < corners_.size(); ++h) corners_[next[fromVertex(m, h)]++] = h;
}

}  // namespace zither::mesh
