// Vertices whose triangles, linked across edges at that vertex, form more than one group.
#include "check/surroundings.h"
#include "mesh/disjoint_sets.h"

namespace zither::check {

using mesh::HalfEdge;

namespace {

// Corner h of a triangle is the half-edge that starts there. Two corners at one vertex are joined where their
// triangles share an edge that ends at the vertex.
mesh::DisjointSets cornerFans(const Surroundings& s) {
    mesh::DisjointSets fans(3 * s.mesh.triangles.size());
    for (mesh::EdgeId e = 0; e < s.edges.count(); ++e) {
        const auto around = s.edges.around(e);
        const HalfEdge first = around[0];
        for (std::size_t i = 1; i < around.size(); ++i) {
            const HalfEdge other = around[i];
            const bool along = mesh::runsAlong(s.mesh, first, other);
            const HalfEdge otherFrom = along ? other : mesh::nextInTriangle(other);
            const HalfEdge otherTo = along ? mesh::nextInTriangle(other) : other;
            fans.join(first, otherFrom);
            fans.join(mesh::nextInTriangle(first), otherTo);
        }
    }
    return fans;
}

}  // namespace

CheckResult checkNonmanifoldVertices(const Surroundings& s) {
    mesh::DisjointSets fans = cornerFans(s);
    std::vector<std::uint8_t> fansAt(s.mesh.positions.size(), 0);
    for (HalfEdge h = 0; h < 3 * s.mesh.triangles.size(); ++h) {
        if (s.edges.edgeOf(h) == mesh::noEdge || fans.find(h) != h) continue;
        std::uint8_t& count = fansAt[fromVertex(s.mesh, h)];
        if (count < 2) ++count;
    }
    CheckResult result;
    std::vector<VertexId> bad;
    for (VertexId v = 0; v < fansAt.size(); ++v)
        if (fansAt[v] > 1) bad.push_back(v);
    result.count = bad.size();
    if (bad.empty()) return result;
    const mesh::Corners corners(s.mesh);
    std::vector<TriangleId> triangles;
    for (VertexId v : bad) {
        triangles.clear();
        for (HalfEdge h : corners.at(v)) triangles.push_back(mesh::triangleOf(h));
        result.findings.add(DefectClass::NonmanifoldVertices, s.mesh, triangles, {});
        result.findings.list.back().position = s.mesh.positions[v];
    }
    return result;
}

}  // namespace zither::check
