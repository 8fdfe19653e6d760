// Normals by sectors between creases, tangents along them, and Bezier patches of degree three.
#include "shape/curved_patches.h"

#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "mesh/disjoint_sets.h"

namespace zither::shape {

using mesh::EdgeId;
using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

namespace {

double angleBetween(const Point& a, const Point& b) {
    return std::atan2(a.cross(b).norm(), a.dot(b));
}

Point unitNormal(const Mesh& m, TriangleId t) {
    const Point across = mesh::areaVector(m, t);
    const double length = across.norm();
    return length > 0 ? Point(across / length) : Point(Point::Zero());
}

// One flag an edge: a smooth surface goes on across it.
std::vector<std::uint8_t> smoothEdges(const Mesh& m, const mesh::Edges& edges, double creaseDeg) {
    std::vector<std::uint8_t> smooth(edges.count(), 0);
    const double crease = creaseDeg * std::numbers::pi / 180;
    for (EdgeId e = 0; e < edges.count(); ++e) {
        const auto around = edges.around(e);
        if (around.size() != 2 || mesh::runsAlong(m, around[0], around[1])) continue;
        const TriangleId a = mesh::triangleOf(around[0]);
        const TriangleId b = mesh::triangleOf(around[1]);
        if (m.regionOf(a) != m.regionOf(b)) continue;
        smooth[e] = angleBetween(unitNormal(m, a), unitNormal(m, b)) <= crease;
    }
    return smooth;
}

// Of each half-edge: the normal at the corner that it leaves.
std::vector<Point> cornerNormals(const Mesh& m, const mesh::Edges& edges, const std::vector<std::uint8_t>& smooth) {
    const std::size_t corners = 3 * m.triangles.size();
    // Corners at a vertex, on both sides of a smooth edge, are one.
    mesh::DisjointSets sectors(static_cast<std::uint32_t>(corners));
    for (EdgeId e = 0; e < edges.count(); ++e) {
        if (!smooth[e]) continue;
        const HalfEdge h = edges.around(e)[0];
        const HalfEdge twin = edges.around(e)[1];
        sectors.join(h, mesh::nextInTriangle(twin));
        sectors.join(mesh::nextInTriangle(h), twin);
    }
    std::vector<Point> sums(corners, Point::Zero());
    for (HalfEdge h = 0; h < corners; ++h) {
        const Point& at = m.positions[fromVertex(m, h)];
        const Point to = m.positions[toVertex(m, h)] - at;
        const Point last = m.positions[fromVertex(m, mesh::previousInTriangle(h))] - at;
        if (to.norm() > 0 && last.norm() > 0)
            sums[sectors.find(h)] += angleBetween(to, last) * unitNormal(m, mesh::triangleOf(h));
    }
    std::vector<Point> normals(corners);
    for (HalfEdge h = 0; h < corners; ++h) {
        const Point& sum = sums[sectors.find(h)];
        normals[h] = sum.norm() > 0 ? Point(sum.normalized()) : unitNormal(m, mesh::triangleOf(h));
    }
    return normals;
}

// Of each vertex: along the one line through it; 0 where there is none, or more, or it turns by more than the crease.
std::vector<Point> lineTangents(const Mesh& m, const mesh::Edges& edges, const std::vector<std::uint8_t>& smooth,
                                double creaseDeg) {
    struct Ends {
        std::array<VertexId, 2> other{};
        unsigned count = 0;
    };
    std::vector<Ends> ends(m.positions.size());
    for (EdgeId e = 0; e < edges.count(); ++e) {
        if (smooth[e]) continue;
        const HalfEdge h = edges.around(e)[0];
        const VertexId from = fromVertex(m, h);
        const VertexId to = toVertex(m, h);
        for (const auto& [v, other] : {std::pair(from, to), std::pair(to, from)}) {
            if (ends[v].count < 2) ends[v].other[ends[v].count] = other;
            ++ends[v].count;
        }
    }
    std::vector<Point> tangents(m.positions.size(), Point::Zero());
    for (VertexId v = 0; v < ends.size(); ++v) {
        if (ends[v].count != 2) continue;
        const Point in = m.positions[v] - m.positions[ends[v].other[0]];
        const Point out = m.positions[ends[v].other[1]] - m.positions[v];
        if (!(in.norm() > 0 && out.norm() > 0) || angleBetween(in, out) > creaseDeg * std::numbers::pi / 180) continue;
        // Of the circle through the three: a chord lies off the tangent by an angle as its length.
        tangents[v] = (out.norm() * in.normalized() + in.norm() * out.normalized()).normalized();
    }
    return tangents;
}

}  // namespace

CurvedPatches::CurvedPatches(const Mesh& m, const mesh::Edges& edges, double creaseDeg,
                             const std::vector<std::uint8_t>& curved)
    : mesh_(m), edges_(edges), curves_(3 * m.triangles.size()) {
    const std::vector<std::uint8_t> smooth = smoothEdges(m, edges, creaseDeg);
    const std::vector<Point> normals = cornerNormals(m, edges, smooth);
    const std::vector<Point> tangents = lineTangents(m, edges, smooth, creaseDeg);
    for (EdgeId e = 0; e < edges.count(); ++e) {
        const HalfEdge h = edges.around(e)[0];
        const VertexId from = fromVertex(m, h);
        const VertexId to = toVertex(m, h);
        const Point third = (m.positions[to] - m.positions[from]) / 3;
        Inner inner = straight(h);
        bool bends = true;
        for (const HalfEdge side : edges.around(e)) bends = bends && curved[mesh::triangleOf(side)];
        if (bends && smooth[e]) {
            const Point& atFrom = normals[h];
            const Point& atTo = normals[mesh::nextInTriangle(h)];
            inner[0] -= atFrom.dot(third) * atFrom;
            inner[1] += atTo.dot(third) * atTo;
        } else if (bends) {
            if (const Point& along = tangents[from]; along != Point::Zero())
                inner[0] = m.positions[from] + along.dot(third) * along;
            if (const Point& along = tangents[to]; along != Point::Zero())
                inner[1] = m.positions[to] - along.dot(third) * along;
        }
        setCurve(e, inner);
    }
}

CurvedPatches::Inner CurvedPatches::straight(HalfEdge h) const {
    const Point& from = mesh_.positions[fromVertex(mesh_, h)];
    const Point& to = mesh_.positions[toVertex(mesh_, h)];
    return {Point(from + (to - from) / 3), Point(to + (from - to) / 3)};
}

void CurvedPatches::setCurve(EdgeId e, const Inner& inner) {
    const VertexId start = fromVertex(mesh_, edges_.around(e)[0]);
    for (const HalfEdge h : edges_.around(e))
        curves_[h] = fromVertex(mesh_, h) == start ? inner : Inner{inner[1], inner[0]};
}

void CurvedPatches::flatten(TriangleId t) {
    for (unsigned k = 0; k < 3; ++k) {
        const EdgeId e = edges_.edgeOf(static_cast<HalfEdge>(3 * t + k));
        setCurve(e, straight(edges_.around(e)[0]));
    }
}

Point CurvedPatches::at(TriangleId t, const Point& s) const {
    const auto& [ab0, ab1] = curves_[3 * t];
    const auto& [bc0, bc1] = curves_[3 * t + 1];
    const auto& [ca0, ca1] = curves_[3 * t + 2];
    const Point& a = mesh_.corner(t, 0);
    const Point& b = mesh_.corner(t, 1);
    const Point& c = mesh_.corner(t, 2);
    const Point sides = (ab0 + ab1 + bc0 + bc1 + ca0 + ca1) / 6;
    const Point middle = sides + (sides - (a + b + c) / 3) / 2;
    const double x = s.x();
    const double y = s.y();
    const double z = s.z();
    return x * x * x * a + y * y * y * b + z * z * z * c +
           3 * (x * x * y * ab0 + x * y * y * ab1 + y * y * z * bc0 + y * z * z * bc1 + z * z * x * ca0 +
                z * x * x * ca1) +
           6 * x * y * z * middle;
}

Point CurvedPatches::over(TriangleId t, const Point& p) const {
    const Point& a = mesh_.corner(t, 0);
    const Point ab = mesh_.corner(t, 1) - a;
    const Point ac = mesh_.corner(t, 2) - a;
    const Point across = ab.cross(ac);
    const double square = across.squaredNorm();
    if (!(square > 0)) return p;
    const Point ap = p - a;
    const double second = std::clamp(ap.cross(ac).dot(across) / square, 0.0, 1.0);
    const double third = std::clamp(ab.cross(ap).dot(across) / square, 0.0, 1.0 - second);
    return at(t, {1 - second - third, second, third});
}

}  // namespace zither::shape
