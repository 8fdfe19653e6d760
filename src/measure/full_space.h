// The space that closed shells enclose, by points on a grid: how much of it another surface leaves empty.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/mesh.h"
#include "space/triangle_tree.h"

namespace zither::measure {

class FullSpace {
public:
    // `closed`: one flag a triangle of the tree's surface, those of shells that are closed and face as they
    // should. Points nearer to the surface than `tolerance` are not asked about. Keeps a reference to the tree.
    FullSpace(const space::TriangleTree& tree, const std::vector<std::uint8_t>& closed, double tolerance);

    // Of the points where something is full, the share that the other surface does not enclose. 0 where the closed
    // shells enclose too little for points to tell.
    [[nodiscard]] double emptiedBy(const mesh::Mesh& other) const;

private:
    const space::TriangleTree& tree_;
    double tolerance_;
    std::vector<mesh::Point> full_;
};

}  // namespace zither::measure
