// Seeded assemblies of solids that cross, touch and coincide in every way, and slow independent measures of what they
// enclose.
#pragma once

#include <Eigen/Geometry>
#include <cmath>
#include <optional>
#include <string>
#include <vector>

#include "tests/core/surfaces.h"

namespace zither::tests {

struct Assembly {
    std::string kind;
    Mesh mesh;
    bool closed = true;  // every operand is
    bool wide = false;   // coordinates need 64 bits
};

inline Mesh moved(Mesh m, const Eigen::Affine3d& by, bool wide) {
    for (Point& p : m.positions) {
        p = by * p;
        if (!wide) p = rig::rounded(p);
    }
    mesh::joinEqualVertices(m);
    return m;
}

// Like append, but corners of equal coordinates become one vertex, as when they are read from a file.
inline Mesh assembled(const std::vector<Mesh>& parts) {
    Mesh all;
    for (const Mesh& p : parts) mesh::append(all, p);
    mesh::joinEqualVertices(all);
    return all;
}

inline Mesh cylinder(double radius, double height, std::size_t sides) {
    return fromSoup(rig::strut(Point(0, 0, -height / 2), Point(0, 0, height / 2), radius, sides, 1));
}

class AssemblyMaker {
public:
    explicit AssemblyMaker(std::uint64_t seed) : random_(seed) {}

    Assembly make(std::size_t kind) {
        Assembly a;
        std::vector<Mesh> parts;
        const std::size_t count = 2 + random_.below(5);
        switch (kind % 14) {
            case 0:
                a.kind = "rotated boxes";
                for (std::size_t i = 0; i < count; ++i)
                    parts.push_back(placed(centredBox(), false, Point::Zero(), 1.5));
                break;
            case 1:
                a.kind = "boxes on an integer grid";
                for (std::size_t i = 0; i < count + 2; ++i) parts.push_back(gridBox(4));
                break;
            case 2:
                a.kind = "rotated cylinders";
                for (std::size_t i = 0; i < count; ++i)
                    parts.push_back(placed(cylinder(0.5, 4, 5 + random_.below(12)), false, Point::Zero(), 1));
                break;
            case 3:
                a.kind = "spheres";
                for (std::size_t i = 0; i < count; ++i)
                    parts.push_back(
                        placed(sphere(1, 8 + random_.below(8), 5 + random_.below(5)), false, Point::Zero(), 1));
                break;
            case 4:
                a.kind = "mixed, far from the origin, 32 bits";
                for (std::size_t i = 0; i < count; ++i)
                    parts.push_back(placed(anySolid(), false, Point(1e4, -1e4, 1e4), 0.5));
                break;
            case 5:
                a.kind = "mixed, far from the origin, 64 bits";
                a.wide = true;
                for (std::size_t i = 0; i < count; ++i)
                    parts.push_back(placed(anySolid(), true, Point(1e6, 1e6, -1e6), 0.5));
                break;
            case 6: {
                a.kind = "copies on top of each other";
                const Mesh m = placed(anySolid(), false, Point::Zero(), 1);
                parts = {m, m, placed(anySolid(), false, Point::Zero(), 1)};
                if (random_.below(2) == 0) parts.push_back(m);
                break;
            }
            case 7: {
                a.kind = "a copy one unit in the last place away";
                const Mesh m = placed(anySolid(), false, Point::Zero(), 1);
                Mesh copy = m;
                const auto axis = static_cast<int>(random_.below(3));
                for (Point& p : copy.positions)
                    p[axis] = static_cast<double>(std::nextafter(static_cast<float>(p[axis]), 1e30F));
                parts = {m, copy};
                break;
            }
            case 8: {
                a.kind = "chain of 100 boxes";
                Point at = Point::Zero();
                for (int i = 0; i < 100; ++i) {
                    Eigen::Affine3d by = Eigen::Translation3d(at) * rotation();
                    parts.push_back(moved(centredBox(), by, false));
                    at += 0.8 * random_.direction();
                }
                break;
            }
            case 9:
                a.kind = "an inside-out operand";
                for (std::size_t i = 0; i < count; ++i) parts.push_back(placed(anySolid(), false, Point::Zero(), 0.5));
                parts.push_back(
                    flipped(random_.below(2) == 0 ? placed(anySolid(), false, Point::Zero(), 0.5) : parts[0]));
                break;
            case 10: {
                a.kind = "nested cavities";
                double size = 4;
                for (int i = 0; i < 4; ++i, size *= 0.6) {
                    const Mesh m =
                        moved(box(Point::Constant(-size), Point::Constant(size)), Eigen::Affine3d::Identity(), false);
                    parts.push_back(i % 2 == 0 ? m : flipped(m));
                }
                parts.push_back(placed(anySolid(), false, Point::Zero(), 2));
                break;
            }
            case 11: {
                a.kind = "open operands";
                a.closed = false;
                for (std::size_t i = 0; i < count; ++i) {
                    Mesh m = placed(anySolid(), false, Point::Zero(), 1);
                    if (i % 2 == 0) m = without(m, {static_cast<mesh::TriangleId>(random_.below(m.triangles.size()))});
                    parts.push_back(m);
                }
                break;
            }
            case 12:
                a.kind = "boxes on an integer grid, far from the origin, 32 bits";
                for (std::size_t i = 0; i < count + 2; ++i)
                    parts.push_back(moved(
                        gridBox(4), Eigen::Affine3d(Eigen::Translation3d(8192, 8192, -8192) * Eigen::Scaling(1.0 / 16)),
                        false));
                break;
            default:
                a.kind = "prisms on an integer grid";
                for (std::size_t i = 0; i < count; ++i) parts.push_back(gridPrism(5));
                break;
        }
        a.mesh = assembled(parts);
        return a;
    }

private:
    static Mesh centredBox() { return box(Point::Constant(-0.5), Point::Constant(0.5)); }

    Eigen::Affine3d rotation() {
        return Eigen::Affine3d(Eigen::AngleAxisd(random_.between(0, 6.3), Eigen::Vector3d(random_.direction())));
    }
    Mesh placed(const Mesh& m, bool wide, const Point& at, double spread) {
        return moved(m, Eigen::Translation3d(at + spread * random_.uniform() * random_.direction()) * rotation(), wide);
    }
    Mesh anySolid() {
        switch (random_.below(3)) {
            case 0:
                return centredBox();
            case 1:
                return cylinder(0.4, 1.5, 4 + random_.below(8));
            default:
                return sphere(0.6, 6 + random_.below(8), 4 + random_.below(5));
        }
    }
    Mesh gridBox(std::size_t side) {
        Point low, high;
        for (int k = 0; k < 3; ++k) {
            low[k] = static_cast<double>(random_.below(side));
            high[k] = low[k] + 1 + static_cast<double>(random_.below(side - 1));
        }
        return box(low, high);
    }
    // A triangular prism with corners on the grid, along any axis.
    Mesh gridPrism(std::size_t side) {
        for (;;) {
            std::array<Point, 3> base;
            for (Point& p : base)
                p = Point(static_cast<double>(random_.below(side)), static_cast<double>(random_.below(side)), 0);
            const double turn = (base[1] - base[0]).cross(base[2] - base[0]).z();
            if (turn == 0) continue;
            if (turn < 0) std::swap(base[1], base[2]);
            const double low = static_cast<double>(random_.below(side));
            const double high = low + 1 + static_cast<double>(random_.below(side - 1));
            Mesh m;
            for (const double z : {low, high})
                for (const Point& p : base) m.positions.emplace_back(p.x(), p.y(), z);
            m.triangles = {{0, 2, 1}, {3, 4, 5}};
            for (mesh::VertexId k = 0; k < 3; ++k) {
                const mesh::VertexId n = (k + 1) % 3;
                m.triangles.push_back({k, n, n + 3});
                m.triangles.push_back({k, n + 3, k + 3});
            }
            const std::size_t turns = random_.below(3);
            for (Point& p : m.positions)
                for (std::size_t i = 0; i < turns; ++i) p = Point(p.y(), p.z(), p.x());
            return m;
        }
    }

    rig::Random random_;
};

// Stretches of a line on which the winding number is positive; nothing where the line comes too near to an edge to
// tell.
inline std::optional<std::vector<std::pair<double, double>>> insideAlong(const Mesh& m, const Point& origin,
                                                                         const Point& direction) {
    std::vector<std::pair<double, int>> hits;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) {
        const Point a = m.corner(t, 0) - origin;
        const Point b = m.corner(t, 1) - origin;
        const Point c = m.corner(t, 2) - origin;
        const double u = direction.dot(b.cross(c));
        const double v = direction.dot(c.cross(a));
        const double w = direction.dot(a.cross(b));
        const double sum = u + v + w;
        if ((u > 0 && v > 0 && w > 0) || (u < 0 && v < 0 && w < 0)) {
            const double along = (u * a + v * b + w * c).dot(direction) / sum;
            hits.emplace_back(along, sum > 0 ? -1 : 1);
        }
    }
    std::sort(hits.begin(), hits.end());
    std::vector<std::pair<double, double>> inside;
    int winding = 0;
    for (const auto& [at, change] : hits) {
        const bool before = winding > 0;
        winding += change;
        if (!before && winding > 0) inside.emplace_back(at, at);
        if (before && winding <= 0) inside.back().second = at;
    }
    if (winding != 0) return std::nullopt;
    return inside;
}

}  // namespace zither::tests
