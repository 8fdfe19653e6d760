#include "exact/predicates.h"

#include <algorithm>
#include <boost/multiprecision/cpp_int.hpp>
#include <cmath>
#include <initializer_list>
#include <limits>

#include "exact/expansion.h"

namespace zither::exact {
namespace {

using Rational = boost::multiprecision::cpp_rational;

constexpr double epsilon = std::numeric_limits<double>::epsilon() / 2;  // 2^-53: the largest relative rounding error
// Shewchuk's bounds of the first stage: the computed determinant has the right sign if it exceeds bound * permanent.
constexpr double orient2dBound = (3.0 + 16.0 * epsilon) * epsilon;
constexpr double orient3dBound = (7.0 + 56.0 * epsilon) * epsilon;

int signOf(double x) {
    return (x > 0) - (x < 0);
}
int signOf(const Rational& x) {
    return x.sign();
}

// Within these magnitudes no product of three differences over- or underflows, down to its last bit:
// the last bit of a coordinate is at least 2^-303, of a triple product 2^-909; the largest is 2^904.
bool expansionsAreSafe(std::initializer_list<double> coordinates) {
    constexpr double largest = 0x1p300;
    constexpr double smallest = 0x1p-250;
    return std::all_of(coordinates.begin(), coordinates.end(), [](double c) {
        const double a = std::abs(c);
        return a == 0 || (a >= smallest && a <= largest);
    });
}

int orient2dExact(const Point2& a, const Point2& b, const Point2& c) {
    if (!expansionsAreSafe({a.x(), a.y(), b.x(), b.y(), c.x(), c.y()})) return orient2dRational(a, b, c);
    const auto left = product(difference(a.x(), c.x()), difference(b.y(), c.y()));
    const auto right = product(difference(a.y(), c.y()), difference(b.x(), c.x()));
    return sum(left, right, -1).sign();
}

// ax * by - ay * bx
Expansion<16> minor(const Expansion<2>& ax, const Expansion<2>& ay, const Expansion<2>& bx, const Expansion<2>& by) {
    return sum(product(ax, by), product(ay, bx), -1);
}

int orient3dExact(const Point3& a, const Point3& b, const Point3& c, const Point3& d) {
    if (!expansionsAreSafe({a.x(), a.y(), a.z(), b.x(), b.y(), b.z(), c.x(), c.y(), c.z(), d.x(), d.y(), d.z()}))
        return orient3dRational(a, b, c, d);
    const auto ax = difference(a.x(), d.x());
    const auto ay = difference(a.y(), d.y());
    const auto az = difference(a.z(), d.z());
    const auto bx = difference(b.x(), d.x());
    const auto by = difference(b.y(), d.y());
    const auto bz = difference(b.z(), d.z());
    const auto cx = difference(c.x(), d.x());
    const auto cy = difference(c.y(), d.y());
    const auto cz = difference(c.z(), d.z());
    const auto first = product(minor(bx, by, cx, cy), az);
    const auto second = product(minor(cx, cy, ax, ay), bz);
    const auto third = product(minor(ax, ay, bx, by), cz);
    return sum(sum(first, second), third).sign();
}

}  // namespace

int orient2d(const Point2& a, const Point2& b, const Point2& c) {
    const double left = (a.x() - c.x()) * (b.y() - c.y());
    const double right = (a.y() - c.y()) * (b.x() - c.x());
    const double det = left - right;
    // Below this size the products may have lost bits to underflow, which the relative bound does not cover.
    constexpr double underflow = std::numeric_limits<double>::min() / epsilon;
    const double permanent = std::abs(left) + std::abs(right);
    if (std::abs(det) > orient2dBound * permanent && permanent > underflow && permanent < 0x1p1000) return signOf(det);
    return orient2dExact(a, b, c);
}

int orient3d(const Point3& a, const Point3& b, const Point3& c, const Point3& d) {
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
    if (inRange && std::abs(det) > orient3dBound * permanent) return signOf(det);
    return orient3dExact(a, b, c, d);
}

int orient2dDropping(int axis, const Point3& a, const Point3& b, const Point3& c) {
    const int u = axis == 2 ? 0 : axis + 1;
    const int v = axis == 0 ? 2 : axis - 1;
    return orient2d(Point2(a[u], a[v]), Point2(b[u], b[v]), Point2(c[u], c[v]));
}

bool collinear(const Point3& a, const Point3& b, const Point3& c) {
    return orient2dDropping(2, a, b, c) == 0 && orient2dDropping(0, a, b, c) == 0 && orient2dDropping(1, a, b, c) == 0;
}

int orient2dRational(const Point2& a, const Point2& b, const Point2& c) {
    const Rational cx(c.x());
    const Rational cy(c.y());
    return signOf(
        Rational((Rational(a.x()) - cx) * (Rational(b.y()) - cy) - (Rational(a.y()) - cy) * (Rational(b.x()) - cx)));
}

int orient3dRational(const Point3& a, const Point3& b, const Point3& c, const Point3& d) {
    const auto minus = [&](const Point3& p, int k) { return Rational(Rational(p[k]) - Rational(d[k])); };
    const Rational ax = minus(a, 0), ay = minus(a, 1), az = minus(a, 2);
    const Rational bx = minus(b, 0), by = minus(b, 1), bz = minus(b, 2);
    const Rational cx = minus(c, 0), cy = minus(c, 1), cz = minus(c, 2);
    return signOf(Rational(az * (bx * cy - cx * by) + bz * (cx * ay - ax * cy) + cz * (ax * by - bx * ay)));
}

}  // namespace zither::exact
