// Turns found from points and directions. Their decompositions are large templates, made in one place.
#pragma once

#include <array>

#include "mesh/motion.h"

namespace zither::mesh {

// The shortest turn that brings one direction to another, neither of length 0; about any axis across where they are
// opposite.
Eigen::Matrix3d turnFromTo(const Point& from, const Point& to);

// The turn nearest to a matrix: without what scales and shears (polar decomposition).
Eigen::Matrix3d nearestTurn(const Eigen::Matrix3d& m);

// The turn and move that bring three points nearest to three others (Umeyama 1991, without a scale).
Motion motionOfPoints(const std::array<Point, 3>& from, const std::array<Point, 3>& to);

}  // namespace zither::mesh
