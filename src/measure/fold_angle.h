// The angle at which the two sides of an edge meet.
#pragma once

#include "mesh/edges.h"

namespace zither::measure {

// From the line through `from` along a direction of length 1 to p, across it.
mesh::Point across(const mesh::Point& from, const mesh::Point& along, const mesh::Point& p);

// Between the half-planes from the line through `from` and `to` that hold a and b, whichever way the sides face, in
// degrees: 180 where they are flat. None of the two lies on the line.
double angleBetweenSides(const mesh::Point& from, const mesh::Point& to, const mesh::Point& a, const mesh::Point& b);

// The edge has two triangles, both at least so high, which enclose less than that angle, in degrees.
bool isFold(const mesh::Mesh& m, const mesh::Edges& edges, mesh::EdgeId e, double angleDeg, double least);

}  // namespace zither::measure
