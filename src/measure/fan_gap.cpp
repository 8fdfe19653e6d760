// The gap from a triangle to the fan around a vertex, exact for the pieces that a segment crosses.
#include "measure/fan_gap.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>

namespace zither::measure {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::VertexId;

constexpr double cannotTell = std::numeric_limits<double>::infinity();
constexpr std::size_t mostSpokes = 24;

double cross2(const Point& a, const Point& b) {
    return a.x() * b.y() - a.y() * b.x();
}

// Rim of the fan in order, relative to w; in a frame whose z is the mean normal.
struct Fan {
    std::array<Point, mostSpokes> rim;
    std::size_t size = 0;
    Eigen::Matrix3d frame;
};

// False where the triangles at w are no closed fan, too many, or no height field.
bool buildFan(const Mesh& m, std::span<const HalfEdge> at, VertexId w, Fan& fan) {
    if (at.size() < 3 || at.size() > mostSpokes) return false;
    Point normal = Point::Zero();
    for (HalfEdge h : at) normal += mesh::areaVector(m, mesh::triangleOf(h));
    if (!(normal.norm() > 0)) return false;
    normal.normalize();
    const Point u = normal.unitOrthogonal();
    fan.frame.row(0) = u;
    fan.frame.row(1) = normal.cross(u);
    fan.frame.row(2) = normal;
    VertexId next = toVertex(m, at[0]);
    const VertexId first = next;
    for (std::size_t i = 0; i < at.size(); ++i) {
        const auto h = std::find_if(at.begin(), at.end(), [&](HalfEdge x) { return toVertex(m, x) == next; });
        if (h == at.end() || !(mesh::areaVector(m, mesh::triangleOf(*h)).dot(normal) > 0)) return false;
        fan.rim[fan.size++] = fan.frame * (m.positions[next] - m.positions[w]);
        next = oppositeVertex(m, *h);
        if (next == first) return i + 1 == at.size();
    }
    return false;
}

bool properlyApart(const Point& a, const Point& b, const Point& c, const Point& d) {
    const double side1 = cross2(b - a, c - a);
    const double side2 = cross2(b - a, d - a);
    if (side1 * side2 > 0) return true;
    return cross2(d - c, a - c) * cross2(d - c, b - c) > 0;
}

}  // namespace

double gapOverFan(const Mesh& m, const mesh::Corners& corners, VertexId w, const std::array<Point, 3>& feet) {
    Fan fan;
    if (!buildFan(m, corners.at(w), w, fan)) return cannotTell;
    std::array<Point, 3> q;
    for (unsigned k = 0; k < 3; ++k) q[k] = fan.frame * (feet[k] - m.positions[w]);
    const double area = cross2(q[1] - q[0], q[2] - q[0]);
    double gap = 0;
    bool holdsCentre = true;
    for (unsigned k = 0; k < 3; ++k) {
        const Point& from = q[k];
        const Point& to = q[(k + 1) % 3];
        holdsCentre = holdsCentre && cross2(to - from, -from) * area >= 0;
        for (std::size_t i = 0; i < fan.size; ++i) {
            const Point& rim = fan.rim[i];
            if (!properlyApart(from, to, rim, fan.rim[(i + 1) % fan.size])) return cannotTell;
            // Crossing of the edge with the spoke from w (the origin) to the rim.
            const double sideFrom = cross2(rim, from);
            const double sideTo = cross2(rim, to);
            if (!((sideFrom < 0) != (sideTo < 0))) continue;
            const Point at = from + sideFrom / (sideFrom - sideTo) * (to - from);
            const double along = (at.x() * rim.x() + at.y() * rim.y()) / (rim.x() * rim.x() + rim.y() * rim.y());
            if (along >= 0) gap = std::max(gap, std::abs(at.z() - along * rim.z()));
        }
    }
    if (holdsCentre) {
        const Point normal = (q[1] - q[0]).cross(q[2] - q[0]);
        if (normal.z() == 0) return cannotTell;
        gap = std::max(gap, std::abs(normal.dot(q[0]) / normal.z()));
    }
    return gap;
}

}  // namespace zither::measure
