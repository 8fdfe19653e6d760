// From where a surface can be seen: whether some straight ray leaves it.
#pragma once

#include <cstdint>
#include <span>

#include "mesh/mesh.h"
#include "space/ray_scene.h"

namespace zither::measure {

// Of a surface and of patches that close openings of it and hide what lies behind them, which must outlive this.
// Queries are const and may run in parallel.
class Visibility {
public:
    // `rays`: of the surface, to outlive this as well. `tight`: of each of its triangles as check::tightShells; empty:
    // not known. With it most of what lies within bodies is told by the first ray that leaves one of them.
    Visibility(const mesh::Mesh& surface, const space::RayScene& rays, const mesh::Mesh& closing,
               std::span<const std::int8_t> tight = {});

    // One of 48 rays over the half space on that side of a point of the surface, from a hair off it, meets nothing.
    // `side`: a unit normal.
    [[nodiscard]] bool isSeen(const mesh::Point& at, const mesh::Point& side) const;

private:
    // The ray meets a tight shell first, from within: from there no ray leaves.
    [[nodiscard]] bool leaves(mesh::TriangleId met, const mesh::Point& direction) const;

    const mesh::Mesh& mesh_;
    std::span<const std::int8_t> tight_;
    const space::RayScene& surface_;
    space::RayScene closing_;
    double hair_;
};

}  // namespace zither::measure
