// Triangles are paired around solid wedges by exact angular order; each group but one gets a copy of the vertex.
#include "fit/separate.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <map>

#include "arrange/edge_order.h"
#include "exact/predicates.h"
#include "fit/fit_tolerances.h"
#include "mesh/disjoint_sets.h"

namespace zither::fit {
namespace {

using mesh::EdgeId;
using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

constexpr mesh::NoIndex none;

class Separator {
public:
    Separator(const Mesh& m, const mesh::Edges& edges, const SeparateOptions& options)
        : m_(m), edges_(edges), options_(options), corners_(m), twin_(3 * m.triangles.size(), none) {}

    Separation run() {
        pairEdges();
        partVertices();
        partEdges();
        emit();
        return std::move(result_);
    }

private:
    void pairEdges() {
        for (EdgeId e = 0; e < edges_.count(); ++e) {
            const auto around = edges_.around(e);
            if (around.size() == 2) {
                twin_[around[0]] = around[1];
                twin_[around[1]] = around[0];
            }
            if (around.size() < 3) continue;
            const std::vector<HalfEdge> order = byAngle(m_, around);
            const auto ascending = [&](HalfEdge h) { return mesh::fromVertex(m_, h) < mesh::toVertex(m_, h); };
            bool wedges = order.size() % 2 == 0;
            for (std::size_t i = 0; i < order.size(); ++i)
                wedges &= ascending(order[i]) != ascending(order[(i + 1) % order.size()]);
            if (!wedges) {
                // Open sheets that pass through each other bound no wedges, and stay as they are.
                unparted_.push_back(e);
                continue;
            }
            for (std::size_t i = 0; i < order.size(); ++i) {
                // Counter-clockwise from a triangle that runs against the edge comes its solid.
                const HalfEdge a = order[i];
                const HalfEdge b = order[(i + 1) % order.size()];
                if (ascending(a) == ascending(b) || ascending(a) != (options_.touching == Touching::Join)) continue;
                twin_[a] = b;
                twin_[b] = a;
            }
            touching_.push_back(e);
        }
    }

    // Groups of the corners at each vertex, linked by twins; all but the largest get a copy of it.
    void partVertices() {
        copyOf_.assign(3 * m_.triangles.size(), none);
        mesh::DisjointSets sets(3 * m_.triangles.size());
        for (HalfEdge h = 0; h < twin_.size(); ++h) {
            const HalfEdge t = twin_[h];
            if (t == none || t < h) continue;
            const bool along = mesh::runsAlong(m_, h, t);
            sets.join(h, along ? t : mesh::nextInTriangle(t));
            sets.join(mesh::nextInTriangle(h), along ? mesh::nextInTriangle(t) : t);
        }
        for (EdgeId e : unparted_) {
            const auto around = edges_.around(e);
            for (HalfEdge h : around) {
                const bool along = mesh::runsAlong(m_, around.front(), h);
                sets.join(around.front(), along ? h : mesh::nextInTriangle(h));
                sets.join(mesh::nextInTriangle(around.front()), along ? mesh::nextInTriangle(h) : h);
            }
        }
        for (VertexId v = 0; v < m_.positions.size(); ++v) {
            const auto at = corners_.at(v);
            if (at.size() < 2) continue;
            const std::uint32_t root = sets.find(at.front());
            if (std::all_of(at.begin(), at.end(), [&](HalfEdge h) { return sets.find(h) == root; })) continue;
            std::map<std::uint32_t, std::vector<HalfEdge>> groups;
            for (HalfEdge h : at) groups[sets.find(h)].push_back(h);
            const auto stays = std::max_element(groups.begin(), groups.end(), [](const auto& a, const auto& b) {
                return a.second.size() < b.second.size();
            });
            for (auto it = groups.begin(); it != groups.end(); ++it)
                if (it != stays) copy(v, it->second);
        }
    }

    void copy(VertexId v, const std::vector<HalfEdge>& group) {
        Point inwards = Point::Zero();
        for (HalfEdge h : group) inwards -= mesh::areaVector(m_, mesh::triangleOf(h)).normalized();
        const std::uint32_t number = addVertex(m_.positions[v], inwards);
        for (HalfEdge h : group) copyOf_[h] = number;
    }

    // `inwards`: away from the front of the triangles that use it.
    std::uint32_t addVertex(const Point& p, const Point& inwards) {
        const Point direction = options_.touching == Touching::Part ? inwards : Point(-inwards);
        const double unit =
            std::max(options_.leastUnit, mesh::unitInLastPlace(options_.precision, p.cwiseAbs().maxCoeff()));
        const double length = direction.norm();
        const Point along = length > tolerance::noDirection ? Point(direction / length) : Point(Point::UnitX());
        result_.added.push_back(p + options_.units * unit * along);
        result_.addedFrom.push_back(p);
        return static_cast<std::uint32_t>(m_.positions.size() + result_.added.size() - 1);
    }

    [[nodiscard]] VertexId cornerOf(HalfEdge h) const {
        return copyOf_[h] != none ? copyOf_[h] : mesh::fromVertex(m_, h);
    }

    // A touching edge of which two pairs still have the same ends gets a middle for each pair but one.
    void partEdges() {
        for (EdgeId e : touching_) {
            std::map<std::pair<VertexId, VertexId>, int> seen;
            for (HalfEdge h : edges_.around(e)) {
                const HalfEdge t = twin_[h];
                if (t == none || t < h) continue;
                const auto [a, b] = std::minmax({cornerOf(h), cornerOf(mesh::nextInTriangle(h))});
                if (seen[{a, b}]++ == 0) continue;
                const Point inwards = -mesh::areaVector(m_, mesh::triangleOf(h)).normalized() -
                                      mesh::areaVector(m_, mesh::triangleOf(t)).normalized();
                const Point middle =
                    0.5 * m_.positions[mesh::fromVertex(m_, h)] + 0.5 * m_.positions[mesh::toVertex(m_, h)];
                middleOf_[h] = middleOf_[t] = addVertex(middle, inwards);
            }
        }
    }

    void emit() {
        for (TriangleId t = 0; t < m_.triangles.size(); ++t) {
            const std::array<VertexId, 3> corner{cornerOf(3 * t), cornerOf(3 * t + 1), cornerOf(3 * t + 2)};
            bool changed = corner != m_.triangles[t];
            // Corners and the middles between them, in order; a fan over it where there are middles.
            std::vector<VertexId> rim;
            std::size_t apex = 0;
            for (unsigned k = 0; k < 3; ++k) {
                rim.push_back(corner[k]);
                if (const auto found = middleOf_.find(3 * t + k); found != middleOf_.end()) {
                    apex = rim.size();
                    rim.push_back(found->second);
                    changed = true;
                }
            }
            if (!changed) continue;
            result_.replaced.push_back(t);
            for (std::size_t i = 1; i + 1 < rim.size(); ++i) {
                const auto at = [&](std::size_t k) { return rim[(apex + k) % rim.size()]; };
                result_.replacement.push_back({at(0), at(i), at(i + 1)});
                result_.replacementOf.push_back(t);
            }
        }
    }

    const Mesh& m_;
    const mesh::Edges& edges_;
    SeparateOptions options_;
    mesh::Corners corners_;
    std::vector<HalfEdge> twin_;
    std::vector<EdgeId> touching_;
    std::vector<EdgeId> unparted_;
    std::vector<VertexId> copyOf_;  // of each corner
    std::map<HalfEdge, VertexId> middleOf_;
    Separation result_;
};

}  // namespace

std::vector<HalfEdge> byAngle(const Mesh& m, std::span<const HalfEdge> around) {
    const HalfEdge first = around.front();
    const auto [lower, higher] = std::minmax({mesh::fromVertex(m, first), mesh::toVertex(m, first)});
    const Point& u = m.positions[lower];
    const Point& v = m.positions[higher];
    const auto apex = [&](HalfEdge h) -> const Point& { return m.positions[mesh::oppositeVertex(m, h)]; };
    // orient3d(u, v, a, b) < 0: b lies on the side of (v - u) x (a - u), within half a turn counter-clockwise from a.
    return arrange::byAngle(around, [&](HalfEdge a, HalfEdge b) { return -exact::orient3d(u, v, apex(a), apex(b)); });
}

Separation separateTouching(const Mesh& m, const mesh::Edges& edges, const SeparateOptions& options) {
    return Separator(m, edges, options).run();
}

}  // namespace zither::fit
