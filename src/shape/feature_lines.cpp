// Edges are flagged, chained between fixed vertices, and chains that go round are cut.
#include "shape/feature_lines.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "measure/mass.h"
#include "shape/shape_tolerances.h"

namespace zither::shape {

using mesh::EdgeId;

Line::Line(std::vector<VertexId> vertices, const std::vector<Point>& positions) : vertices_(std::move(vertices)) {
    double way = 0;
    for (std::size_t i = 0; i < vertices_.size(); ++i) {
        points_.push_back(positions[vertices_[i]]);
        if (i > 0) way += (points_[i] - points_[i - 1]).norm();
        along_.push_back(way);
    }
}

std::size_t Line::edgeAt(double along) const {
    const auto it = std::upper_bound(along_.begin(), along_.end(), along);
    const auto i = static_cast<std::size_t>(it - along_.begin());
    return std::clamp<std::size_t>(i, 1, along_.size() - 1) - 1;
}

Point Line::at(double along) const {
    const std::size_t i = edgeAt(along);
    const double edge = along_[i + 1] - along_[i];
    const double share = edge > 0 ? std::clamp((along - along_[i]) / edge, 0.0, 1.0) : 0;
    // The ends with their own bits.
    if (share == 0) return points_[i];
    if (share == 1) return points_[i + 1];
    return points_[i] + share * (points_[i + 1] - points_[i]);
}

namespace {

class Chaining {
public:
    Chaining(const Mesh& m, const mesh::Edges& edges, const LineOptions& options)
        : m_(m), edges_(edges), options_(options), cosine_(std::cos(options.creaseDeg * std::numbers::pi / 180)) {}

    FeatureLines run() {
        flagEdges();
        dropSpurs();
        fixVertices();
        chain();
        return std::move(result_);
    }

private:
    enum class Kind : std::uint8_t { Plain, Line, Locked };

    [[nodiscard]] bool isLocked(TriangleId t) const { return !options_.locked.empty() && options_.locked[t] != 0; }

    [[nodiscard]] Kind kindOf(EdgeId e) const {
        const auto around = edges_.around(e);
        if (std::any_of(around.begin(), around.end(), [&](HalfEdge h) { return isLocked(h / 3); })) return Kind::Locked;
        if (around.size() == 1) return Kind::Line;
        if (around.size() > 2 || mesh::runsAlong(m_, around[0], around[1])) return Kind::Locked;
        const TriangleId t = around[0] / 3;
        const TriangleId u = around[1] / 3;
        if (m_.regionOf(t) != m_.regionOf(u)) return Kind::Line;
        const Point a = mesh::areaVector(m_, t);
        const Point b = mesh::areaVector(m_, u);
        // A needle's normal says nothing.
        if (std::min(measure::leastHeight(m_, t), measure::leastHeight(m_, u)) < needle_) return Kind::Plain;
        return a.dot(b) < cosine_ * a.norm() * b.norm() ? Kind::Line : Kind::Plain;
    }

    void flagEdges() {
        needle_ = tolerance::creaseNeedle * mesh::boxOf(m_).diagonal();
        kinds_.resize(edges_.count());
        for (EdgeId e = 0; e < edges_.count(); ++e) kinds_[e] = kindOf(e);
        countAtVertices();
    }

    [[nodiscard]] bool isCrease(EdgeId e) const {
        const auto around = edges_.around(e);
        return kinds_[e] == Kind::Line && around.size() == 2 &&
               m_.regionOf(around[0] / 3) == m_.regionOf(around[1] / 3);
    }

    // From each loose end back to where lines meet.
    void dropSpurs() {
        bool any = false;
        for (VertexId v = 0; v < atVertex_.size(); ++v) {
            if (atVertex_[v].count != 1 || atVertex_[v].locked || !isCrease(atVertex_[v].edge[0])) continue;
            std::vector<EdgeId> spur;
            double length = 0;
            VertexId at = v;
            for (EdgeId e = atVertex_[v].edge[0];;) {
                spur.push_back(e);
                const VertexId next = otherEnd(e, at);
                length += (m_.positions[next] - m_.positions[at]).norm();
                at = next;
                const AtVertex& there = atVertex_[at];
                if (length >= options_.spur || there.locked || there.count != 2) break;
                e = there.edge[0] == e ? there.edge[1] : there.edge[0];
                if (!isCrease(e)) break;
            }
            if (length >= options_.spur) continue;
            for (const EdgeId e : spur) kinds_[e] = Kind::Plain;
            any = true;
        }
        if (any) countAtVertices();
    }

    void countAtVertices() {
        atVertex_.assign(m_.positions.size(), {});
        for (EdgeId e = 0; e < edges_.count(); ++e) {
            if (kinds_[e] == Kind::Plain) continue;
            const HalfEdge h = edges_.around(e)[0];
            for (const VertexId v : {fromVertex(m_, h), toVertex(m_, h)}) {
                AtVertex& at = atVertex_[v];
                at.locked |= kinds_[e] == Kind::Locked;
                if (kinds_[e] == Kind::Line && at.count++ < 2) at.edge[at.count - 1] = e;
            }
        }
    }

    [[nodiscard]] VertexId otherEnd(EdgeId e, VertexId v) const {
        const HalfEdge h = edges_.around(e)[0];
        return fromVertex(m_, h) == v ? toVertex(m_, h) : fromVertex(m_, h);
    }

    void fixVertices() {
        result_.places.resize(m_.positions.size());
        for (VertexId v = 0; v < atVertex_.size(); ++v) {
            const AtVertex& at = atVertex_[v];
            bool fixed =
                at.locked || (at.count != 0 && at.count != 2) || (!options_.fixed.empty() && options_.fixed[v]);
            if (!fixed && at.count == 2) {
                const Point in = m_.positions[v] - m_.positions[otherEnd(at.edge[0], v)];
                const Point out = m_.positions[otherEnd(at.edge[1], v)] - m_.positions[v];
                fixed = in.dot(out) < cosine_ * in.norm() * out.norm();
            }
            if (fixed) result_.places[v].line = lockedLine;
        }
    }

    void chain() {
        result_.lineOf.assign(edges_.count(), noLine);
        for (EdgeId e = 0; e < edges_.count(); ++e)
            if (kinds_[e] == Kind::Locked) result_.lineOf[e] = lockedLine;
        // From fixed vertices first; what is left goes round.
        for (const bool round : {false, true})
            for (EdgeId e = 0; e < edges_.count(); ++e) {
                if (kinds_[e] != Kind::Line || result_.lineOf[e] != noLine) continue;
                const HalfEdge h = edges_.around(e)[0];
                for (const VertexId v : {fromVertex(m_, h), toVertex(m_, h)})
                    if (result_.lineOf[e] == noLine && (round || result_.places[v].isFixed())) follow(e, v);
            }
    }

    // Along the edges of a line from v on, until a fixed vertex, or v again.
    void follow(EdgeId e, VertexId v) {
        std::vector<VertexId> vertices{v};
        std::vector<EdgeId> chainEdges;
        result_.places[v].line = lockedLine;
        for (;;) {
            chainEdges.push_back(e);
            result_.lineOf[e] = lockedLine;  // for now: it is taken
            v = otherEnd(e, v);
            vertices.push_back(v);
            if (result_.places[v].isFixed()) break;
            const AtVertex& at = atVertex_[v];
            e = at.edge[0] == e ? at.edge[1] : at.edge[0];
        }
        // One that comes back to where it began has three more ends.
        const std::size_t parts = vertices.front() == vertices.back() ? std::min<std::size_t>(3, chainEdges.size()) : 1;
        for (std::size_t part = 0; part < parts; ++part) {
            const std::size_t begin = part * chainEdges.size() / parts;
            const std::size_t end = (part + 1) * chainEdges.size() / parts;
            add({vertices.begin() + static_cast<std::ptrdiff_t>(begin),
                 vertices.begin() + static_cast<std::ptrdiff_t>(end + 1)},
                {chainEdges.begin() + static_cast<std::ptrdiff_t>(begin),
                 chainEdges.begin() + static_cast<std::ptrdiff_t>(end)});
        }
    }

    void add(std::vector<VertexId> vertices, const std::vector<EdgeId>& chainEdges) {
        const auto number = static_cast<LineId>(result_.lines.size());
        for (const EdgeId e : chainEdges) result_.lineOf[e] = number;
        Line line(std::move(vertices), m_.positions);
        for (std::size_t i = 0; i < line.vertices().size(); ++i) {
            const bool isEnd = i == 0 || i + 1 == line.vertices().size();
            result_.places[line.vertices()[i]] = {isEnd ? lockedLine : number, line.along(i)};
        }
        result_.lines.push_back(std::move(line));
    }

    // The edges of lines at a vertex: how many, and two of them.
    struct AtVertex {
        std::uint32_t count = 0;
        std::array<EdgeId, 2> edge{};
        bool locked = false;
    };

    const Mesh& m_;
    const mesh::Edges& edges_;
    const LineOptions& options_;
    double cosine_;
    double needle_ = 0;
    std::vector<Kind> kinds_;
    std::vector<AtVertex> atVertex_;
    FeatureLines result_;
};

}  // namespace

FeatureLines featureLinesOf(const Mesh& m, const mesh::Edges& edges, const LineOptions& options) {
    return Chaining(m, edges, options).run();
}

}  // namespace zither::shape
