// Both parameters as fractions.
#include "exact/along_line.h"

#include <array>
#include <boost/multiprecision/gmp.hpp>

namespace zither::exact {
namespace {

using Rational = boost::multiprecision::mpq_rational;
using Vector = std::array<Rational, 3>;

Vector vectorOf(const Point3& p) {
    return {Rational(p[0]), Rational(p[1]), Rational(p[2])};
}
Vector difference(const Vector& a, const Vector& b) {
    return {a[0] - b[0], a[1] - b[1], a[2] - b[2]};
}
Rational dot(const Vector& a, const Vector& b) {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}
Vector cross(const Vector& a, const Vector& b) {
    return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
}

Rational parameter(const Vector& origin, const Vector& direction, const Corner3& plane) {
    const Vector corner = vectorOf(*plane[0]);
    const Vector normal = cross(difference(vectorOf(*plane[1]), corner), difference(vectorOf(*plane[2]), corner));
    return dot(normal, difference(corner, origin)) / dot(normal, direction);
}

}  // namespace

int compareAlongLine(const Point3& origin, const Point3& direction, const Corner3& a, const Corner3& b) {
    const Vector from = vectorOf(origin);
    const Vector along = vectorOf(direction);
    return parameter(from, along, a).compare(parameter(from, along, b));
}

}  // namespace zither::exact
