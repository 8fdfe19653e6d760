// Splitting polygons into triangles as they are read.
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "io/formats.h"

namespace zither::io {
namespace {

using mesh::Point;
using mesh::VertexId;
using Flat = Eigen::Vector2d;

// Newell's normal: right for concave and for slightly bent polygons.
Point newellNormal(std::span<const VertexId> polygon, const std::vector<Point>& positions) {
    Point normal = Point::Zero();
    for (std::size_t i = 0; i < polygon.size(); ++i)
        normal += (positions[polygon[i]] - positions[polygon[0]])
                      .cross(positions[polygon[(i + 1) % polygon.size()]] - positions[polygon[0]]);
    return normal;
}

std::vector<Flat> projected(std::span<const VertexId> polygon, const std::vector<Point>& positions) {
    const Point normal = newellNormal(polygon, positions);
    int drop = 0;
    normal.cwiseAbs().maxCoeff(&drop);
    const int u = (drop + 1) % 3;
    const int v = (drop + 2) % 3;
    const double sign = normal[drop] < 0 ? -1 : 1;
    std::vector<Flat> flat;
    flat.reserve(polygon.size());
    for (VertexId i : polygon) flat.emplace_back(positions[i][u], sign * positions[i][v]);
    return flat;
}

double turn(const Flat& a, const Flat& b, const Flat& c) {
    return (b.x() - a.x()) * (c.y() - a.y()) - (b.y() - a.y()) * (c.x() - a.x());
}

bool isEar(const std::vector<Flat>& flat, const std::vector<std::size_t>& ring, std::size_t i) {
    const std::size_t n = ring.size();
    const Flat& a = flat[ring[(i + n - 1) % n]];
    const Flat& b = flat[ring[i]];
    const Flat& c = flat[ring[(i + 1) % n]];
    if (!(turn(a, b, c) > 0)) return false;
    return std::none_of(ring.begin(), ring.end(), [&](std::size_t j) {
        const Flat& p = flat[j];
        if (p == a || p == b || p == c) return false;
        return turn(a, b, p) >= 0 && turn(b, c, p) >= 0 && turn(c, a, p) >= 0;
    });
}

}  // namespace

void splitPolygon(std::span<const VertexId> polygon, const std::vector<Point>& positions,
                  const std::function<void(VertexId, VertexId, VertexId)>& use) {
    if (polygon.size() == 3) {
        use(polygon[0], polygon[1], polygon[2]);
        return;
    }
    const std::vector<Flat> flat = projected(polygon, positions);
    std::vector<std::size_t> ring(polygon.size());
    for (std::size_t i = 0; i < ring.size(); ++i) ring[i] = i;
    std::size_t from = 0;
    while (ring.size() > 3) {
        const std::size_t n = ring.size();
        std::size_t ear = n;
        for (std::size_t k = 0; k < n && ear == n; ++k)
            if (isEar(flat, ring, (from + k) % n)) ear = (from + k) % n;
        if (ear == n) break;
        use(polygon[ring[(ear + n - 1) % n]], polygon[ring[ear]], polygon[ring[(ear + 1) % n]]);
        ring.erase(ring.begin() + static_cast<std::ptrdiff_t>(ear));
        from = ear;
    }
    for (std::size_t i = 2; i < ring.size(); ++i) use(polygon[ring[0]], polygon[ring[i - 1]], polygon[ring[i]]);
}

std::string unusableRemark(std::size_t count) {
    return std::to_string(count) + (count == 1 ? " triangle was" : " triangles were") +
           " left out: a corner is not a finite number or does not exist";
}

}  // namespace zither::io
