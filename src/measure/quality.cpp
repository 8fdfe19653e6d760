// Values of triangles and of edges; each kind spread by itself.
#include "measure/quality.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "measure/mass.h"
#include "mesh/parallel.h"

namespace zither::measure {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

Spread spreadOf(std::vector<double> values, const QualityKind& kind) {
    Spread spread;
    spread.low = kind.low;
    spread.high = kind.high;
    spread.count = values.size();
    if (values.empty()) return spread;
    for (const double v : values) {
        const double x = std::clamp((v - kind.low) / (kind.high - kind.low), 0.0, 1.0);
        ++spread.histogram[std::min(Spread::steps - 1, static_cast<std::size_t>(x * Spread::steps))];
        spread.mean += v / static_cast<double>(values.size());
    }
    const auto at = values.begin() + static_cast<std::ptrdiff_t>((values.size() - 1) / 100);
    const auto worseFirst = [&](double a, double b) { return kind.lessIsWorse ? a < b : a > b; };
    std::nth_element(values.begin(), at, values.end(), worseFirst);
    spread.onePercent = *at;
    spread.worst = *std::min_element(values.begin(), at + 1, worseFirst);
    return spread;
}

double scoreOf(const Mesh& m, TriangleId t) {
    double squares = 0;
    for (unsigned k = 0; k < 3; ++k) squares += (m.corner(t, (k + 1) % 3) - m.corner(t, k)).squaredNorm();
    return squares > 0 ? 2 * std::numbers::sqrt3 * mesh::areaVector(m, t).norm() / squares : 0;
}

double aspectOf(const Mesh& m, TriangleId t) {
    const double area = 0.5 * mesh::areaVector(m, t).norm();
    double longest = 0;
    for (unsigned k = 0; k < 3; ++k) longest = std::max(longest, (m.corner(t, (k + 1) % 3) - m.corner(t, k)).norm());
    return area > 0 ? longest * longest * std::numbers::sqrt3 / (4 * area) : std::numeric_limits<double>::infinity();
}

// Edges beside those that they meet.
class EdgeValues {
public:
    EdgeValues(const Mesh& m, const mesh::Edges& edges)
        : m_(m), edges_(edges), around_(m.positions.size(), 0), count_(m.positions.size(), 0) {
        for (HalfEdge h = 0; h < 3 * m.triangles.size(); ++h)
            if (isFirst(h))
                for (VertexId v : {mesh::fromVertex(m, h), mesh::toVertex(m, h)}) {
                    around_[v] += lengthOf(h);
                    ++count_[v];
                }
    }

    // Of the half-edges along an edge one; collapsed triangles have none.
    [[nodiscard]] bool isFirst(HalfEdge h) const {
        return edges_.edgeOf(h) != mesh::noEdge && edges_.around(edges_.edgeOf(h)).front() == h;
    }
    // NaN where it has no length.
    [[nodiscard]] double unevenness(HalfEdge h) const {
        const VertexId a = mesh::fromVertex(m_, h);
        const VertexId b = mesh::toVertex(m_, h);
        const double local = (around_[a] + around_[b]) / (count_[a] + count_[b]);
        const double length = lengthOf(h);
        return length > 0 && local > 0 ? std::max(length / local, local / length)
                                       : std::numeric_limits<double>::quiet_NaN();
    }
    // In degrees; NaN where not two triangles meet.
    [[nodiscard]] double turn(HalfEdge h) const {
        const HalfEdge twin = edges_.twin(h);
        if (twin == mesh::noEdge) return std::numeric_limits<double>::quiet_NaN();
        const Point n = mesh::areaVector(m_, mesh::triangleOf(h));
        const Point o = mesh::areaVector(m_, mesh::triangleOf(twin));
        return std::atan2(n.cross(o).norm(), n.dot(o)) * 180 / std::numbers::pi;
    }

private:
    [[nodiscard]] double lengthOf(HalfEdge h) const {
        return (m_.positions[mesh::toVertex(m_, h)] - m_.positions[mesh::fromVertex(m_, h)]).norm();
    }

    const Mesh& m_;
    const mesh::Edges& edges_;
    // Of the edges at each vertex.
    std::vector<double> around_;
    std::vector<std::uint32_t> count_;
};

bool isOfEdges(const QualityKind& kind) {
    return kind.spread == &TriangleQuality::edge || kind.spread == &TriangleQuality::dihedral;
}

double valueOf(const Mesh& m, TriangleId t, const QualityKind& kind) {
    if (kind.spread == &TriangleQuality::angle) return smallestAngleDeg(m, t);
    return kind.spread == &TriangleQuality::score ? scoreOf(m, t) : aspectOf(m, t);
}

// NaN where the edge has none.
double valueOf(const EdgeValues& edges, HalfEdge h, const QualityKind& kind) {
    return kind.spread == &TriangleQuality::edge ? edges.unevenness(h) : edges.turn(h);
}

}  // namespace

TriangleQuality qualityOf(const Mesh& m, const mesh::Edges& edges, const std::vector<std::uint8_t>& chosen) {
    const EdgeValues ofEdges(m, edges);
    TriangleQuality quality;
    for (const QualityKind& kind : qualityKinds) {
        std::vector<double> values;
        for (TriangleId t = 0; t < m.triangles.size(); ++t) {
            if (!chosen[t]) continue;
            if (!isOfEdges(kind)) {
                values.push_back(valueOf(m, t, kind));
                continue;
            }
            for (unsigned k = 0; k < 3; ++k) {
                const auto h = static_cast<HalfEdge>(3 * t + k);
                const double value =
                    ofEdges.isFirst(h) ? valueOf(ofEdges, h, kind) : std::numeric_limits<double>::quiet_NaN();
                if (!std::isnan(value)) values.push_back(value);
            }
        }
        quality.*kind.spread = spreadOf(std::move(values), kind);
    }
    return quality;
}

std::vector<double> qualityOfEach(const Mesh& m, const mesh::Edges& edges, const QualityKind& kind) {
    std::vector<double> all(m.triangles.size());
    const EdgeValues ofEdges(m, edges);
    mesh::parallelFor(all.size(), 4096, [&](std::size_t i) {
        const auto t = static_cast<TriangleId>(i);
        if (!isOfEdges(kind)) {
            all[i] = valueOf(m, t, kind);
            return;
        }
        all[i] = kind.low;
        if (mesh::isCollapsed(m.triangles[t])) return;
        for (unsigned k = 0; k < 3; ++k)
            if (const double value = valueOf(ofEdges, static_cast<HalfEdge>(3 * t + k), kind); !std::isnan(value))
                all[i] = std::max(all[i], value);
    });
    return all;
}

}  // namespace zither::measure
