// A place's position and size come from the box of its edges, or of its triangles where it has none.
#include "check/finding.h"

namespace zither::check {

void Findings::add(DefectClass defect, const Mesh& m, std::span<const TriangleId> placeTriangles,
                   std::span<const Edge> placeEdges) {
    Finding f{.defect = defect};
    // The edges are the sharper description of a place; triangles beside them only show its surroundings.
    mesh::Box box;
    for (const Edge& e : placeEdges)
        for (VertexId v : e) box.add(m.positions[v]);
    if (placeEdges.empty())
        for (TriangleId t : placeTriangles) box.add(mesh::boxOf(m, t));
    f.position = box.centre();
    f.size = box.diagonal();
    put(f, placeTriangles, placeEdges);
}

void Findings::put(Finding f, std::span<const TriangleId> placeTriangles, std::span<const Edge> placeEdges) {
    f.firstTriangle = static_cast<std::uint32_t>(triangles.size());
    f.triangleCount = static_cast<std::uint32_t>(placeTriangles.size());
    f.firstEdge = static_cast<std::uint32_t>(edges.size());
    f.edgeCount = static_cast<std::uint32_t>(placeEdges.size());
    triangles.insert(triangles.end(), placeTriangles.begin(), placeTriangles.end());
    edges.insert(edges.end(), placeEdges.begin(), placeEdges.end());
    list.push_back(f);
}

void Findings::append(const Findings& other) {
    const auto triangleShift = static_cast<std::uint32_t>(triangles.size());
    const auto edgeShift = static_cast<std::uint32_t>(edges.size());
    for (Finding f : other.list) {
        f.firstTriangle += triangleShift;
        f.firstEdge += edgeShift;
        list.push_back(f);
    }
    triangles.insert(triangles.end(), other.triangles.begin(), other.triangles.end());
    edges.insert(edges.end(), other.edges.begin(), other.edges.end());
}

Findings Findings::ofPlainChecks() const {
    Findings kept;
    for (const Finding& f : list)
        if (!f.defect->byOptions) kept.put(f, trianglesOf(f), edgesOf(f));
    return kept;
}

}  // namespace zither::check
