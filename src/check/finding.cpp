// A place's position and size come from the box of its edges, or of its triangles where it has none.
#include "check/finding.h"

namespace zither::check {

void Findings::add(DefectClass defect, const Mesh& m, std::span<const TriangleId> placeTriangles,
                   std::span<const Edge> placeEdges) {
    Finding f{.defect = defect};
    f.firstTriangle = static_cast<std::uint32_t>(triangles.size());
    f.triangleCount = static_cast<std::uint32_t>(placeTriangles.size());
    f.firstEdge = static_cast<std::uint32_t>(edges.size());
    f.edgeCount = static_cast<std::uint32_t>(placeEdges.size());
    // The edges are the sharper description of a place; triangles beside them only show its surroundings.
    mesh::Box box;
    for (const Edge& e : placeEdges)
        for (VertexId v : e) box.add(m.positions[v]);
    if (placeEdges.empty())
        for (TriangleId t : placeTriangles) box.add(mesh::boxOf(m, t));
    f.position = box.centre();
    f.size = box.diagonal();
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
    for (const Finding& f : list) {
        if (f.defect->byOptions) continue;
        Finding copy = f;
        copy.firstTriangle = static_cast<std::uint32_t>(kept.triangles.size());
        copy.firstEdge = static_cast<std::uint32_t>(kept.edges.size());
        const auto ofTriangles = trianglesOf(f);
        const auto ofEdges = edgesOf(f);
        kept.triangles.insert(kept.triangles.end(), ofTriangles.begin(), ofTriangles.end());
        kept.edges.insert(kept.edges.end(), ofEdges.begin(), ofEdges.end());
        kept.list.push_back(copy);
    }
    return kept;
}

}  // namespace zither::check
