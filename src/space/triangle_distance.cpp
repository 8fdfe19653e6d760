// Separating planes, then the nearest of corners and sides, and of edges (after Ericson 2005, 5.1.9).
#include "space/triangle_distance.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <limits>

#include "space/space_tolerances.h"
#include "space/triangle_tree.h"

namespace zither::space {
namespace {

using mesh::Point;

// Along n, of length 1 or a little more or less, the two are farther apart than `reach`. All are seen from a corner of
// the first, so that rounding is small against what is near.
bool apartAlong(const Point& n, const std::array<Point, 5>& seen, double rounding, double reach) {
    double least[2] = {0, std::numeric_limits<double>::infinity()};
    double most[2] = {0, -std::numeric_limits<double>::infinity()};
    for (unsigned k = 0; k < 5; ++k) {
        const unsigned side = k >= 2;
        const double d = n.dot(seen[k]);
        least[side] = std::min(least[side], d);
        most[side] = std::max(most[side], d);
    }
    const double far = reach + rounding;
    return least[1] - most[0] > far || least[0] - most[1] > far;
}

// Of the segments from p to q and from a to b, as shares of their lengths.
struct Shares {
    double first;
    double second;
};
Shares nearestOfEdges(const Point& p, const Point& q, const Point& a, const Point& b) {
    const Point u = q - p;
    const Point v = b - a;
    const Point w = p - a;
    const double uu = u.squaredNorm();
    const double vv = v.squaredNorm();
    const double uv = u.dot(v);
    const double uw = u.dot(w);
    const double vw = v.dot(w);
    const double det = uu * vv - uv * uv;
    double s = det > 0 ? std::clamp((uv * vw - vv * uw) / det, 0.0, 1.0) : 0;
    double t = vv > 0 ? (uv * s + vw) / vv : 0;
    if (t < 0 || t > 1) {
        t = std::clamp(t, 0.0, 1.0);
        s = uu > 0 ? std::clamp((uv * t - uw) / uu, 0.0, 1.0) : 0;
    }
    return {s, t};
}

double squaredBetweenEdges(const Point& p, const Point& q, const Point& a, const Point& b) {
    const auto [s, t] = nearestOfEdges(p, q, a, b);
    return (p - a + s * (q - p) - t * (b - a)).squaredNorm();
}

// Of a point of the triangle; of what is degenerate, shared between the first two.
std::array<double, 3> weightsOf(const Point& p, const Triangle3& t) {
    const Point n = (*t[1] - *t[0]).cross(*t[2] - *t[0]);
    const double squared = n.squaredNorm();
    if (!(squared > 0)) return {0.5, 0.5, 0};
    std::array<double, 3> weights;
    double sum = 0;
    for (unsigned k = 0; k < 3; ++k) {
        const Point& from = *t[(k + 1) % 3];
        weights[k] = std::max(0.0, n.dot((*t[(k + 2) % 3] - from).cross(p - from)) / squared);
        sum += weights[k];
    }
    for (double& w : weights) w /= sum;
    return weights;
}

}  // namespace

bool surelyFarther(const Triangle3& a, const Triangle3& b, double reach) {
    std::array<Point, 5> seen;
    for (unsigned k = 0; k < 2; ++k) seen[k] = *a[k + 1] - *a[0];
    for (unsigned k = 0; k < 3; ++k) seen[k + 2] = *b[k] - *a[0];
    double size = 0;
    for (const Point& p : seen) size = std::max(size, p.cwiseAbs().maxCoeff());
    // Of differences and of dot products of three; that n is not of length 1 exactly is no more.
    const double rounding = 32 * std::numeric_limits<double>::epsilon() * size;
    const auto apart = [&](const Point& n) {
        const double length = n.norm();
        return length > tolerance::shortestNormal && apartAlong(n / length, seen, rounding, reach);
    };
    const Point na = seen[0].cross(seen[1]);
    if (apart(na)) return true;
    const Point b1 = seen[3] - seen[2];
    const Point b2 = seen[4] - seen[2];
    const Point nb = b1.cross(b2);
    if (apart(nb)) return true;
    for (const Point& edge : {seen[0], Point(seen[1] - seen[0]), seen[1]})
        if (apart(na.cross(edge))) return true;
    for (const Point& edge : {b1, Point(b2 - b1), b2})
        if (apart(nb.cross(edge))) return true;
    return false;
}

double distanceSquared(const Triangle3& a, const Triangle3& b) {
    double least = std::numeric_limits<double>::infinity();
    for (unsigned k = 0; k < 3; ++k) {
        least = std::min(least, (nearestOnTriangle(*a[k], *b[0], *b[1], *b[2]) - *a[k]).squaredNorm());
        least = std::min(least, (nearestOnTriangle(*b[k], *a[0], *a[1], *a[2]) - *b[k]).squaredNorm());
        for (unsigned j = 0; j < 3; ++j)
            least = std::min(least, squaredBetweenEdges(*a[k], *a[(k + 1) % 3], *b[j], *b[(j + 1) % 3]));
    }
    return least;
}

NearestPoints nearestPoints(const Triangle3& a, const Triangle3& b) {
    NearestPoints best{};
    double least = std::numeric_limits<double>::infinity();
    const auto atCorner = [](unsigned k) {
        std::array<double, 3> weights{};
        weights[k] = 1;
        return weights;
    };
    for (unsigned k = 0; k < 3; ++k) {
        const Point onB = nearestOnTriangle(*a[k], *b[0], *b[1], *b[2]);
        if (const double d = (onB - *a[k]).squaredNorm(); d < least) {
            least = d;
            best = {atCorner(k), weightsOf(onB, b)};
        }
        const Point onA = nearestOnTriangle(*b[k], *a[0], *a[1], *a[2]);
        if (const double d = (onA - *b[k]).squaredNorm(); d < least) {
            least = d;
            best = {weightsOf(onA, a), atCorner(k)};
        }
    }
    for (unsigned k = 0; k < 3; ++k)
        for (unsigned j = 0; j < 3; ++j) {
            const unsigned nextK = (k + 1) % 3;
            const unsigned nextJ = (j + 1) % 3;
            const auto [s, t] = nearestOfEdges(*a[k], *a[nextK], *b[j], *b[nextJ]);
            const double d = (*a[k] - *b[j] + s * (*a[nextK] - *a[k]) - t * (*b[nextJ] - *b[j])).squaredNorm();
            if (!(d < least)) continue;
            least = d;
            best = {};
            best.a[k] = 1 - s;
            best.a[nextK] = s;
            best.b[j] = 1 - t;
            best.b[nextJ] = t;
        }
    return best;
}

}  // namespace zither::space
