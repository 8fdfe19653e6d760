// Two triangles across a long hole.
#include "holes/bridge.h"

#include <limits>
#include <vector>

#include "holes/rims.h"
#include "mesh/edges.h"
#include "space/triangle_tree.h"

namespace zither::holes {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::noEdge;
using mesh::Point;
using mesh::VertexId;

mesh::Outcome<Mesh> bridge(const check::Surveyed& s, const Point& from, const Point& to, mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    if (!progress.report(0)) return mesh::cancelled();
    std::size_t notClosed = 0;
    const std::vector<Rim> rims = rimsOf(m, s.edges(), notClosed);
    const auto nearest = [&](const Point& p) {
        HalfEdge best = noEdge;
        double least = std::numeric_limits<double>::infinity();
        for (const Rim& rim : rims)
            for (HalfEdge h : rim) {
                const Point& a = m.positions[fromVertex(m, h)];
                const Point& b = m.positions[toVertex(m, h)];
                if (const double d = (space::nearestOnTriangle(p, a, b, b) - p).norm(); d < least) {
                    least = d;
                    best = h;
                }
            }
        return best;
    };
    const HalfEdge a = nearest(from);
    const HalfEdge b = nearest(to);
    if (a == noEdge) return mesh::badInput("bridge: this part has no open edges");
    if (a == b) return mesh::badInput("bridge: both places are nearest to the same open edge; move one of them");
    Mesh result = m;
    const auto add = [&](VertexId x, VertexId y, VertexId z) {
        if (x == y || y == z || z == x) return;
        result.triangles.push_back({x, y, z});
        if (!m.regions.empty()) result.regions.push_back(m.regions[mesh::triangleOf(a)]);
    };
    const VertexId a1 = fromVertex(m, a);
    const VertexId a2 = toVertex(m, a);
    const VertexId b1 = fromVertex(m, b);
    const VertexId b2 = toVertex(m, b);
    // The bridge runs against both edges: (a2, a1, b2) and (a2, b2, b1).
    add(a2, a1, b2);
    add(a2, b2, b1);
    if (!progress.report(1)) return mesh::cancelled();
    return result;
}

}  // namespace zither::holes
