// Exact geometric predicates on doubles: a floating-point filter first, expansion arithmetic where it cannot tell,
// rational numbers where expansions would overflow or underflow. Follows Shewchuk 1997 ("Adaptive precision
// floating-point arithmetic"), without his intermediate stages. Correct for all finite doubles.
#pragma once

#include <Eigen/Core>
#include <cmath>
#include <limits>

namespace zither::exact {

using Point2 = Eigen::Vector2d;
using Point3 = Eigen::Vector3d;

// Sign (-1, 0, 1) of twice the signed area of a, b, c: 1 where they turn counter-clockwise.
int orient2d(const Point2& a, const Point2& b, const Point2& c);

// Sign of det[a - d; b - d; c - d]: 1 where d lies below the plane in which a, b, c turn counter-clockwise seen from
// above, that is, on the side opposite to the normal (b - a) x (c - a).
int orient3d(const Point3& a, const Point3& b, const Point3& c, const Point3& d);

// The same in the plane that is left when coordinate `axis` is dropped: (y, z), (z, x) or (x, y).
int orient2dDropping(int axis, const Point3& a, const Point3& b, const Point3& c);

// True where the three points lie on one line (or coincide).
bool collinear(const Point3& a, const Point3& b, const Point3& c);

namespace detail {

inline constexpr double epsilon = std::numeric_limits<double>::epsilon() / 2;  // 2^-53: the largest rounding error
// Shewchuk's bounds of the first stage: the computed determinant has the right sign if it exceeds bound * permanent.
inline constexpr double orient2dBound = (3.0 + 16.0 * epsilon) * epsilon;
inline constexpr double orient3dBound = (7.0 + 56.0 * epsilon) * epsilon;

inline int signOf(double x) {
    return (x > 0) - (x < 0);
}

// Where the filter cannot tell.
int orient2dExact(const Point2& a, const Point2& b, const Point2& c);
int orient3dExact(const Point3& a, const Point3& b, const Point3& c, const Point3& d);

}  // namespace detail

inline int orient2d(const Point2& a, const Point2& b, const Point2& c) {
    const double left = (a.x() - c.x()) * (b.y() - c.y());
    const double right = (a.y() - c.y()) * (b.x() - c.x());
    const double det = left - right;
    // Below this size the products may have lost bits to underflow, which the relative bound does not cover.
    constexpr double underflow = std::numeric_limits<double>::min() / detail::epsilon;
    const double permanent = std::abs(left) + std::abs(right);
    if (std::abs(det) > detail::orient2dBound * permanent && permanent > underflow && permanent < 0x1p1000)
        return detail::signOf(det);
    return detail::orient2dExact(a, b, c);
}

inline int orient3d(const Point3& a, const Point3& b, const Point3& c, const Point3& d) {
    const double ax = a.x() - d.x();
    const double ay = a.y() - d.y();
    const double az = a.z() - d.z();
    const double bx = b.x() - d.x();
    const double by = b.y() - d.y();
    const double bz = b.z() - d.z();
    const double cx = c.x() - d.x();
    const double cy = c.y() - d.y();
    const double cz = c.z() - d.z();
    const double bxcy = bx * cy;
    const double cxby = cx * by;
    const double cxay = cx * ay;
    const double axcy = ax * cy;
    const double axby = ax * by;
    const double bxay = bx * ay;
    const double det = az * (bxcy - cxby) + bz * (cxay - axcy) + cz * (axby - bxay);
    const double permanent = (std::abs(bxcy) + std::abs(cxby)) * std::abs(az) +
                             (std::abs(cxay) + std::abs(axcy)) * std::abs(bz) +
                             (std::abs(axby) + std::abs(bxay)) * std::abs(cz);
    // A product of two that underflows is wrong by 2^-1075 at most; times 2^400 that is far below the bound here.
    constexpr double underflow = 0x1p-500;
    const bool inRange =
        permanent > underflow && permanent < 0x1p1000 && std::abs(az) + std::abs(bz) + std::abs(cz) < 0x1p400;
    if (inRange && std::abs(det) > detail::orient3dBound * permanent) return detail::signOf(det);
    return detail::orient3dExact(a, b, c, d);
}

inline int orient2dDropping(int axis, const Point3& a, const Point3& b, const Point3& c) {
    const int u = axis == 2 ? 0 : axis + 1;
    const int v = axis == 0 ? 2 : axis - 1;
    return orient2d(Point2(a[u], a[v]), Point2(b[u], b[v]), Point2(c[u], c[v]));
}

// Decides a turn p, a, b of 0 in the plane without `axis` for p moved by (e, e^2) for a vanishing e > 0, as rays
// through edges and corners ask (Edelsbrunner & Muecke 1990). 0 only where a and b coincide there.
inline int turnOfMovedPoint(int axis, const Point3& a, const Point3& b) {
    const int u = (axis + 1) % 3;
    const int v = (axis + 2) % 3;
    // d/du of (a - p) x (b - p) is av - bv; d/dv is bu - au.
    if (a[v] != b[v]) return a[v] > b[v] ? 1 : -1;
    return (b[u] > a[u]) - (b[u] < a[u]);
}

// The slow, obvious versions over rational numbers; the reference that tests compare with.
int orient2dRational(const Point2& a, const Point2& b, const Point2& c);
int orient3dRational(const Point3& a, const Point3& b, const Point3& c, const Point3& d);

}  // namespace zither::exact
