// As Eigen has them.
#include "mesh/turn.h"

#include <Eigen/Dense>

namespace zither::mesh {

Eigen::Matrix3d turnFromTo(const Point& from, const Point& to) {
    return Eigen::Quaterniond::FromTwoVectors(from, to).toRotationMatrix();
}

Eigen::Matrix3d nearestTurn(const Eigen::Matrix3d& m) {
    const Eigen::JacobiSVD<Eigen::Matrix3d> svd(m, Eigen::ComputeFullU | Eigen::ComputeFullV);
    return svd.matrixU() * svd.matrixV().transpose();
}

Motion motionOfPoints(const std::array<Point, 3>& from, const std::array<Point, 3>& to) {
    Eigen::Matrix3d a;
    Eigen::Matrix3d b;
    for (int i = 0; i < 3; ++i) {
        a.col(i) = from[static_cast<std::size_t>(i)];
        b.col(i) = to[static_cast<std::size_t>(i)];
    }
    const Eigen::Matrix4d t = Eigen::umeyama(a, b, false);
    return {t.topLeftCorner<3, 3>(), t.topRightCorner<3, 1>()};
}

}  // namespace zither::mesh
