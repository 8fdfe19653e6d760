// The lines of a surface that must stay where they are: creases, open borders, borders of regions.
#pragma once

#include <vector>

#include "mesh/edges.h"
#include "mesh/mesh.h"
#include "shape/linked_surface.h"

namespace zither::shape {

struct LineOptions {
    double creaseDeg = 35;  // edges whose triangles turn by more are creases
    double spur = 0;        // creases that end nowhere and are shorter are none: noise
    // One flag a triangle that must stay as it is; empty: none.
    std::vector<std::uint8_t> locked = {};
    // One flag a vertex that must; empty: none.
    std::vector<std::uint8_t> fixed = {};
};

// A line between two fixed vertices, as a chain of edges; places on it are told by the way along it.
class Line {
public:
    Line(std::vector<VertexId> vertices, const std::vector<Point>& positions);

    [[nodiscard]] VertexId first() const { return vertices_.front(); }
    [[nodiscard]] VertexId last() const { return vertices_.back(); }
    [[nodiscard]] const std::vector<VertexId>& vertices() const { return vertices_; }
    [[nodiscard]] double length() const { return along_.back(); }
    [[nodiscard]] double along(std::size_t i) const { return along_[i]; }
    // The place so far along it, and the edge of the chain that it lies on.
    [[nodiscard]] Point at(double along) const;
    [[nodiscard]] std::size_t edgeAt(double along) const;

private:
    std::vector<VertexId> vertices_;
    std::vector<Point> points_;
    std::vector<double> along_;
};

// What a vertex of the surface may do.
struct VertexPlace {
    LineId line = noLine;  // of one that moves along a line; lockedLine: it is fixed
    double along = 0;

    [[nodiscard]] bool isFree() const { return line == noLine; }
    [[nodiscard]] bool isFixed() const { return line == lockedLine; }
};

struct FeatureLines {
    std::vector<Line> lines;
    std::vector<VertexPlace> places;  // of each vertex
    std::vector<LineId> lineOf;       // of each edge (mesh::Edges): its line, noLine, or lockedLine
};

// Fixed are the ends of lines, where more than two edges of lines meet, where a line turns by more than `creaseDeg`, a
// few vertices of lines that close upon themselves, so that each line has two ends, and what locked triangles,
// non-manifold and misoriented edges have.
FeatureLines featureLinesOf(const Mesh& m, const mesh::Edges& edges, const LineOptions& options);

}  // namespace zither::shape
