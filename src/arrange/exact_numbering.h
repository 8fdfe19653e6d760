// The vertices of a mesh made from exact points: equal points are one vertex.
#pragma once

#include <cstdint>
#include <vector>

#include "arrange/crossing_figures.h"
#include "mesh/mesh.h"

namespace zither::arrange {

// Gives points (each may be there more than once) their places in a mesh: equal ones the same, those of the input
// first, in their order. The number of each, by point; noIndex for those that are not used. `givenVertex` grows by what
// each new vertex was in the input: noIndex for a constructed one.
std::vector<VertexId> numberPoints(const ExactPoints& points, std::vector<std::uint32_t> used, Mesh& out,
                                   std::vector<VertexId>& givenVertex);

}  // namespace zither::arrange
