// Large surfaces for benchmarks, made on demand.
#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numbers>

#include "demo/rig.h"

namespace rig {
namespace {

// Between patches of the patched casing, at most.
constexpr double crackWidth = 0.008;

}  // namespace

Soup casing(std::size_t triangles) {
    constexpr double pi = std::numbers::pi;
    const auto nu = static_cast<std::size_t>(std::sqrt(static_cast<double>(triangles) / 2) * 1.25);
    const std::size_t nv = triangles / (2 * nu);
    return tube(
        nu, nv,
        [&](double u, double v) {
            const double a = 2 * pi * u;
            const double r = 180 + 22 * std::sin(3 * a + 9 * v) + 14 * std::cos(7 * pi * v) +
                             1.3 * std::sin(41 * a) * std::sin(37 * pi * v);
            return Point(r * std::cos(a), r * std::sin(a), 520 * v);
        },
        Point(0, 0, -6), Point(0, 0, 526));
}

Soup bossedCasing(std::size_t triangles) {
    constexpr std::size_t bosses = 40;
    constexpr std::size_t sides = 48;
    constexpr std::size_t segments = 3;
    constexpr std::size_t each = 2 * sides * segments + 2 * sides;
    Soup s = casing(triangles - std::min(triangles / 2, bosses * each));
    Random random(808);
    for (std::size_t i = 0; i < bosses; ++i) {
        const double a = random.between(0, 2 * std::numbers::pi);
        const Point foot(0, 0, random.between(40, 480));
        const Point outwards(std::cos(a), std::sin(a), random.between(-0.2, 0.2));
        s.append(strut(foot + 120 * outwards, foot + 232 * outwards, random.between(8, 16), sides, segments));
    }
    return s;
}

Soup patchedCasing(std::size_t triangles) {
    constexpr std::size_t around = 10;
    constexpr std::size_t along = 6;
    constexpr std::size_t bosses = 12;
    const Soup whole = casing(triangles - std::min(triangles / 2, bosses * 400));
    Random random(909);
    std::vector<Point> shift;
    std::vector<bool> flip;
    for (std::size_t i = 0; i < around * along; ++i) {
        shift.push_back(crackWidth / 2 * random.direction());
        flip.push_back(i % 7 == 3);
    }
    Soup s;
    for (auto t : whole.triangles) {
        const Point c = (t[0] + t[1] + t[2]) / 3;
        const double turn = (std::atan2(c.y(), c.x()) + std::numbers::pi) / (2 * std::numbers::pi);
        const auto u = std::min(around - 1, static_cast<std::size_t>(turn * around));
        const auto v = static_cast<std::size_t>(std::clamp(c.z() / 520 * along, 0.0, static_cast<double>(along) - 1));
        const std::size_t patch = u * along + v;
        for (Point& p : t) p = rounded(p + shift[patch]);
        if (flip[patch]) std::swap(t[1], t[2]);
        s.triangles.push_back(t);
    }
    for (std::size_t i = 0; i < bosses; ++i) {
        const double a = random.between(0, 2 * std::numbers::pi);
        const Point foot(0, 0, random.between(60, 460));
        const Point outwards(std::cos(a), std::sin(a), random.between(-0.2, 0.2));
        s.append(strut(foot + 120 * outwards, foot + 232 * outwards, random.between(8, 16), 48, 3));
    }
    return s;
}

Soup scannedCasing(std::size_t triangles) {
    constexpr std::size_t holes = 200;
    constexpr std::size_t specks = 300;
    constexpr std::size_t spikes = 50;
    const Soup whole = casing(triangles);
    Random random(1010);
    const auto place = [&] { return whole.triangles[random.below(whole.triangles.size())][0]; };
    // Places to tear, in cells so that each triangle looks at a few only.
    std::map<std::array<int, 3>, std::vector<std::pair<Point, double>>> torn;
    constexpr double cell = 20;
    const auto keyOf = [&](const Point& p) {
        return std::array<int, 3>{static_cast<int>(std::floor(p.x() / cell)),
                                  static_cast<int>(std::floor(p.y() / cell)),
                                  static_cast<int>(std::floor(p.z() / cell))};
    };
    for (std::size_t i = 0; i < holes; ++i) {
        const Point p = place();
        const double radius = random.between(1.5, 6);
        const std::array<int, 3> key = keyOf(p);
        for (int x = -1; x <= 1; ++x)
            for (int y = -1; y <= 1; ++y)
                for (int z = -1; z <= 1; ++z) torn[{key[0] + x, key[1] + y, key[2] + z}].emplace_back(p, radius);
    }
    std::map<std::array<double, 3>, Point> spiked;
    while (spiked.size() < spikes) {
        const Point p = place();
        spiked[{p.x(), p.y(), p.z()}] = rounded(p + random.vector(2, 9));
    }
    Soup s;
    for (auto t : whole.triangles) {
        const Point c = (t[0] + t[1] + t[2]) / 3;
        const auto near = torn.find(keyOf(c));
        if (near != torn.end() && std::any_of(near->second.begin(), near->second.end(), [&](const auto& hole) {
                return (c - hole.first).norm() < hole.second * (1 + 0.2 * std::sin(9 * c.x() + 7 * c.y()));
            }))
            continue;
        for (Point& p : t)
            if (const auto found = spiked.find({p.x(), p.y(), p.z()}); found != spiked.end()) p = found->second;
        s.triangles.push_back(t);
    }
    for (std::size_t i = 0; i < specks; ++i) {
        const Point at = place() + random.vector(8, 40);
        const Point a = random.direction();
        const Point b = random.direction();
        s.add(rounded(at), rounded(at + 0.6 * a), rounded(at + 0.6 * b));
        s.add(rounded(at), rounded(at + 0.6 * b), rounded(at - 0.5 * a));
    }
    return s;
}

Soup lattice(std::size_t triangles) {
    constexpr std::size_t sides = 8;
    constexpr std::size_t segments = 4;
    constexpr std::size_t each = 2 * sides * segments + 2 * sides;
    const auto struts = triangles / each;
    // A cubic lattice has three struts a node.
    const auto n = static_cast<int>(std::ceil(std::cbrt(static_cast<double>(struts) / 3)));
    Soup s;
    Random random(707);
    std::size_t count = 0;
    for (int x = 0; x < n; ++x)
        for (int y = 0; y < n; ++y)
            for (int z = 0; z < n; ++z)
                for (int axis = 0; axis < 3 && count < struts; ++axis, ++count) {
                    const Point from = 10 * Point(x, y, z) + 0.4 * random.direction();
                    Point to = 10 * Point(x, y, z) + 0.4 * random.direction();
                    to[axis] += 11;
                    s.append(strut(from, to, 1.2, sides, segments));
                }
    return s;
}

std::optional<Soup> largeSurface(std::string_view kind, std::size_t triangles) {
    constexpr std::pair<std::string_view, Soup (*)(std::size_t)> kinds[] = {
        {"casing", casing},
        {"bossed-casing", bossedCasing},
        {"patched-casing", patchedCasing},
        {"scanned-casing", scannedCasing},
        {"lattice", lattice},
    };
    for (const auto& [name, make] : kinds)
        if (kind == name) return make(triangles);
    return std::nullopt;
}

}  // namespace rig
