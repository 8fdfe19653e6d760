// Exact vertex joining: corners whose coordinates are equal become one vertex. Expects up to tens of millions of
// corners, most of them met about six times, near each other in the file.
#pragma once

#include <span>
#include <vector>

#include "mesh/mesh.h"

namespace zither::mesh {

using PointF = Eigen::Vector3f;

// For each point the index of the first point with exactly equal coordinates (-0 equals +0); itself where it is the
// first. Points must be finite. O(n) time, 8 bytes a point besides the result; the same result for any thread count.
std::vector<VertexId> firstOfEqual(std::span<const Point> points);
std::vector<VertexId> firstOfEqual(std::span<const PointF> points);

// For each point of `to` the first point of `from` with exactly equal coordinates; noIndex where there is none.
std::vector<VertexId> equalIn(const std::vector<Point>& from, const std::vector<Point>& to);

}  // namespace zither::mesh
