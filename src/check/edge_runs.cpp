// Union-find over the ends of the chosen edges.
#include "check/edge_runs.h"

#include <algorithm>

#include "mesh/disjoint_sets.h"

namespace zither::check {

using mesh::EdgeId;

namespace {

std::array<VertexId, 2> endsOf(const Surveyed& s, EdgeId e) {
    const mesh::HalfEdge h = s.edges().around(e)[0];
    return {fromVertex(s.mesh(), h), toVertex(s.mesh(), h)};
}

}  // namespace

std::vector<std::vector<EdgeId>> edgeRuns(const Surveyed& s, const std::vector<EdgeId>& chosen) {
    std::vector<VertexId> vertices;
    for (EdgeId e : chosen)
        for (VertexId v : endsOf(s, e)) vertices.push_back(v);
    std::sort(vertices.begin(), vertices.end());
    vertices.erase(std::unique(vertices.begin(), vertices.end()), vertices.end());
    const auto place = [&](VertexId v) {
        return static_cast<std::uint32_t>(std::lower_bound(vertices.begin(), vertices.end(), v) - vertices.begin());
    };
    mesh::DisjointSets sets(vertices.size());
    for (EdgeId e : chosen) sets.join(place(endsOf(s, e)[0]), place(endsOf(s, e)[1]));
    std::vector<std::vector<EdgeId>> runs;
    std::vector<std::uint32_t> runOf(vertices.size(), mesh::noEdge);
    for (EdgeId e : chosen) {
        std::uint32_t& run = runOf[sets.find(place(endsOf(s, e)[0]))];
        if (run == mesh::noEdge) {
            run = static_cast<std::uint32_t>(runs.size());
            runs.emplace_back();
        }
        runs[run].push_back(e);
    }
    return runs;
}

Findings edgeRunFindings(const Surveyed& s, DefectClass defect, const std::vector<EdgeId>& chosen) {
    Findings result;
    std::vector<TriangleId> triangles;
    std::vector<Findings::Edge> edges;
    for (const std::vector<EdgeId>& run : edgeRuns(s, chosen)) {
        triangles.clear();
        edges.clear();
        for (EdgeId e : run) {
            edges.push_back(endsOf(s, e));
            for (mesh::HalfEdge h : s.edges().around(e)) triangles.push_back(mesh::triangleOf(h));
        }
        std::sort(triangles.begin(), triangles.end());
        triangles.erase(std::unique(triangles.begin(), triangles.end()), triangles.end());
        result.add(defect, s.mesh(), triangles, edges);
    }
    return result;
}

}  // namespace zither::check
