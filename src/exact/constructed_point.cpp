// Double-double approximations with a proven error; integers (GMP) where they cannot tell.
#include "exact/constructed_point.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "exact/double_double.h"

namespace zither::exact {
namespace {

// Exponent of the lowest bit that is set in x != 0.
int lowestBit(double x) {
    int exponent = 0;
    const double mantissa = std::frexp(x, &exponent);
    const auto bits = static_cast<std::int64_t>(std::ldexp(mantissa, 53));
    return exponent - 53 + __builtin_ctzll(static_cast<std::uint64_t>(bits));
}

struct IntegerVector {
    Integer x, y, z;
};

IntegerVector minus(const IntegerGrid& grid, const Point3& a, const Point3& b) {
    return {grid.toInteger(a.x()) - grid.toInteger(b.x()), grid.toInteger(a.y()) - grid.toInteger(b.y()),
            grid.toInteger(a.z()) - grid.toInteger(b.z())};
}

IntegerVector cross(const IntegerVector& a, const IntegerVector& b) {
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}

Integer dot(const IntegerVector& a, const IntegerVector& b) {
    return a.x * b.x + a.y * b.y + a.z * b.z;
}

IntegerVector normalOf(const IntegerGrid& grid, const Corner3& plane) {
    return cross(minus(grid, *plane[1], *plane[0]), minus(grid, *plane[2], *plane[0]));
}

void makePositive(Homogeneous& p) {
    if (p.w >= 0) return;
    p.x = -p.x;
    p.y = -p.y;
    p.z = -p.z;
    p.w = -p.w;
}

using Vector = std::array<DoubleDouble, 3>;

Vector minus(const Point3& a, const Point3& b) {
    return {DoubleDouble::difference(a.x(), b.x()), DoubleDouble::difference(a.y(), b.y()),
            DoubleDouble::difference(a.z(), b.z())};
}

Vector cross(const Vector& a, const Vector& b) {
    return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
}

DoubleDouble dot(const Vector& a, const Vector& b) {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

double largest(const Vector& v) {
    return std::max({std::abs(v[0].high), std::abs(v[1].high), std::abs(v[2].high)});
}

// A determinant that cancelled to less than this share of what went into it is left to exact arithmetic; above it, the
// errors of double-double arithmetic (2^-96 of what went in) are below 2^-56 of the result.
constexpr double trusted = 0x1p-40;
// Below this the errors themselves may have underflowed.
constexpr double underflow = 0x1p-600;

struct ApproximatePlane {
    Vector normal;
    double size = 0;  // bound of each component of the normal before cancellation

    explicit ApproximatePlane(const Corner3& p) {
        const Vector u = minus(*p[1], *p[0]);
        const Vector v = minus(*p[2], *p[0]);
        normal = cross(u, v);
        size = 2 * largest(u) * largest(v);
    }
};

// A point of the grid that spans, with p and any other, a plane along the axis.
Point3 liftedAlong(const IntegerGrid& grid, int axis, Point3 p) {
    p[axis] = p[axis] == grid.greatest() ? -grid.greatest() : grid.greatest();
    return p;
}

}  // namespace

IntegerGrid::IntegerGrid(std::span<const Point3> points) {
    int lowest = std::numeric_limits<int>::max();
    double& greatest = greatest_;
    for (const Point3& p : points)
        for (int k = 0; k < 3; ++k)
            if (p[k] != 0) {
                lowest = std::min(lowest, lowestBit(p[k]));
                greatest = std::max(greatest, std::abs(p[k]));
            }
    exponent_ = lowest == std::numeric_limits<int>::max() ? 0 : lowest;
    error_ = greatest * 0x1p-51;
    if (greatest > 0x1p150 || greatest < 0x1p-150) error_ = std::numeric_limits<double>::infinity();
}

Integer IntegerGrid::toInteger(double x) const {
    if (x == 0) return 0;
    int exponent = 0;
    const double mantissa = std::frexp(x, &exponent);
    const auto bits = static_cast<std::int64_t>(std::ldexp(mantissa, 53));
    const int shift = exponent - 53 - exponent_;
    // The bits that a right shift drops are zero: exponent_ is at or below the lowest that is set.
    if (shift < 0) return Integer(bits / (std::int64_t{1} << -shift));
    return Integer(bits) << shift;
}

Homogeneous IntegerGrid::point(const Point3& p) const {
    return {toInteger(p.x()), toInteger(p.y()), toInteger(p.z()), 1};
}

double IntegerGrid::nearestDouble(const Homogeneous& p, int axis) const {
    const Integer& x = p[axis];
    if (x == 0) return 0;
    Integer numerator = boost::multiprecision::abs(x);
    Integer denominator = p.w;
    // A quotient of at least 64 bits, with a last bit that stands for whatever is left, rounds as the exact one does,
    // down to the smallest normal number.
    const int shift = 66 - static_cast<int>(msb(numerator)) + static_cast<int>(msb(denominator));
    if (shift > 0)
        numerator <<= shift;
    else
        denominator <<= -shift;
    Integer quotient, rest;
    divide_qr(numerator, denominator, quotient, rest);
    // Bits of a subnormal result end at 2^-1074: cut the quotient there so that it is rounded once.
    int scale = exponent_ - shift;
    const int top = static_cast<int>(msb(quotient)) + scale;
    const int keep = top < -1022 ? std::max(0, top + 1074 + 1) : 53;
    const int drop = static_cast<int>(msb(quotient)) + 1 - keep;
    const Integer low = quotient & ((Integer(1) << drop) - 1);
    const Integer half = Integer(1) << (drop - 1);
    quotient >>= drop;
    scale += drop;
    if (low > half || (low == half && (rest != 0 || (quotient & 1) != 0))) quotient += 1;
    const double magnitude = std::ldexp(quotient.convert_to<double>(), scale);
    return x < 0 ? -magnitude : magnitude;
}

Point3 IntegerGrid::nearest(const Homogeneous& p) const {
    return {nearestDouble(p, 0), nearestDouble(p, 1), nearestDouble(p, 2)};
}

Homogeneous linePlanePoint(const IntegerGrid& grid, const Point3& p, const Point3& q, const Corner3& plane) {
    const IntegerVector normal = normalOf(grid, plane);
    const IntegerVector along = minus(grid, q, p);
    const Integer t = dot(normal, minus(grid, *plane[0], p));
    Homogeneous h;
    h.w = dot(normal, along);
    h.x = grid.toInteger(p.x()) * h.w + along.x * t;
    h.y = grid.toInteger(p.y()) * h.w + along.y * t;
    h.z = grid.toInteger(p.z()) * h.w + along.z * t;
    makePositive(h);
    return h;
}

Homogeneous threePlanePoint(const IntegerGrid& grid, const Corner3& a, const Corner3& b, const Corner3& c) {
    const IntegerVector na = normalOf(grid, a);
    const IntegerVector nb = normalOf(grid, b);
    const IntegerVector nc = normalOf(grid, c);
    // Cramer's rule about a point of the first plane.
    const Point3& origin = *a[0];
    const Integer db = dot(nb, minus(grid, *b[0], origin));
    const Integer dc = dot(nc, minus(grid, *c[0], origin));
    const IntegerVector forB = cross(nc, na);
    const IntegerVector forC = cross(na, nb);
    Homogeneous h;
    h.w = dot(na, cross(nb, nc));
    h.x = grid.toInteger(origin.x()) * h.w + db * forB.x + dc * forC.x;
    h.y = grid.toInteger(origin.y()) * h.w + db * forB.y + dc * forC.y;
    h.z = grid.toInteger(origin.z()) * h.w + db * forB.z + dc * forC.z;
    makePositive(h);
    return h;
}

Homogeneous lineCrossing(const IntegerGrid& grid, int axis, const Point3& p, const Point3& q, const Point3& r,
                         const Point3& s) {
    const Point3 lift = liftedAlong(grid, axis, r);
    return linePlanePoint(grid, p, q, {&r, &s, &lift});
}

Homogeneous centroid(const Homogeneous& a, const Homogeneous& b, const Homogeneous& c) {
    const Integer wa = b.w * c.w;
    const Integer wb = c.w * a.w;
    const Integer wc = a.w * b.w;
    return {a.x * wa + b.x * wb + c.x * wc, a.y * wa + b.y * wb + c.y * wc, a.z * wa + b.z * wb + c.z * wc,
            3 * a.w * wa};
}

std::optional<Point3> approximateLinePlane(const Point3& p, const Point3& q, const Corner3& plane) {
    const ApproximatePlane side(plane);
    const Vector along = minus(q, p);
    const Vector to = minus(*plane[0], p);
    const DoubleDouble denominator = dot(side.normal, along);
    const double size = 3 * side.size * std::max(largest(along), largest(to));
    if (!(std::abs(denominator.high) > trusted * size) || !(std::abs(denominator.high) > underflow))
        return std::nullopt;
    const DoubleDouble t = dot(side.normal, to) / denominator;
    Point3 result;
    for (unsigned k = 0; k < 3; ++k) result[k] = (DoubleDouble{p[k], 0} + along[k] * t).high;
    return result;
}

std::optional<Point3> approximateLineCrossing(const IntegerGrid& grid, int axis, const Point3& p, const Point3& q,
                                              const Point3& r, const Point3& s) {
    const Point3 lift = liftedAlong(grid, axis, r);
    return approximateLinePlane(p, q, {&r, &s, &lift});
}

std::optional<Point3> approximateThreePlanes(const Corner3& a, const Corner3& b, const Corner3& c) {
    const ApproximatePlane pa(a);
    const ApproximatePlane pb(b);
    const ApproximatePlane pc(c);
    const Vector forB = cross(pc.normal, pa.normal);
    const Vector forC = cross(pa.normal, pb.normal);
    const DoubleDouble determinant = dot(pb.normal, forB);
    const double size = 6 * pa.size * pb.size * pc.size;
    if (!(std::abs(determinant.high) > trusted * size) || !(std::abs(determinant.high) > underflow))
        return std::nullopt;
    const Point3& origin = *a[0];
    const DoubleDouble tb = dot(pb.normal, minus(*b[0], origin)) / determinant;
    const DoubleDouble tc = dot(pc.normal, minus(*c[0], origin)) / determinant;
    Point3 result;
    for (unsigned k = 0; k < 3; ++k) result[k] = (DoubleDouble{origin[k], 0} + (tb * forB[k] + tc * forC[k])).high;
    return result;
}

int orient2dDropping(int axis, const Homogeneous& a, const Homogeneous& b, const Homogeneous& c) {
    const int u = (axis + 1) % 3;
    const int v = (axis + 2) % 3;
    const Integer bc = b[u] * c[v] - b[v] * c[u];
    const Integer ca = c[u] * a[v] - c[v] * a[u];
    const Integer ab = a[u] * b[v] - a[v] * b[u];
    return Integer(a.w * bc + b.w * ca + c.w * ab).sign();
}

int orient3d(const Homogeneous& a, const Homogeneous& b, const Homogeneous& c, const Homogeneous& d) {
    const auto minus = [&](const Homogeneous& p, int k) { return Integer(p[k] * d.w - d[k] * p.w); };
    const IntegerVector pa{minus(a, 0), minus(a, 1), minus(a, 2)};
    const IntegerVector pb{minus(b, 0), minus(b, 1), minus(b, 2)};
    const IntegerVector pc{minus(c, 0), minus(c, 1), minus(c, 2)};
    return dot(pa, cross(pb, pc)).sign();
}

int compare(int axis, const Homogeneous& a, const Homogeneous& b) {
    return Integer(a[axis] * b.w - b[axis] * a.w).sign();
}

bool equal(const Homogeneous& a, const Homogeneous& b) {
    return compare(0, a, b) == 0 && compare(1, a, b) == 0 && compare(2, a, b) == 0;
}

}  // namespace zither::exact
