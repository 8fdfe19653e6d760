// Points that cutting a surface constructs, represented exactly: where a line through two points meets the plane of
// three (LPI), and where three planes meet (TPI), in the terms of Attene 2020 ("Indirect predicates for geometric
// constructions"). Every such point has a double approximation whose error is bounded and tiny, on which filters
// decide, and exact homogeneous integer coordinates, computed where a filter cannot tell.
#pragma once

#include <array>
#include <boost/multiprecision/gmp.hpp>
#include <cmath>
#include <optional>
#include <span>

#include "exact/projection.h"

namespace zither::exact {

using Integer = boost::multiprecision::mpz_int;

// (x / w, y / w, z / w) in units of an IntegerGrid; w > 0.
struct Homogeneous {
    Integer x, y, z, w = 1;

    [[nodiscard]] const Integer& operator[](int axis) const { return axis == 0 ? x : axis == 1 ? y : z; }
};

// A power of two of which every given coordinate is a whole multiple: on it, doubles are integers.
class IntegerGrid {
public:
    explicit IntegerGrid(std::span<const Point3> points);

    [[nodiscard]] Integer toInteger(double x) const;
    [[nodiscard]] Homogeneous point(const Point3& p) const;
    // The double nearest to the coordinate, ties to even.
    [[nodiscard]] double nearestDouble(const Homogeneous& p, int axis) const;
    [[nodiscard]] Point3 nearest(const Homogeneous& p) const;

    // An upper bound of the error of each coordinate of an approximation (approximateLinePlane and so on, or nearest);
    // infinite where the coordinates are so large or small that approximations are not to be trusted.
    [[nodiscard]] double approximationError() const { return error_; }

    // The largest magnitude of a coordinate.
    [[nodiscard]] double greatest() const { return greatest_; }

private:
    int exponent_ = 0;
    double greatest_ = 0;
    double error_ = 0;
};

// Where the line pq meets the plane; the two are not parallel.
Homogeneous linePlanePoint(const IntegerGrid& grid, const Point3& p, const Point3& q, const Corner3& plane);
// The one point of three planes.
Homogeneous threePlanePoint(const IntegerGrid& grid, const Corner3& a, const Corner3& b, const Corner3& c);
// Where the lines pq and rs, of one plane, cross: they do so in the plane without `axis` as well.
Homogeneous lineCrossing(const IntegerGrid& grid, int axis, const Point3& p, const Point3& q, const Point3& r,
                         const Point3& s);
// The centroid of three points.
Homogeneous centroid(const Homogeneous& a, const Homogeneous& b, const Homogeneous& c);

// Each coordinate within IntegerGrid::approximationError() of the exact point; nothing where rounding could be worse.
std::optional<Point3> approximateLinePlane(const Point3& p, const Point3& q, const Corner3& plane);
std::optional<Point3> approximateLineCrossing(const IntegerGrid& grid, int axis, const Point3& p, const Point3& q,
                                              const Point3& r, const Point3& s);
std::optional<Point3> approximateThreePlanes(const Corner3& a, const Corner3& b, const Corner3& c);

// The predicates of predicates.h on exact points.
int orient2dDropping(int axis, const Homogeneous& a, const Homogeneous& b, const Homogeneous& c);
int orient3d(const Homogeneous& a, const Homogeneous& b, const Homogeneous& c, const Homogeneous& d);
// Sign of a[axis] - b[axis].
int compare(int axis, const Homogeneous& a, const Homogeneous& b);
bool equal(const Homogeneous& a, const Homogeneous& b);

// Sign of the turn of three points of a plane, each coordinate known to within `error`; 0 where the error could change
// it.
inline int filteredOrient2d(double ax, double ay, double bx, double by, double cx, double cy, double error) {
    const double x = ax - cx;
    const double y = ay - cy;
    const double u = bx - cx;
    const double v = by - cy;
    const double left = x * v;
    const double right = y * u;
    const double determinant = left - right;
    // Each difference is off by at most 2 error and its rounding, which is below error; a product of two differences
    // then by 3 error (|x| + |y|) + 9 error^2 and its own rounding.
    const double bound = 3 * error * (std::abs(x) + std::abs(y) + std::abs(u) + std::abs(v)) + 18 * error * error +
                         0x1p-50 * (std::abs(left) + std::abs(right));
    return determinant > bound ? 1 : determinant < -bound ? -1 : 0;
}

// The same in the plane without `axis`.
inline int filteredOrient2dDropping(int axis, const Point3& a, const Point3& b, const Point3& c, double error) {
    const int u = axis == 2 ? 0 : axis + 1;
    const int v = axis == 0 ? 2 : axis - 1;
    return filteredOrient2d(a[u], a[v], b[u], b[v], c[u], c[v], error);
}

}  // namespace zither::exact
