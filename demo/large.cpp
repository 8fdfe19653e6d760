// Large surfaces for benchmarks, made on demand.
#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "demo/rig.h"

namespace rig {

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

}  // namespace rig
