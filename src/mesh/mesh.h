// The triangle surface as every room passes it on: plain arrays, tolerant of every defect.
#pragma once

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cstdint>
#include <limits>
#include <span>
#include <string>
#include <vector>

#include "mesh/id.h"

namespace zither::mesh {

using Point = Eigen::Vector3d;
using VertexId = Id<struct VertexTag>;
using TriangleId = Id<struct TriangleTag>;
using Triangle = std::array<VertexId, 3>;

// An indexed triangle surface. Positions are in the file's unit. A triangle's corners run counter-clockwise seen from
// outside. Nothing is promised about the surface: triangles may be collapsed, duplicated, flipped or crossing.
// Every index is below positions.size(); every position is finite.
struct Mesh {
    std::vector<Point> positions;
    std::vector<Triangle> triangles;
    // Region of each triangle, an index into regionNames; empty where the surface has a single unnamed region.
    std::vector<std::uint32_t> regions;
    std::vector<std::string> regionNames;
    // What the file called them: a format that tells the two apart is written the same again.
    enum class Regions { Groups, Objects } regionsAre = Regions::Groups;

    [[nodiscard]] std::size_t triangleCount() const { return triangles.size(); }
    [[nodiscard]] std::uint32_t regionOf(TriangleId t) const { return regions.empty() ? 0 : regions[t]; }
    [[nodiscard]] const Point& corner(TriangleId t, unsigned k) const { return positions[triangles[t][k]]; }
};

// Axis-aligned box; empty (min > max) until a point is added. Compared coordinate by coordinate: expressions over whole
// points would be instantiated in every source of the program.
struct Box {
    Point min = Point::Constant(std::numeric_limits<double>::infinity());
    Point max = Point::Constant(-std::numeric_limits<double>::infinity());

    void add(const Point& p) {
        min = min.cwiseMin(p);
        max = max.cwiseMax(p);
    }
    void add(const Box& other) {
        min = min.cwiseMin(other.min);
        max = max.cwiseMax(other.max);
    }
    [[nodiscard]] bool empty() const { return !(min.x() <= max.x()); }
    [[nodiscard]] Point centre() const { return empty() ? Point(Point::Zero()) : Point(0.5 * min + 0.5 * max); }
    [[nodiscard]] Point extent() const { return empty() ? Point(Point::Zero()) : Point(max - min); }
    [[nodiscard]] double diagonal() const { return extent().norm(); }
    // The largest coordinate, whatever its sign: what the step between values of a file depends on. Not of an empty
    // box.
    [[nodiscard]] double farthest() const { return std::max(min.cwiseAbs().maxCoeff(), max.cwiseAbs().maxCoeff()); }
    // So much larger on every side.
    [[nodiscard]] Box widened(double by) const {
        Box wide = *this;
        for (int k = 0; k < 3; ++k) {
            wide.min[k] -= by;
            wide.max[k] += by;
        }
        return wide;
    }
    [[nodiscard]] bool overlaps(const Box& other) const {
        for (int k = 0; k < 3; ++k)
            if (!(min[k] <= other.max[k] && other.min[k] <= max[k])) return false;
        return true;
    }
    [[nodiscard]] bool contains(const Box& other) const {
        for (int k = 0; k < 3; ++k)
            if (!(min[k] <= other.min[k] && other.max[k] <= max[k])) return false;
        return true;
    }
};

inline bool isCollapsed(const Triangle& t) {
    return t[0] == t[1] || t[1] == t[2] || t[2] == t[0];
}

inline bool hasCorner(const Triangle& t, VertexId v) {
    return t[0] == v || t[1] == v || t[2] == v;
}

// A corner of one is a corner of the other.
inline bool sharesCorner(const Triangle& a, const Triangle& b) {
    return hasCorner(b, a[0]) || hasCorner(b, a[1]) || hasCorner(b, a[2]);
}

// The same three vertices, whatever the direction; neither is collapsed.
inline bool sameCorners(const Triangle& a, const Triangle& b) {
    return hasCorner(b, a[0]) && hasCorner(b, a[1]) && hasCorner(b, a[2]);
}

inline Triangle sortedCorners(Triangle t) {
    std::sort(t.begin(), t.end());
    return t;
}

// Twice the area, along the outward normal. Zero for a degenerate triangle.
inline Point areaVector(const Mesh& m, TriangleId t) {
    const Point& a = m.corner(t, 0);
    return (m.corner(t, 1) - a).cross(m.corner(t, 2) - a);
}

inline Point centroid(const Mesh& m, TriangleId t) {
    return (m.corner(t, 0) + m.corner(t, 1) + m.corner(t, 2)) / 3.0;
}

inline Box boxOf(const Mesh& m, TriangleId t) {
    Box box;
    box.min = m.corner(t, 0).cwiseMin(m.corner(t, 1)).cwiseMin(m.corner(t, 2));
    box.max = m.corner(t, 0).cwiseMax(m.corner(t, 1)).cwiseMax(m.corner(t, 2));
    return box;
}

// Box of every vertex that a triangle uses.
Box boxOf(const Mesh& m);
// Of these triangles.
Box boxOf(const Mesh& m, std::span<const TriangleId> triangles);

// The triangles with keep[t] != 0, in their order, with their regions; vertices that no triangle uses are dropped,
// the others keep their order and their bits.
Mesh keepTriangles(const Mesh& m, const std::vector<std::uint8_t>& keep);

// Drops vertices that no triangle uses; order and bits of the rest are kept. Returns how many went.
std::size_t dropUnusedVertices(Mesh& m);

// Joins vertices of exactly equal coordinates (-0 equals +0) onto the first of them: triangles and vertices keep their
// numbers. Of each vertex: the first that equals it.
std::vector<VertexId> joinInPlace(Mesh& m);
// The same, and drops unused ones.
void joinEqualVertices(Mesh& m);

// Triangle for triangle the same corners, and vertices shared alike: at most the numbers of vertices differ. Regions
// are not looked at.
bool isSameSurface(const Mesh& a, const Mesh& b);

// Appends b to a: positions, triangles and regions (names are kept apart).
void append(Mesh& a, const Mesh& b);
// The same of parts of one surface, whose regions are its: names are not touched.
void appendPart(Mesh& a, const Mesh& b);

// "(1.5, 2, 3)": a place as people read it.
std::string placeText(const Point& p);

// Says what is inconsistent (an index or region out of range, a position that is not finite), or is empty.
std::string validate(const Mesh& m);

}  // namespace zither::mesh
