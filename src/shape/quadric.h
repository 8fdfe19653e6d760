// The quadric of Garland & Heckbert 1997: the weighted sum of squared distances to planes, as a function of a point.
#pragma once

#include <Eigen/Core>
#include <algorithm>
#include <cmath>
#include <optional>

#include "shape/shape_tolerances.h"

namespace zither::shape {

// Coordinates are relative to an origin near the surface, so that no digits are lost to a large offset.
struct Quadric {
    // x' A x + 2 b' x + c with A symmetric: xx, xy, xz, yy, yz, zz.
    double a[6] = {0, 0, 0, 0, 0, 0};
    double b[3] = {0, 0, 0};
    double c = 0;

    // The plane through p with the unit normal n.
    void addPlane(const Eigen::Vector3d& n, const Eigen::Vector3d& p, double weight) {
        const double d = -n.dot(p);
        a[0] += weight * n[0] * n[0];
        a[1] += weight * n[0] * n[1];
        a[2] += weight * n[0] * n[2];
        a[3] += weight * n[1] * n[1];
        a[4] += weight * n[1] * n[2];
        a[5] += weight * n[2] * n[2];
        for (int k = 0; k < 3; ++k) b[k] += weight * n[k] * d;
        c += weight * d * d;
    }
    // Member by member: a copy that is added to would wait for itself to reach the cache.
    friend Quadric operator+(const Quadric& p, const Quadric& q) {
        return {{p.a[0] + q.a[0], p.a[1] + q.a[1], p.a[2] + q.a[2], p.a[3] + q.a[3], p.a[4] + q.a[4], p.a[5] + q.a[5]},
                {p.b[0] + q.b[0], p.b[1] + q.b[1], p.b[2] + q.b[2]},
                p.c + q.c};
    }
    [[nodiscard]] double at(const Eigen::Vector3d& x) const {
        const double ax = a[0] * x[0] + a[1] * x[1] + a[2] * x[2];
        const double ay = a[1] * x[0] + a[3] * x[1] + a[4] * x[2];
        const double az = a[2] * x[0] + a[4] * x[1] + a[5] * x[2];
        const double value = x[0] * (ax + 2 * b[0]) + x[1] * (ay + 2 * b[1]) + x[2] * (az + 2 * b[2]) + c;
        return std::max(value, 0.0);  // below zero only by rounding
    }
    // The point of least error; nothing where the planes do not fix one (flat or ridge-like surroundings).
    [[nodiscard]] std::optional<Eigen::Vector3d> minimum() const {
        const double c00 = a[3] * a[5] - a[4] * a[4];
        const double c01 = a[2] * a[4] - a[1] * a[5];
        const double c02 = a[1] * a[4] - a[2] * a[3];
        const double det = a[0] * c00 + a[1] * c01 + a[2] * c02;
        const double trace = a[0] + a[3] + a[5];
        if (!(det > tolerance::quadricCondition * tolerance::quadricCondition * trace * trace * trace))
            return std::nullopt;
        const double c11 = a[0] * a[5] - a[2] * a[2];
        const double c12 = a[1] * a[2] - a[0] * a[4];
        const double c22 = a[0] * a[3] - a[1] * a[1];
        const double by = -1 / det;
        return Eigen::Vector3d(by * (c00 * b[0] + c01 * b[1] + c02 * b[2]), by * (c01 * b[0] + c11 * b[1] + c12 * b[2]),
                               by * (c02 * b[0] + c12 * b[1] + c22 * b[2]));
    }
};

}  // namespace zither::shape
