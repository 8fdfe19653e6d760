// One engine over the whole, stopped at a row of counts.
#include "shape/trade_off.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "mesh/parallel.h"
#include "shape/edge_collapse.h"
#include "space/triangle_tree.h"

namespace zither::shape {
namespace {

constexpr std::array<double, 13> shares = {0.85, 0.7,   0.5,   0.35,  0.25,  0.18, 0.12,
                                           0.08, 0.055, 0.037, 0.025, 0.016, 0.01};
constexpr std::size_t pointsLookedAt = 6000;

// Corners and middles of triangles all over the surface.
std::vector<Point> pointsOf(const Mesh& m) {
    std::vector<Point> points;
    const std::size_t stride = std::max<std::size_t>(1, 2 * m.triangles.size() / pointsLookedAt);
    for (std::size_t i = 0; i < m.triangles.size(); i += stride) {
        const TriangleId t(static_cast<std::uint32_t>(i));
        points.push_back(m.corner(t, 0));
        points.push_back(mesh::centroid(m, t));
    }
    return points;
}

Mesh leftOf(const Mesh& m, const EdgeCollapse& engine) {
    Mesh left;
    left.positions = m.positions;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        if (!engine.alive(t)) continue;
        left.triangles.push_back(engine.triangle(t));
        for (const VertexId v : engine.triangle(t)) left.positions[v] = engine.position(v);
    }
    mesh::dropUnusedVertices(left);
    return left;
}

double farthest(const std::vector<Point>& points, const Mesh& left) {
    const space::TriangleTree tree(left);
    std::vector<double> away(points.size(), 0);
    mesh::parallelFor(points.size(), 64, [&](std::size_t i) {
        if (const auto nearest = tree.nearest(points[i])) away[i] = nearest->distanceSquared;
    });
    return std::sqrt(*std::max_element(away.begin(), away.end()));
}

}  // namespace

mesh::Outcome<std::vector<TradeOff>> tradeOffOf(const check::Surveyed& s, mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    if (m.triangles.empty()) return std::vector<TradeOff>();
    std::vector<TradeOff> curve = {{m.triangles.size(), 0}};
    const std::vector<Point> points = pointsOf(m);
    const mesh::Box box = mesh::boxOf(m);
    const CollapseSettings settings{box.centre(), box.diagonal() > 0 ? box.diagonal() : 1};
    const std::vector<VertexKind> allowed(m.positions.size(), VertexKind::Inner);
    EdgeCollapse engine(m, allowed, settings);
    for (std::size_t i = 0; i < shares.size(); ++i) {
        const auto wanted = static_cast<std::size_t>(shares[i] * static_cast<double>(m.triangles.size()));
        mesh::PartOfProgress part(progress, static_cast<double>(i) / shares.size(),
                                  static_cast<double>(i + 1) / shares.size());
        const std::size_t before = engine.triangleCount();
        if (before > wanted && !engine.advance(std::numeric_limits<double>::infinity(), before - wanted, part))
            return mesh::cancelled();
        if (engine.triangleCount() == 0 || engine.triangleCount() == before) break;
        const double found = std::max(curve.back().distance, farthest(points, leftOf(m, engine)));
        curve.push_back({engine.triangleCount(), found});
        if (!progress.report(static_cast<double>(i + 1) / shares.size())) return mesh::cancelled();
    }
    return curve;
}

}  // namespace zither::shape
