// Hulls from sorted points; turns by trying angles, those of edges among them.
#include "measure/footprint.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "measure/measure_tolerances.h"

namespace zither::measure {
namespace {

double turn(const Flat& a, const Flat& b, const Flat& c) {
    return (b.x() - a.x()) * (c.y() - a.y()) - (b.y() - a.y()) * (c.x() - a.x());
}

// Most points lie inside what eight outermost ones span, and cannot be corners (Akl & Toussaint 1978).
std::vector<Flat> outerOnes(std::vector<Flat> points) {
    constexpr std::array<std::array<double, 2>, 8> ways = {
        {{1, 0}, {1, 1}, {0, 1}, {-1, 1}, {-1, 0}, {-1, -1}, {0, -1}, {1, -1}}};
    std::array<Flat, 8> ends;
    for (std::size_t w = 0; w < ways.size(); ++w) {
        const Flat way(ways[w][0], ways[w][1]);
        ends[w] = *std::max_element(points.begin(), points.end(),
                                    [&](const Flat& a, const Flat& b) { return way.dot(a) < way.dot(b); });
    }
    std::erase_if(points, [&](const Flat& p) {
        for (std::size_t w = 0; w < ends.size(); ++w)
            if (!(turn(ends[w], ends[(w + 1) % ends.size()], p) > 0) && ends[w] != ends[(w + 1) % ends.size()])
                return false;
        return true;
    });
    points.insert(points.end(), ends.begin(), ends.end());
    return points;
}

// How much of a rectangle's sides a turned hull takes: 1 where it just fits.
double shareTaken(const std::vector<Flat>& hull, double angle, double width, double depth) {
    const double c = std::cos(angle);
    const double s = std::sin(angle);
    Flat low = Flat::Constant(std::numeric_limits<double>::infinity());
    Flat high = -low;
    for (const Flat& p : hull) {
        const Flat q(c * p.x() - s * p.y(), s * p.x() + c * p.y());
        low = low.cwiseMin(q);
        high = high.cwiseMax(q);
    }
    return std::max((high.x() - low.x()) / width, (high.y() - low.y()) / depth);
}

}  // namespace

std::vector<Flat> convexHull(std::vector<Flat> points) {
    if (points.empty()) return points;
    points = outerOnes(std::move(points));
    const auto before = [](const Flat& a, const Flat& b) { return a.x() < b.x() || (a.x() == b.x() && a.y() < b.y()); };
    std::sort(points.begin(), points.end(), before);
    points.erase(std::unique(points.begin(), points.end()), points.end());
    if (points.size() < 3) return points;
    std::vector<Flat> hull;
    const auto chain = [&](auto begin, auto end) {
        const std::size_t start = hull.size();
        for (auto it = begin; it != end; ++it) {
            while (hull.size() >= start + 2 && turn(hull[hull.size() - 2], hull.back(), *it) <= 0) hull.pop_back();
            hull.push_back(*it);
        }
        hull.pop_back();  // where the other chain begins
    };
    chain(points.begin(), points.end());
    chain(points.rbegin(), points.rend());
    return hull;
}

std::vector<Flat> footprintOf(const mesh::Mesh& m, const Eigen::Matrix3d& upright) {
    std::vector<std::uint8_t> used(m.positions.size(), 0);
    for (const mesh::Triangle& t : m.triangles)
        for (const mesh::VertexId v : t) used[v] = 1;
    std::vector<Flat> points;
    points.reserve(m.positions.size());
    for (std::size_t v = 0; v < used.size(); ++v)
        if (used[v]) points.emplace_back(upright.topRows<2>() * m.positions[v]);
    return convexHull(std::move(points));
}

bool isWithin(const std::vector<Flat>& hull, const Flat& p) {
    if (hull.size() < 3) return false;
    for (std::size_t i = 0; i < hull.size(); ++i)
        if (turn(hull[i], hull[(i + 1) % hull.size()], p) < 0) return false;
    return true;
}

std::optional<double> turnToFit(const std::vector<Flat>& hull, double width, double depth) {
    constexpr double half = std::numbers::pi;
    constexpr int steps = 360;
    for (const double straight : {0.0, half / 2})
        if (shareTaken(hull, straight, width, depth) <= 1 + tolerance::justFits) return straight;
    double best = 0;
    double least = std::numeric_limits<double>::infinity();
    const auto attempt = [&](double angle) {
        const double share = shareTaken(hull, angle, width, depth);
        if (!(share < least)) return;
        least = share;
        best = angle;
    };
    for (int i = 0; i < steps; ++i) attempt(half * i / steps);
    // With an edge along a side.
    constexpr std::size_t most = 1000;
    for (std::size_t i = 0; i < std::min(most, hull.size()); ++i) {
        const Flat along = hull[(i + 1) % hull.size()] - hull[i];
        const double angle = -std::atan2(along.y(), along.x());
        attempt(angle);
        attempt(angle + half / 2);
    }
    for (double step = half / steps; step > half / steps / 1000; step /= 2) {
        const double from = best;
        attempt(from - step / 2);
        attempt(from + step / 2);
    }
    if (!(least <= 1 + tolerance::justFits)) return std::nullopt;
    return std::remainder(best, half);
}

}  // namespace zither::measure
