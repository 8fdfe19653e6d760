// From curvature to length, and from the shortest outward.
#include "shape/target_length.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "measure/measure_tolerances.h"
#include "mesh/shortest_ways.h"

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

// Between lines that run beside each other edges are no longer than a few times the way from one to the other: flat
// triangles would span it. Lines that meet at an end are not beside each other.
class BetweenLines {
public:
    BetweenLines(const Mesh& m, const mesh::Edges& edges, const FeatureLines& lines, double least)
        : m_(m), edges_(edges), lines_(lines), least_(least) {}

    void limit(std::vector<double>& lengths) const {
        acrossTriangles(lengths);
        acrossTheSurface(lengths);
    }

private:
    static constexpr double most = 2.5;  // lengths of the way: an even strip of them has angles of 38 degrees

    void limitAt(VertexId v, double way, std::vector<double>& lengths) const {
        lengths[v] = std::min(lengths[v], std::max(least_, most * way));
    }

    [[nodiscard]] bool endsIn(LineId line, VertexId v) const {
        return lines_.lines[line].first() == v || lines_.lines[line].last() == v;
    }
    [[nodiscard]] bool meet(LineId a, LineId b) const {
        return a == b || endsIn(a, lines_.lines[b].first()) || endsIn(a, lines_.lines[b].last());
    }

    // A triangle with a side on one line and its corner on another.
    void acrossTriangles(std::vector<double>& lengths) const {
        for (EdgeId e = 0; e < edges_.count(); ++e) {
            const LineId line = lines_.lineOf[e];
            if (line == noLine || line == lockedLine) continue;
            for (const HalfEdge h : edges_.around(e)) {
                const VertexId w = mesh::oppositeVertex(m_, h);
                const VertexPlace& place = lines_.places[w];
                if (place.isFree() || (place.isFixed() ? endsIn(line, w) : meet(line, place.line))) continue;
                const double base = (m_.positions[fromVertex(m_, h)] - m_.positions[toVertex(m_, h)]).norm();
                const double way = base > 0 ? mesh::areaVector(m_, h / 3).norm() / base : 0;
                if (!(way > 0)) continue;
                for (const VertexId v : {fromVertex(m_, h), toVertex(m_, h), w}) limitAt(v, way, lengths);
            }
        }
    }

    // Ways along edges from every line at once; where two lines' ways come together is the middle between them.
    void acrossTheSurface(std::vector<double>& lengths) const {
        std::vector<mesh::ShortestWays::Start> starts;
        for (VertexId v = 0; v < m_.positions.size(); ++v)
            if (const VertexPlace& place = lines_.places[v]; !place.isFree() && !place.isFixed()) starts.push_back({v});
        if (starts.empty()) return;
        const double farthest = *std::max_element(lengths.begin(), lengths.end());
        const mesh::Corners corners(m_);
        const mesh::ShortestWays ways(m_.positions.size(), starts,
                                      [&](VertexId v, double away, std::vector<mesh::ShortestWays::Leg>& legs) {
                                          for (const HalfEdge h : corners.at(v)) {
                                              if (mesh::isCollapsed(m_.triangles[h / 3])) continue;
                                              for (const VertexId w : {toVertex(m_, h), oppositeVertex(m_, h)})
                                                  if (const double length = (m_.positions[w] - m_.positions[v]).norm();
                                                      lines_.places[w].isFree() && away + length <= farthest)
                                                      legs.push_back({w, length});
                                          }
                                      });
        for (EdgeId e = 0; e < edges_.count(); ++e) {
            const HalfEdge h = edges_.around(e)[0];
            const VertexId a = fromVertex(m_, h);
            const VertexId b = toVertex(m_, h);
            const auto* toA = ways.at(a);
            const auto* toB = ways.at(b);
            if (!toA || !toB || meet(lines_.places[toA->start].line, lines_.places[toB->start].line)) continue;
            const double way = toA->away + toB->away + (m_.positions[a] - m_.positions[b]).norm();
            for (const VertexId v : {a, b}) limitAt(v, way, lengths);
        }
    }

    const Mesh& m_;
    const mesh::Edges& edges_;
    const FeatureLines& lines_;
    double least_;
};

}  // namespace

std::vector<double> targetLengths(const Mesh& m, const mesh::Edges& edges, const FeatureLines& lines,
                                  const TargetOptions& options) {
    std::vector<double> lengths(m.positions.size(), options.longest);
    const bool isEven = !(options.shortest < options.longest);
    BetweenLines(m, edges, lines, leastOfShortest * options.shortest).limit(lengths);
    if (isEven && !std::isfinite(options.deviation)) {
        limitGrowth(lengths, m, options.growth);
        return lengths;
    }
    const std::vector<double> curvature = curvatures(m, edges, lines);
    const double turn = options.turnDeg * std::numbers::pi / 180;
    for (VertexId v = 0; v < lengths.size(); ++v) {
        if (!(curvature[v] > tolerance::aboveZero)) continue;
        if (!isEven) lengths[v] = std::min(lengths[v], std::max(options.shortest, turn / curvature[v]));
        // In the middle of an even triangle the surface is a sixth of its squared edge times the curvature away; half
        // of that, for edges that are longer than they should be.
        lengths[v] = std::max(leastOfShortest * options.shortest,
                              std::min(lengths[v], std::sqrt(3 * options.deviation / curvature[v])));
    }
    if (std::isfinite(options.deviation)) allowForRidges(lengths, m, edges, lines, options);
    limitGrowth(lengths, m, options.growth);
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

void limitGrowth(std::vector<double>& lengths, const Mesh& m, double growth) {
    const mesh::Corners corners(m);
    const auto toEachOther = [&](VertexId v, const auto& visit) {
        for (const HalfEdge h : corners.at(v)) {
            if (mesh::isCollapsed(m.triangles[h / 3])) continue;
            for (const VertexId w : {toVertex(m, h), oppositeVertex(m, h)})
                visit(w, growth * (m.positions[v] - m.positions[w]).norm());
        }
    };
    // A length goes on from each vertex that is too short for one beside it.
    std::vector<mesh::ShortestWays::Start> starts;
    for (VertexId v = 0; v < lengths.size(); ++v) {
        bool limits = false;
        toEachOther(v, [&](VertexId w, double more) { limits = limits || lengths[v] + more < lengths[w]; });
        if (limits) starts.push_back({v, lengths[v]});
    }
    const mesh::ShortestWays ways(lengths.size(), starts,
                                  [&](VertexId v, double length, std::vector<mesh::ShortestWays::Leg>& legs) {
                                      toEachOther(v, [&](VertexId w, double more) {
                                          if (length + more < lengths[w]) legs.push_back({w, more});
                                      });
                                  });
    for (VertexId v = 0; v < lengths.size(); ++v)
        if (const auto* limited = ways.at(v)) lengths[v] = std::min(lengths[v], limited->away);
}

}  // namespace zither::shape
