// A surface whose triangles know their neighbours, to be split, collapsed and flipped edge by edge.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/edges.h"
#include "mesh/mesh.h"

namespace zither::shape {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::Triangle;
using mesh::TriangleId;
using mesh::VertexId;

// The line that an edge lies on.
using LineId = std::uint32_t;
inline constexpr LineId noLine = 0xFFFFFFFF;      // none: it may flip
inline constexpr LineId lockedLine = 0xFFFFFFFE;  // it stays as it is

// Half-edge h = 3 t + k as in mesh::Edges. Triangles that went leave gaps until `compact`. Where more or less than two
// triangles meet at an edge, or both run the same way, the surface ends; where several fans hang on a vertex it is
// tied, and nothing that needs to go around it is done.
class LinkedSurface {
public:
    // Collapsed triangles are left out.
    LinkedSurface(const Mesh& m, const mesh::Edges& edges);

    [[nodiscard]] std::size_t triangleSlots() const { return triangles_.size(); }
    [[nodiscard]] std::size_t vertexSlots() const { return at_.size(); }
    [[nodiscard]] std::size_t alive() const { return alive_; }
    [[nodiscard]] bool isAlive(TriangleId t) const { return triangles_[t][0] != triangles_[t][1]; }
    // Some triangle has it.
    [[nodiscard]] bool isUsed(VertexId v) const { return out_[v] != mesh::noEdge; }
    [[nodiscard]] bool isTied(VertexId v) const { return tied_[v] != 0; }
    [[nodiscard]] const Triangle& triangle(TriangleId t) const { return triangles_[t]; }
    [[nodiscard]] const Point& at(VertexId v) const { return at_[v]; }
    void moveTo(VertexId v, const Point& p) { at_[v] = p; }
    [[nodiscard]] VertexId from(HalfEdge h) const { return triangles_[h / 3][h % 3]; }
    [[nodiscard]] VertexId to(HalfEdge h) const { return from(mesh::nextInTriangle(h)); }
    [[nodiscard]] VertexId opposite(HalfEdge h) const { return from(mesh::previousInTriangle(h)); }
    // noEdge: the surface ends.
    [[nodiscard]] HalfEdge twin(HalfEdge h) const { return twin_[h]; }
    [[nodiscard]] LineId line(HalfEdge h) const { return line_[h]; }
    void setLine(HalfEdge h, LineId line);
    // The triangle of the mesh that it is a piece of, or came from by flips.
    [[nodiscard]] TriangleId source(TriangleId t) const { return source_[t]; }

    // Twice the area, along the normal.
    [[nodiscard]] Point areaVector(TriangleId t) const {
        const Triangle& c = triangles_[t];
        return (at_[c[1]] - at_[c[0]]).cross(at_[c[2]] - at_[c[0]]);
    }

    // Calls use(h) for every half-edge that leaves v. Not for tied vertices.
    template <class Use>
    void forEachOut(VertexId v, const Use& use) const {
        const HalfEdge start = out_[v];
        HalfEdge h = start;
        do {
            use(h);
            h = twin_[mesh::previousInTriangle(h)];
        } while (h != start && h != mesh::noEdge);
        if (h == start) return;
        for (h = twin_[start]; h != mesh::noEdge; h = twin_[h]) {
            h = mesh::nextInTriangle(h);
            use(h);
        }
    }
    // Calls use(w) for every vertex that an edge joins with v.
    template <class Use>
    void forEachNeighbour(VertexId v, const Use& use) const {
        forEachOut(v, [&](HalfEdge h) {
            use(to(h));
            if (const HalfEdge last = mesh::previousInTriangle(h); twin_[last] == mesh::noEdge) use(from(last));
        });
    }
    [[nodiscard]] unsigned valence(VertexId v) const;
    // The surface ends at it.
    [[nodiscard]] bool isOnBorder(VertexId v) const;
    [[nodiscard]] bool areLinked(VertexId a, VertexId b) const;

    // The new vertex, on the line of the edge.
    VertexId split(HalfEdge h, const Point& p);
    // The vertex that h leaves goes into the one that it leads to; topology alone is looked at, the caller looks at the
    // shape.
    [[nodiscard]] bool mayCollapse(HalfEdge h) const;
    void collapse(HalfEdge h);
    // The other diagonal of the two triangles takes the place of the edge.
    [[nodiscard]] bool mayFlip(HalfEdge h) const;
    void flip(HalfEdge h);

    // As a mesh, without gaps; `sources`: of each triangle as `source`.
    struct Compact {
        Mesh mesh;
        std::vector<TriangleId> sources;
    };
    [[nodiscard]] Compact compact(const Mesh& given) const;

    // Says what is inconsistent, or is empty.
    [[nodiscard]] std::string validate() const;

private:
    void link(HalfEdge a, HalfEdge b);  // either may be noEdge
    TriangleId addTriangle(const Triangle& corners, TriangleId source);
    void bury(TriangleId t);

    std::vector<Point> at_;
    std::vector<HalfEdge> out_;       // of each vertex one half-edge that leaves it; noEdge: unused
    std::vector<std::uint8_t> tied_;  // of each vertex
    std::vector<Triangle> triangles_;
    std::vector<HalfEdge> twin_;
    std::vector<LineId> line_;
    std::vector<TriangleId> source_;
    std::size_t alive_ = 0;
};

}  // namespace zither::shape
