// The same arithmetic for a part and for what it is compared with, so that both come out with the same bits.
#include "mesh/motion.h"

#include <Eigen/Geometry>
#include <cmath>

#include "mesh/parallel.h"

namespace zither::mesh {

Point Motion::of(const Point& p) const {
    return linear * p + shift;
}

double Motion::scale() const {
    return std::cbrt(std::abs(linear.determinant()));
}

bool Motion::mirrors() const {
    return linear.determinant() < 0;
}

bool Motion::isStill() const {
    return linear == Eigen::Matrix3d::Identity() && shift == Point::Zero();
}

Point Motion::turned(const Point& direction) const {
    return (linear * direction).normalized();
}

Motion then(const Motion& first, const Motion& second) {
    return {second.linear * first.linear, second.of(first.shift), second.precision};
}

Mesh moved(const Mesh& m, const Motion& motion) {
    Mesh result = m;
    parallelFor(result.positions.size(), blockSize,
                [&](std::size_t v) { result.positions[v] = rounded(motion.precision, motion.of(m.positions[v])); });
    if (motion.mirrors())
        for (Triangle& t : result.triangles) std::swap(t[1], t[2]);
    return result;
}

}  // namespace zither::mesh
