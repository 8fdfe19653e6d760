// Where a surface is broken, in places that have nothing to do with each other, so that each can be cut anew by itself.
#pragma once

#include <map>
#include <vector>

#include "check/crossing_pairs.h"
#include "mesh/mesh.h"

namespace zither::arrange {

class BrokenPlaces {
public:
    // Keeps a reference to the mesh, of which only triangles of the region count. `crossing`: pairs of these.
    BrokenPlaces(const mesh::Mesh& m, const std::vector<mesh::TriangleId>& region,
                 const std::vector<check::TrianglePair>& crossing);

    // Triangles of the region with so many rings of neighbours around them, in places that share no vertex and do not
    // cross each other; by their first triangle, each in order. O(n log n).
    [[nodiscard]] std::vector<std::vector<mesh::TriangleId>> around(const std::vector<mesh::TriangleId>& broken,
                                                                    int rings) const;

private:
    const mesh::Mesh& m_;
    std::map<mesh::VertexId, std::vector<mesh::TriangleId>> at_;
    std::map<mesh::TriangleId, std::vector<mesh::TriangleId>> crossed_;
};

}  // namespace zither::arrange
