// Exact geometric predicates on doubles: a floating-point filter first, expansion arithmetic where it cannot tell,
// rational numbers where expansions would overflow or underflow. Follows Shewchuk 1997 ("Adaptive precision
// floating-point arithmetic"), without his intermediate stages. Correct for all finite doubles.
#pragma once

#include <Eigen/Core>

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

// The slow, obvious versions over rational numbers; the reference that tests compare with.
int orient2dRational(const Point2& a, const Point2& b, const Point2& c);
int orient3dRational(const Point3& a, const Point3& b, const Point3& c, const Point3& d);

}  // namespace zither::exact
