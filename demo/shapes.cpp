// Shapes as soups of triangles, rounded as a file will hold them.
#include "demo/shapes.h"

#include <Eigen/Geometry>
#include <cmath>
#include <cstring>
#include <fstream>
#include <numbers>

namespace rig {

std::uint64_t Random::next() {
    state_ += 0x9E3779B97F4A7C15ULL;
    std::uint64_t z = state_;
    z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9ULL;
    z = (z ^ (z >> 27)) * 0x94D049BB133111EBULL;
    return z ^ (z >> 31);
}

double Random::uniform() {
    return static_cast<double>(next() >> 11) * 0x1p-53;
}

Point Random::direction() {
    const double z = between(-1, 1);
    const double angle = between(0, 2 * std::numbers::pi);
    const double r = std::sqrt(1 - z * z);
    return {r * std::cos(angle), r * std::sin(angle), z};
}

Point rounded(const Point& p) {
    return p.cast<float>().cast<double>();
}

Soup tube(std::size_t nu, std::size_t nv, const std::function<Point(double u, double v)>& at, const Point& start,
          const Point& end) {
    std::vector<Point> grid(nu * nv);
    for (std::size_t j = 0; j < nv; ++j)
        for (std::size_t i = 0; i < nu; ++i)
            grid[j * nu + i] = rounded(at(static_cast<double>(i) / static_cast<double>(nu),
                                          static_cast<double>(j) / static_cast<double>(nv - 1)));
    Soup s;
    const auto g = [&](std::size_t i, std::size_t j) { return grid[j * nu + i % nu]; };
    for (std::size_t j = 0; j + 1 < nv; ++j)
        for (std::size_t i = 0; i < nu; ++i) s.addQuad(g(i, j), g(i + 1, j), g(i + 1, j + 1), g(i, j + 1));
    for (std::size_t i = 0; i < nu; ++i) {
        s.add(rounded(start), g(i + 1, 0), g(i, 0));
        s.add(rounded(end), g(i, nv - 1), g(i + 1, nv - 1));
    }
    return s;
}

Soup strut(const Point& a, const Point& b, double radius, std::size_t sides, std::size_t segments) {
    const Point axis = (b - a).normalized();
    const Point side = axis.unitOrthogonal();
    const Point other = axis.cross(side);
    return tube(
        sides, segments + 1,
        [&](double u, double v) {
            const double angle = 2 * std::numbers::pi * u;
            return Point(a + v * (b - a) + radius * (std::cos(angle) * side + std::sin(angle) * other));
        },
        a, b);
}

Soup sphere(const Point& centre, double radius, std::size_t nu, std::size_t nv) {
    return tube(
        nu, nv,
        [&](double u, double v) {
            const double polar =
                std::numbers::pi * (1 - (v * static_cast<double>(nv - 1) + 1) / static_cast<double>(nv + 1));
            const double angle = 2 * std::numbers::pi * u;
            return Point(centre + radius * Point(std::sin(polar) * std::cos(angle), std::sin(polar) * std::sin(angle),
                                                 std::cos(polar)));
        },
        centre - Point(0, 0, radius), centre + Point(0, 0, radius));
}

Soup flipped(const Soup& s) {
    Soup result = s;
    for (auto& t : result.triangles) std::swap(t[1], t[2]);
    return result;
}

std::size_t punch(Soup& s, const Point& centre, double radius, const Point& towards) {
    return std::erase_if(s.triangles, [&](const auto& t) {
        const bool faces = towards.isZero() || (t[1] - t[0]).cross(t[2] - t[0]).dot(towards) > 0;
        return faces && ((t[0] + t[1] + t[2]) / 3 - centre).norm() < radius;
    });
}

void writeStl(const Soup& s, const std::string& file) {
    std::string bytes = "Skerry rig, made-up sample data";
    bytes.resize(80, ' ');
    const auto count = static_cast<std::uint32_t>(s.triangles.size());
    bytes.append(reinterpret_cast<const char*>(&count), 4);
    for (const auto& t : s.triangles) {
        Eigen::Vector3f record[4];
        const Point n = (t[1] - t[0]).cross(t[2] - t[0]);
        record[0] = (n.norm() > 0 ? Point(n.normalized()) : Point(Point::Zero())).cast<float>();
        for (std::size_t k = 0; k < 3; ++k) record[k + 1] = t[k].cast<float>();
        bytes.append(reinterpret_cast<const char*>(record), 48);
        bytes.append(2, '\0');
    }
    std::ofstream(file, std::ios::binary).write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
}

}  // namespace rig
