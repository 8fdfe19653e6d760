// Corners that hang together across edges share a copy of their vertex.
#include "repair/thicken.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "mesh/disjoint_sets.h"
#include "mesh/edges.h"
#include "mesh/parallel.h"

namespace zither::repair {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

// The way from a vertex to its copy, for a thickness of 1: n_i . v = -1 for the planes around it, in the least squares,
// held near the mean normal where they say nothing.
Point wayBack(const std::vector<std::pair<Point, double>>& normals) {
    Point mean = Point::Zero();
    for (const auto& [n, weight] : normals) mean += weight * n;
    if (mean.isZero()) mean = normals.front().first;
    mean.normalize();
    Eigen::Matrix3d left = Eigen::Matrix3d::Zero();
    Point right = Point::Zero();
    double total = 0;
    for (const auto& [n, weight] : normals) {
        left += weight * n * n.transpose();
        right += weight * n;
        total += weight;
    }
    constexpr double hold = 0.01;  // far below the weight of planes, far above rounding
    left += hold * total * Eigen::Matrix3d::Identity();
    right += hold * total * mean;
    Point way = left.ldlt().solve(right);
    constexpr double farthest = 2;
    if (const double length = way.norm(); length > farthest) way *= farthest / length;
    // Where the surface folds back there is no way that leads behind all of it.
    return way.dot(mean) > 0.1 ? Point(-way) : Point(-mean);
}

}  // namespace

Thickened thickened(const Mesh& sheets, double thickness, mesh::Precision precision) {
    Thickened out;
    out.mesh.positions = sheets.positions;
    out.mesh.regionNames = sheets.regionNames;
    const auto add = [&](const mesh::Triangle& t, TriangleId beside, bool own) {
        out.mesh.triangles.push_back(t);
        out.sourceOf.push_back(own ? beside : TriangleId(mesh::noIndex));
        if (!sheets.regions.empty()) out.mesh.regions.push_back(sheets.regions[beside]);
    };
    for (TriangleId t = 0; t < sheets.triangles.size(); ++t)
        if (!mesh::isCollapsed(sheets.triangles[t])) add(sheets.triangles[t], t, true);

    // Corners of one vertex that are linked across an edge which the sheet goes on over.
    const mesh::Edges edges(sheets);
    mesh::DisjointSets linked(3 * sheets.triangles.size());
    const auto goesOn = [&](HalfEdge h) {
        const HalfEdge twin = edges.twin(h);
        return twin != mesh::noEdge && !mesh::runsAlong(sheets, h, twin);
    };
    for (HalfEdge h = 0; h < 3 * sheets.triangles.size(); ++h) {
        if (edges.edgeOf(h) == mesh::noEdge || !goesOn(h)) continue;
        // Half-edges stand for the corner they start from.
        const HalfEdge twin = edges.twin(h);
        linked.join(h, mesh::nextInTriangle(twin));
        linked.join(mesh::nextInTriangle(h), twin);
    }
    std::vector<std::vector<std::pair<Point, double>>> normals(3 * sheets.triangles.size());
    for (HalfEdge h = 0; h < 3 * sheets.triangles.size(); ++h) {
        const TriangleId t = mesh::triangleOf(h);
        if (mesh::isCollapsed(sheets.triangles[t])) continue;
        const Point& at = sheets.positions[fromVertex(sheets, h)];
        const Point a = sheets.positions[toVertex(sheets, h)] - at;
        const Point b = sheets.positions[oppositeVertex(sheets, h)] - at;
        const double angle = std::atan2(a.cross(b).norm(), a.dot(b));
        const Point n = mesh::areaVector(sheets, t).normalized();
        if (!n.isZero()) normals[linked.find(h)].emplace_back(n, std::max(angle, 1e-6));
    }
    std::vector<mesh::VertexId> copyOf(3 * sheets.triangles.size(), mesh::noIndex);
    for (HalfEdge h = 0; h < copyOf.size(); ++h) {
        if (mesh::isCollapsed(sheets.triangles[mesh::triangleOf(h)])) continue;
        const HalfEdge root = linked.find(h);
        if (copyOf[root] == mesh::noIndex) {
            copyOf[root] = out.mesh.positions.size();
            const Point back = normals[root].empty() ? Point(Point::Zero()) : wayBack(normals[root]);
            const Point& from = sheets.positions[fromVertex(sheets, h)];
            out.mesh.positions.push_back(mesh::rounded(precision, from + thickness * back));
        }
        copyOf[h] = copyOf[root];
    }
    for (TriangleId t = 0; t < sheets.triangles.size(); ++t) {
        if (mesh::isCollapsed(sheets.triangles[t])) continue;
        const HalfEdge h = 3 * t;
        add({copyOf[h], copyOf[h + 2], copyOf[h + 1]}, t, false);
        for (unsigned k = 0; k < 3; ++k) {
            const HalfEdge side = h + k;
            if (goesOn(side)) continue;
            const mesh::VertexId a = fromVertex(sheets, side);
            const mesh::VertexId b = toVertex(sheets, side);
            const mesh::VertexId c = copyOf[side];
            const mesh::VertexId d = copyOf[mesh::nextInTriangle(side)];
            // The diagonal from the lower vertex of the rim: walls of sheets that end on each other are alike.
            if (a < b) {
                add({b, a, d}, t, false);
                add({a, c, d}, t, false);
            } else {
                add({b, a, c}, t, false);
                add({b, c, d}, t, false);
            }
        }
    }
    return out;
}

}  // namespace zither::repair
