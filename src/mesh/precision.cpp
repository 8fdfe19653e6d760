// Rounding through memory, so that no wider register hides it.
#include "mesh/precision.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace zither::mesh {

mesh::Point rounded(Precision precision, const mesh::Point& p) {
    if (precision == Precision::Double) return p;
    mesh::Point result;
    for (int k = 0; k < 3; ++k) {
        volatile float stored = static_cast<float>(p[k]);
        result[k] = static_cast<double>(stored);
    }
    return result;
}

bool fitsPrecision(const mesh::Mesh& m, Precision precision) {
    return precision == Precision::Double ||
           std::all_of(m.positions.begin(), m.positions.end(),
                       [&](const mesh::Point& p) { return rounded(precision, p) == p; });
}

Precision precisionOf(const mesh::Mesh& m) {
    return fitsPrecision(m, Precision::Single) ? Precision::Single : Precision::Double;
}

double roundAndJoin(Mesh& m, Precision precision) {
    double farthest = 0;
    for (Point& p : m.positions) {
        const Point before = p;
        p = rounded(precision, before);
        farthest = std::max(farthest, (p - before).norm());
    }
    joinInPlace(m);
    return farthest;
}

double unitInLastPlace(Precision precision, double magnitude) {
    if (precision == Precision::Double)
        return std::nextafter(magnitude, std::numeric_limits<double>::infinity()) - magnitude;
    const auto f = static_cast<float>(magnitude);
    return static_cast<double>(std::nextafter(f, std::numeric_limits<float>::infinity())) - static_cast<double>(f);
}

}  // namespace zither::mesh
