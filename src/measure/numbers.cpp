// One pass over triangles, one over edges.
#include "measure/numbers.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>

namespace zither::measure {

using mesh::HalfEdge;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

std::optional<Point> centreOfMass(const Mesh& m) {
    const Point middle = mesh::boxOf(m).centre();
    Point sum = Point::Zero();
    double volume = 0;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        const Point a = m.corner(t, 0) - middle;
        const Point b = m.corner(t, 1) - middle;
        const Point c = m.corner(t, 2) - middle;
        const double v = a.dot(b.cross(c));
        sum += v * (a + b + c) / 4;
        volume += v;
    }
    if (volume == 0) return std::nullopt;
    return middle + sum / volume;
}

std::ptrdiff_t eulerOf(const Mesh& m, const mesh::Edges& edges) {
    std::vector<std::uint8_t> used(m.positions.size(), 0);
    std::ptrdiff_t faces = 0;
    for (const mesh::Triangle& t : m.triangles) {
        if (mesh::isCollapsed(t)) continue;
        ++faces;
        for (VertexId v : t) used[v] = 1;
    }
    return std::count(used.begin(), used.end(), 1) - static_cast<std::ptrdiff_t>(edges.count()) + faces;
}

namespace {

// `lessIsWorse`: of the values; the histogram runs from low to high all the same.
Spread spreadOf(std::vector<double> values, double low, double high, bool lessIsWorse) {
    Spread spread;
    spread.low = low;
    spread.high = high;
    spread.count = values.size();
    if (values.empty()) return spread;
    for (const double v : values) {
        const double x = std::clamp((v - low) / (high - low), 0.0, 1.0);
        ++spread.histogram[std::min(Spread::steps - 1, static_cast<std::size_t>(x * Spread::steps))];
        spread.mean += v / static_cast<double>(values.size());
    }
    const auto at = values.begin() + static_cast<std::ptrdiff_t>((values.size() - 1) / 100);
    const auto worseFirst = [&](double a, double b) { return lessIsWorse ? a < b : a > b; };
    std::nth_element(values.begin(), at, values.end(), worseFirst);
    spread.onePercent = *at;
    spread.worst = *std::min_element(values.begin(), at + 1, worseFirst);
    return spread;
}

TriangleQuality qualityOf(const Mesh& m, const mesh::Edges& edges, const std::vector<std::uint8_t>& chosen) {
    std::vector<double> angles;
    std::vector<double> scores;
    std::vector<double> aspects;
    std::vector<double> lengths;
    std::vector<double> turns;
    // Mean length of the edges at each vertex.
    std::vector<double> around(m.positions.size(), 0);
    std::vector<std::uint32_t> count(m.positions.size(), 0);
    const auto firstOf = [&](HalfEdge h) {
        return edges.edgeOf(h) != mesh::noEdge && edges.around(edges.edgeOf(h)).front() == h;
    };
    const auto lengthOf = [&](HalfEdge h) {
        return (m.positions[mesh::toVertex(m, h)] - m.positions[mesh::fromVertex(m, h)]).norm();
    };
    for (HalfEdge h = 0; h < 3 * m.triangles.size(); ++h)
        if (firstOf(h))
            for (VertexId v : {mesh::fromVertex(m, h), mesh::toVertex(m, h)}) {
                around[v] += lengthOf(h);
                ++count[v];
            }
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        if (!chosen[t]) continue;
        const double area = 0.5 * mesh::areaVector(m, t).norm();
        double squares = 0;
        double longest = 0;
        for (unsigned k = 0; k < 3; ++k) {
            const double length = (m.corner(t, (k + 1) % 3) - m.corner(t, k)).norm();
            squares += length * length;
            longest = std::max(longest, length);
        }
        angles.push_back(smallestAngleDeg(m, t));
        scores.push_back(squares > 0 ? 4 * std::numbers::sqrt3 * area / squares : 0);
        aspects.push_back(area > 0 ? longest * longest * std::numbers::sqrt3 / (4 * area)
                                   : std::numeric_limits<double>::infinity());
        for (unsigned k = 0; k < 3; ++k) {
            const HalfEdge h = 3 * t + k;
            if (!firstOf(h)) continue;
            const VertexId a = mesh::fromVertex(m, h);
            const VertexId b = mesh::toVertex(m, h);
            const double local = (around[a] + around[b]) / (count[a] + count[b]);
            const double length = lengthOf(h);
            if (length > 0 && local > 0) lengths.push_back(std::max(length / local, local / length));
            const HalfEdge twin = edges.twin(h);
            if (twin == mesh::noEdge) continue;
            const Point n = mesh::areaVector(m, t);
            const Point o = mesh::areaVector(m, mesh::triangleOf(twin));
            turns.push_back(std::atan2(n.cross(o).norm(), n.dot(o)) * 180 / std::numbers::pi);
        }
    }
    constexpr double widest = 10;
    constexpr double farthest = 4;
    return {spreadOf(std::move(angles), 0, 60, true), spreadOf(std::move(scores), 0, 1, true),
            spreadOf(std::move(aspects), 1, widest, false), spreadOf(std::move(lengths), 1, farthest, false),
            spreadOf(std::move(turns), 0, 180, false)};
}

}  // namespace

Numbers numbersOf(const Mesh& m, const mesh::Edges& edges, const mesh::Pick& pick) {
    Numbers n;
    const std::vector<std::uint8_t> chosen = pick.mask(m);
    std::vector<std::uint8_t> used(m.positions.size(), 0);
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        if (!chosen[t]) continue;
        ++n.triangles;
        n.box.add(mesh::boxOf(m, t));
        const double area = 0.5 * mesh::areaVector(m, t).norm();
        n.area += area;
        n.centreOfArea += area * mesh::centroid(m, t);
        for (VertexId v : m.triangles[t])
            if (!used[v]) {
                used[v] = 1;
                ++n.vertices;
            }
    }
    if (n.area > 0) n.centreOfArea /= n.area;
    bool open = false;
    double total = 0;
    std::size_t count = 0;
    for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
        const auto around = edges.around(e);
        std::size_t inside = 0;
        for (const HalfEdge h : around) inside += chosen[mesh::triangleOf(h)];
        if (inside == 0) continue;
        const HalfEdge h = around.front();
        const double length = (m.positions[mesh::toVertex(m, h)] - m.positions[mesh::fromVertex(m, h)]).norm();
        n.edges.min = count == 0 ? length : std::min(n.edges.min, length);
        n.edges.max = std::max(n.edges.max, length);
        total += length;
        ++count;
        open |= around.size() == 1;
        if (around.size() == 1 || inside < around.size()) n.borderLength += length;
    }
    if (count > 0) n.edges.mean = total / static_cast<double>(count);
    if (pick.everything() && !open && n.triangles > 0) {
        n.volume = massOf(m).volume;
        n.centreOfMass = centreOfMass(m);
    }
    n.quality = qualityOf(m, edges, chosen);
    return n;
}

}  // namespace zither::measure
