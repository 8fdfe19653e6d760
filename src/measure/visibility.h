// From where a surface can be seen: whether some straight ray leaves it.
#pragma once

#include "mesh/mesh.h"
#include "space/ray_scene.h"

namespace zither::measure {

// Of a surface, and of patches that close openings of it and hide what lies behind them. Neither need outlive this.
// Queries are const and may run in parallel.
class Visibility {
public:
    explicit Visibility(const mesh::Mesh& surface, const mesh::Mesh& closing = {});

    // One of 48 rays over the half space on that side of a point of the surface, from a hair off it, meets nothing.
    // `side`: a unit normal.
    [[nodiscard]] bool isSeen(const mesh::Point& at, const mesh::Point& side) const;

private:
    space::RayScene surface_;
    space::RayScene closing_;
    double hair_;
};

}  // namespace zither::measure
