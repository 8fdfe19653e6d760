// A surface whose triangles know what they came from.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "mesh/mesh.h"

namespace zither::mesh {

struct Traced {
    Mesh mesh;
    // Of each triangle: the one of the input that it is, or is a piece of; noIndex where there is none (a patch, a
    // plate, the side of a thick sheet).
    std::vector<TriangleId> sourceOf;
    // Of each vertex: its number in the input; noIndex for a new one. Empty where nobody asks.
    std::vector<VertexId> givenVertex = {};

    // The input itself.
    [[nodiscard]] static Traced all(Mesh m);

    // Keeps the triangles with a flag (one each), in their order; what was known of vertices is forgotten.
    void keep(const std::vector<std::uint8_t>& flags);
    // Those of a part of the same input come behind (appendPart); what was known of vertices is forgotten.
    void append(const Traced& other);
    // The input was made itself, of something whose triangles are `before`: sources are those from now on.
    void trace(std::span<const TriangleId> before);
    // What was made of this one takes its place; what was known of vertices is forgotten.
    void becomes(Traced&& next);
};

}  // namespace zither::mesh
