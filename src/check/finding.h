// What a check gives: places with a defect. Nothing but checks makes them.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "check/defect_class.h"
#include "mesh/mesh.h"

namespace zither::check {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

// One place with one defect; its triangles and edges stand in the lists of Findings.
struct Finding {
    DefectClass defect;
    Point position = Point::Zero();  // where to look
    double size = 0;                 // extent of the place: diagonal of its box
    std::uint32_t firstTriangle = 0;
    std::uint32_t triangleCount = 0;
    std::uint32_t firstEdge = 0;
    std::uint32_t edgeCount = 0;
};

// Findings with their elements in shared lists: a soup of two million loose triangles has as many findings.
struct Findings {
    using Edge = std::array<VertexId, 2>;
    std::vector<Finding> list;
    std::vector<TriangleId> triangles;
    std::vector<Edge> edges;

    [[nodiscard]] std::span<const TriangleId> trianglesOf(const Finding& f) const {
        return std::span(triangles).subspan(f.firstTriangle, f.triangleCount);
    }
    [[nodiscard]] std::span<const Edge> edgesOf(const Finding& f) const {
        return std::span(edges).subspan(f.firstEdge, f.edgeCount);
    }

    // Appends a place; position and size come from its triangles and edges.
    void add(DefectClass defect, const Mesh& m, std::span<const TriangleId> triangles, std::span<const Edge> edges);
    // Appends another check's findings.
    void append(const Findings& other);
    // These, but for those of checks that depend on options.
    [[nodiscard]] Findings ofPlainChecks() const;

private:
    // Appends a finding whose position and size are known.
    void put(Finding f, std::span<const TriangleId> placeTriangles, std::span<const Edge> placeEdges);
};

}  // namespace zither::check
