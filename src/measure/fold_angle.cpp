// Directions across the edge, into each side.
#include "measure/fold_angle.h"

#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "measure/mass.h"

namespace zither::measure {

using mesh::Point;

Point across(const Point& from, const Point& along, const Point& p) {
    const Point way = p - from;
    return way - way.dot(along) * along;
}

double angleBetweenSides(const Point& from, const Point& to, const Point& a, const Point& b) {
    const Point along = (to - from).normalized();
    const Point u = across(from, along, a);
    const Point v = across(from, along, b);
    return std::atan2(u.cross(v).norm(), u.dot(v)) * 180 / std::numbers::pi;
}

bool isFold(const mesh::Mesh& m, const mesh::Edges& edges, mesh::EdgeId e, double angleDeg, double least) {
    const auto around = edges.around(e);
    if (around.size() != 2) return false;
    const auto& at = m.positions;
    return angleBetweenSides(at[mesh::fromVertex(m, around[0])], at[mesh::toVertex(m, around[0])],
                             at[mesh::oppositeVertex(m, around[0])],
                             at[mesh::oppositeVertex(m, around[1])]) < angleDeg &&
           leastHeight(m, mesh::triangleOf(around[0])) >= least && leastHeight(m, mesh::triangleOf(around[1])) >= least;
}

}  // namespace zither::measure
