// Vertices projected onto a plane; across an axis onto one coordinate.
#include "shape/flatten.h"

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

#include "holes/rims.h"
#include "mesh/edges.h"

namespace zither::shape {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

struct Plane {
    Point at;
    Point normal;  // of length 1
};

// Through the middle of weighted points, across the direction in which they spread least.
Plane planeOf(const std::vector<std::pair<Point, double>>& points) {
    Point middle = Point::Zero();
    double total = 0;
    for (const auto& [p, weight] : points) {
        middle += weight * p;
        total += weight;
    }
    middle /= total;
    Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
    for (const auto& [p, weight] : points) spread += weight * (p - middle) * (p - middle).transpose();
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver(spread);
    return {middle, solver.eigenvectors().col(0)};
}

// Across an axis where it nearly is.
Plane squared(Plane plane, mesh::Precision precision) {
    constexpr double nearlyDeg = 1;
    for (int k = 0; k < 3; ++k)
        if (std::abs(plane.normal[k]) > std::cos(nearlyDeg * std::numbers::pi / 180)) {
            plane.normal = plane.normal[k] > 0 ? Point(Point::Unit(k)) : Point(-Point::Unit(k));
            plane.at = mesh::rounded(precision, plane.at);
        }
    return plane;
}

// Brings the vertices to the plane; none where one of them is farther than that.
bool bring(Mesh& m, const std::set<VertexId>& vertices, const Plane& plane, const FlattenOptions& options,
           Flattened& result) {
    FlatPlace place{.at = plane.at, .normal = plane.normal, .vertices = vertices.size()};
    for (VertexId v : vertices)
        place.farthestMoved = std::max(place.farthestMoved, std::abs(plane.normal.dot(m.positions[v] - plane.at)));
    if (vertices.empty() || place.farthestMoved > options.within) return false;
    const bool acrossAxis = plane.normal.cwiseAbs().maxCoeff() == 1;
    for (VertexId v : vertices) {
        Point& p = m.positions[v];
        if (acrossAxis) {
            for (int k = 0; k < 3; ++k)
                if (plane.normal[k] != 0) p[k] = plane.at[k];
            continue;
        }
        p = mesh::rounded(options.precision, p - plane.normal * plane.normal.dot(p - plane.at));
        place.farthestOff = std::max(place.farthestOff, std::abs(plane.normal.dot(p - plane.at)));
    }
    result.places.push_back(place);
    return true;
}

}  // namespace

Flattened flattenBase(const check::Surveyed& s, const mesh::Pick& pick, const FlattenOptions& options) {
    const Mesh& m = s.mesh();
    Flattened result{m, {}};
    double lowest = std::numeric_limits<double>::infinity();
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        for (unsigned k = 0; k < 3; ++k) lowest = std::min(lowest, -options.down.dot(m.corner(t, k)));
    const std::vector<std::uint8_t> chosen = pick.mask(m);
    const double facing = std::cos(std::numbers::pi / 6);
    std::set<VertexId> vertices;
    std::vector<std::pair<Point, double>> points;
    double height = 0;
    double total = 0;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        if (!chosen[t]) continue;
        const Point n = mesh::areaVector(m, t);
        const double area = n.norm();
        if (pick.everything()) {
            if (n.dot(options.down) < facing * area) continue;
            bool low = true;
            for (unsigned k = 0; k < 3; ++k) low &= -options.down.dot(m.corner(t, k)) <= lowest + options.within;
            if (!low) continue;
        }
        for (unsigned k = 0; k < 3; ++k) {
            vertices.insert(m.triangles[t][k]);
            points.emplace_back(m.corner(t, k), area);
        }
        height += area * options.down.dot(mesh::centroid(m, t));
        total += area;
    }
    if (vertices.empty() || !(total > 0)) return result;
    const Plane plane = pick.everything() ? Plane{height / total * options.down, options.down} : planeOf(points);
    if (!bring(result.mesh, vertices, squared(plane, options.precision), options, result)) ++result.tooUneven;
    return result;
}

Flattened flattenRims(const check::Surveyed& s, const mesh::Pick& pick, const FlattenOptions& options) {
    const Mesh& m = s.mesh();
    Flattened result{m, {}};
    const std::vector<std::uint8_t> chosen = pick.mask(m);
    std::size_t notClosed = 0;
    for (const holes::Rim& rim : holes::rimsOf(m, s.edges(), notClosed)) {
        std::set<VertexId> vertices;
        std::vector<std::pair<Point, double>> points;
        bool picked = false;
        for (const mesh::HalfEdge h : rim) {
            picked |= chosen[mesh::triangleOf(h)] != 0;
            const Point& a = m.positions[mesh::fromVertex(m, h)];
            const Point& b = m.positions[mesh::toVertex(m, h)];
            vertices.insert({mesh::fromVertex(m, h), mesh::toVertex(m, h)});
            points.emplace_back(a, (b - a).norm());
            points.emplace_back(b, (b - a).norm());
        }
        if (!picked || points.empty()) continue;
        if (!bring(result.mesh, vertices, squared(planeOf(points), options.precision), options, result))
            ++result.tooUneven;
    }
    return result;
}

}  // namespace zither::shape
