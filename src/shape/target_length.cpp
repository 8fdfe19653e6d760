// From curvature to length, and from the shortest outward (Dijkstra 1959).
#include "shape/target_length.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>
#include <queue>

#include "mesh/tolerances.h"

namespace zither::shape {

using mesh::EdgeId;

namespace {

// Turn for length at each vertex: one over the radius.
std::vector<double> curvatures(const Mesh& m, const mesh::Edges& edges, const FeatureLines& lines) {
    std::vector<double> turn(m.positions.size(), 0);
    std::vector<double> area(m.positions.size(), 0);
    for (EdgeId e = 0; e < edges.count(); ++e) {
        if (lines.lineOf[e] != noLine) continue;
        const auto around = edges.around(e);
        const Point a = mesh::areaVector(m, around[0] / 3);
        const Point b = mesh::areaVector(m, around[1] / 3);
        if (!(a.norm() > 0) || !(b.norm() > 0)) continue;
        const double angle = std::atan2(a.cross(b).norm(), a.dot(b));
        const VertexId u = fromVertex(m, around[0]);
        const VertexId v = toVertex(m, around[0]);
        const double length = (m.positions[u] - m.positions[v]).norm();
        for (const VertexId w : {u, v}) {
            turn[w] += angle * length;
            area[w] += (a.norm() + b.norm()) / 6;
        }
    }
    std::vector<double> curvature(m.positions.size(), 0);
    for (VertexId v = 0; v < curvature.size(); ++v)
        if (area[v] > 0) curvature[v] = turn[v] / area[v];
    // Along a line from edge to edge.
    for (const Line& line : lines.lines)
        for (std::size_t i = 1; i + 1 < line.vertices().size(); ++i) {
            const Point in = m.positions[line.vertices()[i]] - m.positions[line.vertices()[i - 1]];
            const Point out = m.positions[line.vertices()[i + 1]] - m.positions[line.vertices()[i]];
            const double angle = std::atan2(in.cross(out).norm(), in.dot(out));
            const double way = 0.5 * (in.norm() + out.norm());
            if (way > 0) curvature[line.vertices()[i]] = std::max(curvature[line.vertices()[i]], angle / way);
        }
    return curvature;
}

// Edges shorter than facets are wide see no curve but ridges: one that crosses a ridge in its middle is a quarter of
// its length times the turn away from it.
void allowForRidges(std::vector<double>& lengths, const Mesh& m, const mesh::Edges& edges, const FeatureLines& lines,
                    const TargetOptions& options) {
    constexpr double share = 0.6;  // of the deviation
    for (EdgeId e = 0; e < edges.count(); ++e) {
        if (lines.lineOf[e] != noLine) continue;
        const auto around = edges.around(e);
        const Point a = mesh::areaVector(m, around[0] / 3);
        const Point b = mesh::areaVector(m, around[1] / 3);
        const VertexId u = fromVertex(m, around[0]);
        const VertexId v = toVertex(m, around[0]);
        const double along = (m.positions[u] - m.positions[v]).norm();
        const double angle = std::atan2(a.cross(b).norm(), a.dot(b));
        if (!(along > 0) || !(angle > 0)) continue;
        const double width = 0.5 * (a.norm() + b.norm()) / along;
        const double length = std::max(leastOfShortest * options.shortest, 4 * share * options.deviation / angle);
        for (const VertexId w : {u, v})
            if (lengths[w] < width) lengths[w] = std::min(lengths[w], length);
    }
}

}  // namespace

std::vector<double> targetLengths(const Mesh& m, const mesh::Edges& edges, const FeatureLines& lines,
                                  const TargetOptions& options) {
    std::vector<double> lengths(m.positions.size(), options.longest);
    const bool isEven = !(options.shortest < options.longest);
    if (isEven && !std::isfinite(options.deviation)) return lengths;
    const std::vector<double> curvature = curvatures(m, edges, lines);
    const double turn = options.turnDeg * std::numbers::pi / 180;
    for (VertexId v = 0; v < lengths.size(); ++v) {
        if (!(curvature[v] > tolerance::aboveZero)) continue;
        if (!isEven) lengths[v] = std::max(options.shortest, std::min(options.longest, turn / curvature[v]));
        // In the middle of an even triangle the surface is a sixth of its squared edge times the curvature away; half
        // of that, for edges that are longer than they should be.
        lengths[v] = std::max(leastOfShortest * options.shortest,
                              std::min(lengths[v], std::sqrt(3 * options.deviation / curvature[v])));
    }
    if (std::isfinite(options.deviation)) allowForRidges(lengths, m, edges, lines, options);
    limitGrowth(lengths, m, edges, options.growth);
    return lengths;
}

double expectedTriangles(const Mesh& m, const std::vector<double>& lengths) {
    constexpr double even = 0.4330127018922193;  // area over squared edge, of an even triangle
    double count = 0;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        double length = 0;
        for (const VertexId v : m.triangles[t]) length += lengths[v] / 3;
        count += std::max(0.1, 0.5 * mesh::areaVector(m, t).norm() / length / length / even);
    }
    return count;
}

void limitGrowth(std::vector<double>& lengths, const Mesh& m, const mesh::Edges& edges, double growth) {
    const mesh::Corners corners(m);
    using Waiting = std::pair<double, VertexId>;
    std::priority_queue<Waiting, std::vector<Waiting>, std::greater<>> queue;
    const auto reach = [&](VertexId from, VertexId to) {
        const double limit = lengths[from] + growth * (m.positions[from] - m.positions[to]).norm();
        if (!(lengths[to] > limit)) return;
        lengths[to] = limit;
        queue.emplace(limit, to);
    };
    for (EdgeId e = 0; e < edges.count(); ++e) {
        const HalfEdge h = edges.around(e)[0];
        reach(fromVertex(m, h), toVertex(m, h));
        reach(toVertex(m, h), fromVertex(m, h));
    }
    while (!queue.empty()) {
        const auto [length, v] = queue.top();
        queue.pop();
        if (length > lengths[v]) continue;
        for (const HalfEdge h : corners.at(v)) {
            if (mesh::isCollapsed(m.triangles[h / 3])) continue;
            reach(v, toVertex(m, h));
            reach(v, oppositeVertex(m, h));
        }
    }
}

}  // namespace zither::shape
