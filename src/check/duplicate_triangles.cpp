// Surplus triangles with the same three vertices as an earlier one, whatever their direction. Two such triangles share
// every edge, so it is enough to look at the one edge of each triangle that lies opposite its highest vertex.
#include <algorithm>
#include <array>

#include "check/catalogue.h"
#include "check/surplus_triangles.h"

namespace zither::check {
namespace {

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress&) {
    Findings result;
    for (const TriangleId t : surplusTriangles(s)) result.add(duplicates, s.mesh(), std::array{t}, {});
    survey.counts.duplicateTriangles = result.list.size();
    return result;
}

}  // namespace

std::vector<TriangleId> surplusTriangles(const Surveyed& s) {
    const mesh::Edges& edges = s.edges();
    const Mesh& m = s.mesh();
    std::vector<TriangleId> surplus;
    std::vector<std::pair<VertexId, TriangleId>> opposite;
    for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
        if (edges.degree(e) < 2) continue;
        opposite.clear();
        for (mesh::HalfEdge h : edges.around(e)) {
            const VertexId top = oppositeVertex(m, h);
            if (top > fromVertex(m, h) && top > toVertex(m, h)) opposite.emplace_back(top, mesh::triangleOf(h));
        }
        std::sort(opposite.begin(), opposite.end());
        for (std::size_t i = 1; i < opposite.size(); ++i)
            if (opposite[i].first == opposite[i - 1].first) surplus.push_back(opposite[i].second);
    }
    return surplus;
}

constinit const DefectDescriptor duplicates = {
    .key = "duplicates",
    .name = "Duplicates",
    .sentence = "Triangles that stand on the same three corners as another one.",
    .ink = 0x6F6A00,
    .glyph = glyph::doubleBar,
    .draw = drawOutlines,
    .run = run,
    .limited = {.id = "duplicate_triangles",
                .title = "duplicates",
                .unit = "",
                .value = countOf<&Counts::duplicateTriangles>},
};

}  // namespace zither::check
