// Vertices whose triangles, linked across edges at that vertex, form more than one group.
#include "check/catalogue.h"
#include "check/surveyed.h"
#include "check/tied_vertices.h"
#include "mesh/disjoint_sets.h"

namespace zither::check {

using mesh::HalfEdge;

namespace {

// Corner h of a triangle is the half-edge that starts there. Two corners at one vertex are joined where their
// triangles share an edge that ends at the vertex.
mesh::DisjointSets cornerFans(const Surveyed& s) {
    const mesh::Edges& edges = s.edges();
    const Mesh& m = s.mesh();
    mesh::DisjointSets fans(3 * m.triangles.size());
    for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
        const auto around = edges.around(e);
        const HalfEdge first = around[0];
        for (std::size_t i = 1; i < around.size(); ++i) {
            const HalfEdge other = around[i];
            const bool along = mesh::runsAlong(m, first, other);
            const HalfEdge otherFrom = along ? other : mesh::nextInTriangle(other);
            const HalfEdge otherTo = along ? mesh::nextInTriangle(other) : other;
            fans.join(first, otherFrom);
            fans.join(mesh::nextInTriangle(first), otherTo);
        }
    }
    return fans;
}

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress&) {
    const std::vector<VertexId> bad = tiedVertices(s);
    survey.counts.nonmanifoldVertices = bad.size();
    Findings result;
    std::vector<TriangleId> triangles;
    for (VertexId v : bad) {
        triangles.clear();
        for (HalfEdge h : s.corners().at(v)) triangles.push_back(mesh::triangleOf(h));
        result.add(nonmanifoldVertices, s.mesh(), triangles, {});
        result.list.back().position = s.mesh().positions[v];
    }
    return result;
}

}  // namespace

std::vector<VertexId> tiedVertices(const Surveyed& s) {
    const Mesh& m = s.mesh();
    const mesh::Edges& edges = s.edges();
    mesh::DisjointSets fans = cornerFans(s);
    std::vector<std::uint8_t> fansAt(m.positions.size(), 0);
    for (HalfEdge h = 0; h < 3 * m.triangles.size(); ++h) {
        if (edges.edgeOf(h) == mesh::noEdge || fans.find(h) != h) continue;
        std::uint8_t& count = fansAt[fromVertex(m, h)];
        if (count < 2) ++count;
    }
    std::vector<VertexId> bad;
    for (VertexId v = 0; v < fansAt.size(); ++v)
        if (fansAt[v] > 1) bad.push_back(v);
    return bad;
}

constinit const DefectDescriptor nonmanifoldVertices = {
    .key = "nonmanifold-vertices",
    .name = "Non-manifold vertices",
    .sentence = "Pieces of surface hang together in a single point only.",
    .ink = 0x6B3FA0,
    .glyph = glyph::star,
    .draw = drawOutlines,
    .run = run,
    .limited = {.id = "nonmanifold_vertices",
                .title = "non-manifold vertices",
                .unit = "",
                .value = countOf<&Counts::nonmanifoldVertices>},
};

}  // namespace zither::check
