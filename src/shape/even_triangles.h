// One try at even triangles: rounds of splits, collapses, flips and moves over a surface that knows its neighbours.
#pragma once

#include <limits>
#include <optional>
#include <vector>

#include "mesh/progress.h"
#include "shape/feature_lines.h"
#include "shape/linked_surface.h"
#include "space/triangle_tree.h"

namespace zither::shape {

// What the rounds work from; all of it outlives them.
struct EvenInput {
    const Mesh& mesh;
    const mesh::Edges& edges;
    const space::TriangleTree& tree;  // over the mesh
    const FeatureLines& lines;
    const std::vector<double>& lengths;  // of each vertex: how long edges should be there
    // No change is made that leads farther from the mesh where that is looked at: middles of edges, centres of
    // triangles, vertices that go. Infinite: nowhere.
    double limit = std::numeric_limits<double>::infinity();
};

class EvenTriangles {
public:
    EvenTriangles(const EvenInput& input, LinkedSurface surface);

    // False: cancelled.
    bool run(mesh::Progress& progress);
    [[nodiscard]] const LinkedSurface& surface() const { return s_; }

private:
    // Where a vertex comes to lie on the surface that came in.
    struct Foot {
        Point at;
        TriangleId on = 0;
        double length = 0;
        double along = 0;  // its line
    };

    [[nodiscard]] double lengthOf(HalfEdge h) const { return (s_.at(s_.from(h)) - s_.at(s_.to(h))).norm(); }
    [[nodiscard]] double targetOf(HalfEdge h) const { return 0.5 * (length_[s_.from(h)] + length_[s_.to(h)]); }
    // Of a vertex on a line that an edge lies on.
    [[nodiscard]] double alongOf(VertexId v, LineId line) const;
    [[nodiscard]] Foot footOnLine(LineId line, double along) const;
    [[nodiscard]] std::optional<Foot> footOf(const Point& p, const Point& normal, TriangleId hint, double within) const;
    [[nodiscard]] double lengthOn(TriangleId t, const Point& p) const;
    [[nodiscard]] Point normalAt(VertexId v) const;
    // A point of the surface is within the limit of the mesh.
    [[nodiscard]] bool isNear(const Point& p, VertexId beside) const;
    [[nodiscard]] bool isNear(TriangleId t) const;
    [[nodiscard]] bool isCovered(const Point& p, VertexId v) const;

    void splitLong();
    void split(HalfEdge h);

    void collapseShort();
    // Where the vertex would be that both become; none: the lines of the two forbid it.
    struct Merged {
        Point at;
        VertexPlace place;
        TriangleId on = 0;
        double length = 0;
    };
    [[nodiscard]] std::optional<Merged> merge(HalfEdge h) const;
    // True where it was done. No edge becomes longer than `longest` of its target.
    bool collapse(HalfEdge h, const Merged& merged, double longest);
    // The new edges are near the mesh, and the vertices that go, which lie in it, near the new triangles.
    [[nodiscard]] bool staysNear(HalfEdge h, const Point& to) const;
    // No triangle around `moved` that stays turns over when it goes to `to`; `other`: the end that it goes into.
    [[nodiscard]] bool staysUpright(VertexId moved, VertexId other, const Point& to) const;

    void flipForValence();
    bool flipForAngles();
    [[nodiscard]] bool flipTurnsNothing(HalfEdge h) const;
    [[nodiscard]] double angleAfterFlip(HalfEdge h) const;
    [[nodiscard]] double angleBeforeFlip(HalfEdge h) const;

    enum class Relax { Freely, WhereAnglesGrow };
    void relax(Relax how);
    [[nodiscard]] std::optional<Foot> relaxed(VertexId v) const;
    bool mendAngles();
    bool collapseIfBetter(HalfEdge h, double longest);
    [[nodiscard]] double smallestSine(const Triangle& t) const;
    [[nodiscard]] double smallestSineAround(VertexId v) const;
    [[nodiscard]] bool moveIfBetter(VertexId v, const Foot& foot);

    EvenInput in_;
    LinkedSurface s_;
    std::vector<VertexPlace> place_;
    std::vector<double> length_;  // targets
    std::vector<TriangleId> on_;  // the triangle of the mesh that a vertex lies on
    std::vector<Point> normals_;  // of the mesh's triangles
};

}  // namespace zither::shape
