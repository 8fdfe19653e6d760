// Expansions where the filter cannot tell; rationals where expansions could over- or underflow.
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

}  // namespace

int detail::orient2dExact(const Point2& a, const Point2& b, const Point2& c) {
    if (!expansionsAreSafe({a.x(), a.y(), b.x(), b.y(), c.x(), c.y()})) return orient2dRational(a, b, c);
    const auto left = product(difference(a.x(), c.x()), difference(b.y(), c.y()));
    const auto right = product(difference(a.y(), c.y()), difference(b.x(), c.x()));
    return sum(left, right, -1).sign();
}

namespace {

// ax * by - ay * bx
Expansion<16> minor(const Expansion<2>& ax, const Expansion<2>& ay, const Expansion<2>& bx, const Expansion<2>& by) {
    return sum(product(ax, by), product(ay, bx), -1);
}

}  // namespace

int detail::orient3dExact(const Point3& a, const Point3& b, const Point3& c, const Point3& d) {
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
