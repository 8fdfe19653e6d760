// Joining of open vertices by distance, then splitting of open edges at vertices that lie on them. The spatial hash has
// cells of the weld distance, so that only 27 cells are searched.
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "mesh/edges.h"
#include "mesh/tolerances.h"
#include "repair/cell_grid.h"
#include "repair/repair.h"

namespace zither::repair {
namespace {

using mesh::HalfEdge;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

std::vector<std::uint8_t> openVertices(const Mesh& m, const mesh::Edges& edges) {
    std::vector<std::uint8_t> open(m.positions.size(), 0);
    for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
        if (edges.degree(e) != 1) continue;
        const HalfEdge h = edges.around(e)[0];
        open[fromVertex(m, h)] = open[toVertex(m, h)] = 1;
    }
    return open;
}

class Welding {
public:
    Welding(const Mesh& m, const Pick& pick, const WeldOptions& options) : options_(options) {
        result_.mesh = m;
        const std::vector<std::uint8_t> chosen = pick.mask(m);
        picked_.assign(m.positions.size(), 0);
        for (TriangleId t = 0; t < m.triangles.size(); ++t)
            if (chosen[t])
                for (VertexId v : m.triangles[t]) picked_[v] = 1;
    }

    Outcome<WeldResult> run(Progress& progress) {
        joinVertices();
        if (!progress.report(0.5)) return mesh::cancelled();
        removeCollapsed();
        // Splitting an edge at one vertex may leave a shorter one for the next round of another edge: repeat until
        // nothing is left to split; every split uses up an open vertex's place on an edge.
        while (splitEdges())
            if (!progress.report(0.8)) return mesh::cancelled();
        mesh::dropUnusedVertices(result_.mesh);
        return std::move(result_);
    }

private:
    // Each vertex goes to the first earlier one within reach that itself stays: no chains, so no vertex moves farther
    // than the distance. An edge's two ends are not joined with each other: that would eat the surface, not a gap.
    void joinVertices() {
        const mesh::Edges edges(result_.mesh);
        std::vector<std::uint8_t> use = options_.openOnly ? openVertices(result_.mesh, edges)
                                                          : std::vector<std::uint8_t>(result_.mesh.positions.size(), 1);
        const mesh::Corners corners(result_.mesh);
        CellGrid grid(options_.distance);
        std::vector<VertexId> target(result_.mesh.positions.size());
        for (VertexId v = 0; v < target.size(); ++v) {
            target[v] = v;
            if (!use[v] || !picked_[v]) continue;
            const Point& p = result_.mesh.positions[v];
            double best = options_.distance;
            grid.near(around(p, options_.distance), [&](VertexId other) {
                const double d = (result_.mesh.positions[other] - p).norm();
                if (d > best || (d == best && target[v] != v) || neighbours(corners, v, other)) return;
                best = d;
                target[v] = other;
            });
            if (target[v] == v) {
                grid.add(v, p);
            } else {
                ++result_.joined;
                result_.farthestMoved = std::max(result_.farthestMoved, best);
            }
        }
        for (mesh::Triangle& t : result_.mesh.triangles)
            for (VertexId& v : t) v = target[v];
    }

    [[nodiscard]] bool neighbours(const mesh::Corners& corners, VertexId a, VertexId b) const {
        const auto at = corners.at(a);
        return std::any_of(at.begin(), at.end(), [&](HalfEdge h) {
            return toVertex(result_.mesh, h) == b || oppositeVertex(result_.mesh, h) == b;
        });
    }

    void removeCollapsed() {
        std::vector<std::uint8_t> keep(result_.mesh.triangles.size(), 1);
        for (std::size_t t = 0; t < keep.size(); ++t) keep[t] = !mesh::isCollapsed(result_.mesh.triangles[t]);
        result_.collapsed = static_cast<std::size_t>(std::count(keep.begin(), keep.end(), 0));
        // Unused vertices stay for now: picked_ speaks of their numbers.
        if (result_.collapsed == 0) return;
        Mesh& m = result_.mesh;
        std::size_t next = 0;
        for (std::size_t t = 0; t < keep.size(); ++t) {
            if (!keep[t]) continue;
            m.triangles[next] = m.triangles[t];
            if (!m.regions.empty()) m.regions[next] = m.regions[t];
            ++next;
        }
        m.triangles.resize(next);
        if (!m.regions.empty()) m.regions.resize(next);
    }

    // One round: each open edge with open vertices along it is split at all of them. True where any was.
    bool splitEdges() {
        Mesh& m = result_.mesh;
        const mesh::Edges edges(m);
        const std::vector<std::uint8_t> open = openVertices(m, edges);
        CellGrid grid(cellForEdges(edges));
        for (VertexId v = 0; v < open.size(); ++v)
            if (open[v] && picked_[v]) grid.add(v, m.positions[v]);
        std::vector<std::uint8_t> touched(m.triangles.size(), 0);
        const std::size_t before = result_.split;
        for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
            if (edges.degree(e) != 1) continue;
            const HalfEdge h = edges.around(e)[0];
            if (touched[mesh::triangleOf(h)] || !picked_[fromVertex(m, h)] || !picked_[toVertex(m, h)]) continue;
            const std::vector<VertexId> along = verticesAlong(grid, h);
            if (along.empty()) continue;
            touched[mesh::triangleOf(h)] = 1;
            splitAt(h, along);
        }
        return result_.split > before;
    }

    [[nodiscard]] double cellForEdges(const mesh::Edges& edges) const {
        double sum = 0;
        std::size_t count = 0;
        for (mesh::EdgeId e = 0; e < edges.count(); ++e)
            if (edges.degree(e) == 1) {
                const HalfEdge h = edges.around(e)[0];
                sum += (result_.mesh.positions[fromVertex(result_.mesh, h)] -
                        result_.mesh.positions[toVertex(result_.mesh, h)])
                           .norm();
                ++count;
            }
        return std::max(options_.distance, count > 0 ? sum / static_cast<double>(count) : 1.0);
    }

    // Open vertices within the distance of the inside of edge h, in their order along it.
    [[nodiscard]] std::vector<VertexId> verticesAlong(const CellGrid& grid, HalfEdge h) const {
        const Mesh& m = result_.mesh;
        const Point& a = m.positions[fromVertex(m, h)];
        const Point& b = m.positions[toVertex(m, h)];
        const Point ab = b - a;
        const double length = ab.norm();
        mesh::Box box = around(a, options_.distance);
        box.add(around(b, options_.distance));
        std::vector<std::pair<double, VertexId>> found;
        grid.near(box, [&](VertexId v) {
            if (v == fromVertex(m, h) || v == toVertex(m, h) || v == oppositeVertex(m, h)) return;
            const double t = ab.dot(m.positions[v] - a) / length;
            if (t <= options_.distance || t >= length - options_.distance) return;
            if ((a + t / length * ab - m.positions[v]).norm() <= options_.distance) found.emplace_back(t, v);
        });
        std::sort(found.begin(), found.end());
        found.erase(std::unique(found.begin(), found.end()), found.end());
        std::vector<VertexId> along;
        for (const auto& [t, v] : found) along.push_back(v);
        return along;
    }

    // The triangle of h becomes a fan over the opposite corner.
    void splitAt(HalfEdge h, const std::vector<VertexId>& along) {
        Mesh& m = result_.mesh;
        const TriangleId t = mesh::triangleOf(h);
        const VertexId b = toVertex(m, h);
        const VertexId c = oppositeVertex(m, h);
        VertexId from = fromVertex(m, h);
        m.triangles[t] = {from, along.front(), c};
        from = along.front();
        for (std::size_t i = 1; i <= along.size(); ++i) {
            const VertexId to = i < along.size() ? along[i] : b;
            m.triangles.push_back({from, to, c});
            if (!m.regions.empty()) m.regions.push_back(m.regions[t]);
            from = to;
        }
        result_.split += 1;
    }

    WeldOptions options_;
    std::vector<std::uint8_t> picked_;
    WeldResult result_;
};

}  // namespace

double proposedWeldDistance(const Mesh& m) {
    const mesh::Edges edges(m);
    const std::vector<std::uint8_t> open = openVertices(m, edges);
    double sum = 0;
    std::size_t count = 0;
    for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
        if (edges.degree(e) != 1) continue;
        const HalfEdge h = edges.around(e)[0];
        sum += (m.positions[fromVertex(m, h)] - m.positions[toVertex(m, h)]).norm();
        ++count;
    }
    if (count == 0) return 0;
    const double reach = tolerance::crackOfOpenEdge * sum / static_cast<double>(count);
    if (!(reach > 0)) return 0;
    CellGrid grid(reach);
    for (VertexId v = 0; v < open.size(); ++v)
        if (open[v]) grid.add(v, m.positions[v]);
    std::vector<double> gaps;
    for (VertexId v = 0; v < open.size(); ++v) {
        if (!open[v]) continue;
        double best = reach;
        grid.near(around(m.positions[v], reach), [&](VertexId other) {
            if (other != v) best = std::min(best, (m.positions[other] - m.positions[v]).norm());
        });
        if (best < reach) gaps.push_back(best);
    }
    if (gaps.empty()) return 0;
    return 1.2 * *std::max_element(gaps.begin(), gaps.end());
}

Outcome<WeldResult> weld(const Mesh& m, const Pick& pick, const WeldOptions& options, Progress& progress) {
    if (!(options.distance >= 0)) return mesh::badInput("weld: the distance must not be negative");
    if (!progress.report(0)) return mesh::cancelled();
    if (options.distance == 0) return WeldResult{m, 0, 0, 0, 0};
    return Welding(m, pick, options).run(progress);
}

}  // namespace zither::repair
