#include "shape/decimate.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <bit>
#include <cmath>

#include "measure/deviation.h"
#include "measure/mass.h"
#include "mesh/edges.h"
#include "mesh/parallel.h"
#include "mesh/tolerances.h"
#include "shape/quadric.h"

namespace zither::shape {
namespace {

using mesh::Point;
using mesh::Triangle;
using mesh::TriangleId;
using mesh::VertexId;

// A collapse waiting in the queue; out of date once a vertex has a newer version.
struct Candidate {
    VertexId u;
    VertexId v;
    std::uint32_t version;  // sum of both vertices' versions when it was made
};

// Candidates in buckets of the error's logarithm: eight a power of two.
class BucketQueue {
public:
    void push(double error, const Candidate& c) {
        const std::size_t bucket = bucketOf(error);
        if (bucket >= buckets_.size()) buckets_.resize(bucket + 1);
        buckets_[bucket].push_back(c);
        lowest_ = std::min(lowest_, bucket);
    }
    bool pop(Candidate& c) {
        while (lowest_ < buckets_.size() && buckets_[lowest_].empty()) ++lowest_;
        if (lowest_ >= buckets_.size()) return false;
        c = buckets_[lowest_].back();
        buckets_[lowest_].pop_back();
        return true;
    }

private:
    // Exponent and first three bits of the mantissa: monotonous in the error. Errors are relative to the whole, those
    // below 2^-140 of it count as none.
    static std::size_t bucketOf(double error) {
        constexpr std::uint64_t base = (1023 - 140) << 3;
        const std::uint64_t bits = std::bit_cast<std::uint64_t>(error) >> 49;
        return bits > base ? static_cast<std::size_t>(bits - base) : 0;
    }

    std::vector<std::vector<Candidate>> buckets_;
    std::size_t lowest_ = 0;
};

enum class VertexKind : std::uint8_t {
    Inner,
    Border,  // on an open edge or a region border: moves only along it
    Fixed,   // non-manifold, where borders meet, or not to be touched
};

// What a collapse would do.
struct Placement {
    Point at;
    double error = 0;
};

class Decimating {
public:
    Decimating(const Mesh& m, const Pick& pick, const DecimateOptions& options)
        : mesh_(m), options_(options), origin_(mesh::boxOf(m).centre()), scale_(mesh::boxOf(m).diagonal()) {
        if (!(scale_ > 0)) scale_ = 1;
        // Working coordinates are centred and of size one: errors are relative, offsets cost no digits.
        position_.resize(m.positions.size());
        for (std::size_t v = 0; v < position_.size(); ++v) position_[v] = (m.positions[v] - origin_) / scale_;
        original_.assign(m.positions.size(), 1);
        triangle_ = m.triangles;
        alive_.assign(m.triangles.size(), 1);
        version_.assign(m.positions.size(), 0);
        mark_.assign(m.positions.size(), 0);
        refused_.assign(m.positions.size(), 0);
        classify(pick.mask(m));
        buildQuadrics();
        buildCorners();
    }

    // Collapses up to the target or until the next collapse would cost more than errorLimit (squared length, relative).
    Outcome<DecimateResult> run(double errorLimit, Progress& progress) {
        std::size_t count = triangle_.size();
        const std::size_t target = std::min(options_.targetTriangles, count);
        const std::size_t toRemove = count - target;
        errorLimit_ = errorLimit;
        fillQueue();
        Candidate c{};
        std::size_t steps = 0;
        while (count > target && queue_.pop(c)) {
            if (++steps % 8192 == 0 && !progress.report(static_cast<double>(triangle_.size() - count) / static_cast<double>(toRemove)))
                return mesh::cancelled();
            if (version_[c.u] + version_[c.v] != c.version || dead(c.u) || dead(c.v)) continue;
            count -= tryCollapse(c.u, c.v);
        }
        return finish(count);
    }

private:
    [[nodiscard]] bool dead(VertexId v) const { return cornerCount_[v] == 0; }

    void classify(const std::vector<std::uint8_t>& chosen) {
        const mesh::Edges edges(mesh_);
        kind_.assign(position_.size(), VertexKind::Inner);
        std::vector<std::uint8_t> borderEdges(position_.size(), 0);
        for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
            const mesh::HalfEdge h = edges.around(e)[0];
            const VertexId from = fromVertex(mesh_, h);
            const VertexId to = toVertex(mesh_, h);
            const bool twoSided = edges.degree(e) == 2;
            if (edges.degree(e) > 2 || (twoSided && mesh::runsAlong(mesh_, h, edges.around(e)[1]))) {
                kind_[from] = kind_[to] = VertexKind::Fixed;
            } else if (!twoSided || mesh_.regionOf(mesh::triangleOf(h)) != mesh_.regionOf(mesh::triangleOf(edges.around(e)[1]))) {
                borderPlanes_.push_back(h);
                for (VertexId v : {from, to}) borderEdges[v] = static_cast<std::uint8_t>(std::min(3, borderEdges[v] + 1));
            }
        }
        for (VertexId v = 0; v < kind_.size(); ++v) {
            if (borderEdges[v] == 0 || kind_[v] == VertexKind::Fixed) continue;
            kind_[v] = borderEdges[v] == 2 && !options_.lockBorders ? VertexKind::Border : VertexKind::Fixed;
        }
        fixBowTies(edges);
        for (TriangleId t = 0; t < triangle_.size(); ++t)
            if (!chosen[t] || mesh::isCollapsed(triangle_[t]))
                for (VertexId v : triangle_[t]) kind_[v] = VertexKind::Fixed;
    }

    // A vertex whose fans hang together only there would be pulled into a non-manifold knot.
    void fixBowTies(const mesh::Edges& edges) {
        std::vector<std::uint32_t> corners(kind_.size(), 0);
        std::vector<std::uint32_t> walked(kind_.size(), 0);
        std::vector<mesh::HalfEdge> first(kind_.size(), mesh::noEdge);
        for (mesh::HalfEdge h = 0; h < 3 * triangle_.size(); ++h) {
            const VertexId v = fromVertex(mesh_, h);
            ++corners[v];
            // Start where there is nothing to the right, so that one walk sees the whole of an open fan.
            if (first[v] == mesh::noEdge || edges.twin(h) == mesh::noEdge) first[v] = h;
        }
        for (VertexId v = 0; v < kind_.size(); ++v) {
            if (first[v] == mesh::noEdge || kind_[v] == VertexKind::Fixed) continue;
            mesh::HalfEdge h = first[v];
            do {
                ++walked[v];
                h = edges.twin(mesh::previousInTriangle(h));
            } while (h != mesh::noEdge && h != first[v] && walked[v] <= corners[v]);
            if (walked[v] != corners[v]) kind_[v] = VertexKind::Fixed;
        }
    }

    void buildQuadrics() {
        quadric_.resize(position_.size());
        for (const Triangle& t : triangle_) {
            const Point normal = (position_[t[1]] - position_[t[0]]).cross(position_[t[2]] - position_[t[0]]);
            const double twiceArea = normal.norm();
            if (!(twiceArea > 0)) continue;
            for (VertexId v : t) quadric_[v].addPlane(normal / twiceArea, position_[t[0]], twiceArea / 6);
        }
        for (mesh::HalfEdge h : borderPlanes_) {
            const Triangle& t = triangle_[mesh::triangleOf(h)];
            const VertexId from = fromVertex(mesh_, h);
            const VertexId to = toVertex(mesh_, h);
            const Point edge = position_[to] - position_[from];
            const Point across = edge.cross((position_[t[1]] - position_[t[0]]).cross(position_[t[2]] - position_[t[0]]));
            if (!(across.norm() > 0)) continue;
            for (VertexId v : {from, to}) quadric_[v].addPlane(across.normalized(), position_[from], tolerance::borderWeight * edge.squaredNorm());
        }
    }

    void buildCorners() {
        const std::size_t n = position_.size();
        cornerBegin_.assign(n, 0);
        cornerCount_.assign(n, 0);
        for (const Triangle& t : triangle_)
            for (VertexId v : t) ++cornerCount_[v];
        std::uint32_t total = 0;
        for (std::size_t v = 0; v < n; ++v) {
            cornerBegin_[v] = total;
            total += cornerCount_[v];
            cornerCount_[v] = 0;
        }
        around_.resize(total);
        for (TriangleId t = 0; t < triangle_.size(); ++t)
            for (VertexId v : triangle_[t]) around_[cornerBegin_[v] + cornerCount_[v]++] = t;
    }

    [[nodiscard]] std::span<const TriangleId> trianglesAt(VertexId v) const { return {around_.data() + cornerBegin_[v], cornerCount_[v]}; }

    [[nodiscard]] bool onBorder(VertexId u, VertexId v) const {
        // Border edges move with their vertices; two border vertices with one triangle or two regions between them.
        TriangleId first = mesh::noEdge;
        for (TriangleId t : trianglesAt(u)) {
            if (!hasVertex(t, v)) continue;
            if (first == mesh::noEdge) first = t;
            else return mesh_.regionOf(first) != mesh_.regionOf(t);
        }
        return true;
    }

    [[nodiscard]] bool hasVertex(TriangleId t, VertexId v) const {
        return triangle_[t][0] == v || triangle_[t][1] == v || triangle_[t][2] == v;
    }

    // Where the vertex would go and what that costs; nothing where the kinds of the vertices forbid the collapse.
    [[nodiscard]] std::optional<Placement> place(VertexId u, VertexId v) const {
        const VertexKind ku = kind_[u];
        const VertexKind kv = kind_[v];
        if (ku == VertexKind::Fixed && kv == VertexKind::Fixed) return std::nullopt;
        Quadric q = quadric_[u];
        q.add(quadric_[v]);
        if (ku != kv && (ku == VertexKind::Fixed || (ku == VertexKind::Border && kv == VertexKind::Inner))) {
            if (kv == VertexKind::Border && !onBorder(u, v)) return std::nullopt;
            return Placement{position_[u], q.at(position_[u])};
        }
        if (ku != kv) {
            if (ku == VertexKind::Border && !onBorder(u, v)) return std::nullopt;
            return Placement{position_[v], q.at(position_[v])};
        }
        if (ku == VertexKind::Border && !onBorder(u, v)) return std::nullopt;
        if (const auto minimum = q.minimum()) {
            // Far from the edge the minimum is an artefact of nearly parallel planes.
            const double reach = 2 * (position_[u] - position_[v]).squaredNorm();
            if ((*minimum - 0.5 * (position_[u] + position_[v])).squaredNorm() <= reach) return Placement{*minimum, q.at(*minimum)};
        }
        Placement best{0.5 * (position_[u] + position_[v]), 0};
        best.error = q.at(best.at);
        for (VertexId end : {u, v})
            if (const double error = q.at(position_[end]); error <= best.error) best = {position_[end], error};
        return best;
    }

    // A little of the edge's length breaks ties in flat places in favour of short edges.
    void offer(VertexId u, VertexId v) {
        const auto placement = place(u, v);
        if (!placement || placement->error > errorLimit_) return;
        constexpr double tieBreak = 0x1p-40;
        queue_.push(placement->error + tieBreak * tieBreak * (position_[u] - position_[v]).squaredNorm(), {u, v, version_[u] + version_[v]});
    }

    void fillQueue() {
        for (TriangleId t = 0; t < triangle_.size(); ++t)
            for (unsigned k = 0; k < 3; ++k) {
                const VertexId u = triangle_[t][k];
                const VertexId v = triangle_[t][(k + 1) % 3];
                // Each inner edge is seen twice, in both directions; an open one once in either.
                if (u < v || (kind_[u] != VertexKind::Inner && kind_[v] != VertexKind::Inner)) offer(u, v);
            }
    }

    // Number of triangles removed: 0 where the collapse is not allowed.
    std::size_t tryCollapse(VertexId u, VertexId v) {
        const auto placement = place(u, v);
        if (!placement || !linkAllows(u, v) || !keepsDirection(u, v, placement->at) || !keepsDirection(v, u, placement->at)) {
            refused_[u] = refused_[v] = 1;
            return 0;
        }
        return collapse(u, v, placement->at);
    }

    // The vertices that both ends see must be exactly the corners opposite the edge (Dey et al. 1999); and an inner edge
    // between two border vertices is a bridge that must not be closed.
    bool linkAllows(VertexId u, VertexId v) {
        std::size_t over = 0;
        ++markNow_;
        for (TriangleId t : trianglesAt(u)) {
            over += hasVertex(t, v);
            for (VertexId w : triangle_[t]) mark_[w] = markNow_;
        }
        if (over == 0 || over > 2) return false;
        const std::uint32_t seen = markNow_++;
        std::size_t common = 0;
        for (TriangleId t : trianglesAt(v))
            for (VertexId w : triangle_[t])
                if (mark_[w] == seen && w != u && w != v) {
                    ++common;
                    mark_[w] = markNow_;
                }
        // Two triangles over the edge whose far corners coincide, or a tetrahedron, would fold flat onto each other.
        return common == over && !(over == 2 && cornerCount_[u] <= 3 && cornerCount_[v] <= 3);
    }

    // No triangle around `moved` that stays may turn far or become a sliver when it moves to `at`.
    [[nodiscard]] bool keepsDirection(VertexId moved, VertexId other, const Point& at) const {
        for (TriangleId t : trianglesAt(moved)) {
            if (hasVertex(t, other)) continue;
            const Triangle& tri = triangle_[t];
            const unsigned k = tri[0] == moved ? 0 : tri[1] == moved ? 1 : 2;
            const Point& b = position_[tri[(k + 1) % 3]];
            const Point& c = position_[tri[(k + 2) % 3]];
            const Point before = (b - position_[moved]).cross(c - position_[moved]);
            const Point after = (b - at).cross(c - at);
            const double afterSquared = after.squaredNorm();
            if (!(afterSquared > 0)) return false;
            const double cosine = before.dot(after);
            if (cosine < 0 || cosine * cosine < tolerance::flipCosine * tolerance::flipCosine * before.squaredNorm() * afterSquared) {
                if (before.squaredNorm() > 0) return false;
            }
            const double longest = std::max({(b - at).squaredNorm(), (c - at).squaredNorm(), (c - b).squaredNorm()});
            const double limit = tolerance::sliverHeight * longest;
            if (afterSquared < limit * limit) {
                const double longestBefore = std::max({(b - position_[moved]).squaredNorm(), (c - position_[moved]).squaredNorm(), (c - b).squaredNorm()});
                if (afterSquared * longestBefore * longestBefore < before.squaredNorm() * longest * longest) return false;
            }
        }
        return true;
    }

    // v goes into u.
    std::size_t collapse(VertexId u, VertexId v, const Point& at) {
        std::size_t removed = 0;
        const auto begin = static_cast<std::uint32_t>(around_.size());
        for (VertexId end : {u, v})
            for (std::uint32_t i = cornerBegin_[end], last = i + cornerCount_[end]; i < last; ++i) {
                const TriangleId t = around_[i];
                if (hasVertex(t, u) && hasVertex(t, v)) {
                    if (end == v) removeTriangle(t, u, v), ++removed;
                    continue;
                }
                around_.push_back(t);
            }
        for (std::uint32_t i = begin; i < around_.size(); ++i)
            for (VertexId& w : triangle_[around_[i]])
                if (w == v) w = u;
        // A kept end keeps its bits: positions are written back only where the vertex really moved.
        if (at == position_[v] && at != position_[u]) {
            movedFrom(u, v);
        } else if (at != position_[u]) {
            original_[u] = 0;
        }
        position_[u] = at;
        quadric_[u].add(quadric_[v]);
        if (kind_[v] > kind_[u]) kind_[u] = kind_[v];
        cornerBegin_[u] = begin;
        cornerCount_[u] = static_cast<std::uint32_t>(around_.size() - begin);
        cornerCount_[v] = 0;
        ++version_[u];
        offerAround(u);
        return removed;
    }

    void movedFrom(VertexId u, VertexId v) {
        original_[u] = original_[v];
        if (source_.empty()) {
            source_.resize(position_.size());
            for (VertexId w = 0; w < source_.size(); ++w) source_[w] = w;
        }
        source_[u] = source_[v];
    }

    void removeTriangle(TriangleId t, VertexId u, VertexId v) {
        alive_[t] = 0;
        for (VertexId w : triangle_[t]) {
            if (w == u || w == v) continue;
            TriangleId* list = around_.data() + cornerBegin_[w];
            std::uint32_t& count = cornerCount_[w];
            *std::find(list, list + count, t) = list[count - 1];
            --count;
        }
    }

    void offerAround(VertexId u) {
        refused_[u] = 0;
        forEachNeighbour(u, [&](VertexId w) { offer(u, w); });
        // What was refused beside here may be allowed now: the triangles that stood in the way have changed.
        refusedNearby_.clear();
        forEachNeighbour(u, [&](VertexId w) {
            if (std::exchange(refused_[w], 0)) refusedNearby_.push_back(w);
        });
        for (VertexId w : refusedNearby_)
            forEachNeighbour(w, [&](VertexId x) {
                if (x != u) offer(w, x);
            });
    }

    template <class Use>
    void forEachNeighbour(VertexId u, const Use& use) {
        ++markNow_;
        mark_[u] = markNow_;
        for (std::uint32_t i = cornerBegin_[u]; i < cornerBegin_[u] + cornerCount_[u]; ++i)
            for (VertexId w : triangle_[around_[i]]) {
                if (mark_[w] == markNow_) continue;
                mark_[w] = markNow_;
                use(w);
            }
    }

    DecimateResult finish(std::size_t count) {
        DecimateResult result;
        result.mesh.positions = mesh_.positions;
        for (VertexId v = 0; v < position_.size(); ++v) {
            if (dead(v)) continue;
            const VertexId source = source_.empty() ? v : source_[v];
            result.mesh.positions[v] = original_[v] ? mesh_.positions[source] : Point(position_[v] * scale_ + origin_);
        }
        result.mesh.regionNames = mesh_.regionNames;
        for (TriangleId t = 0; t < triangle_.size(); ++t) {
            if (!alive_[t]) continue;
            result.mesh.triangles.push_back(triangle_[t]);
            if (!mesh_.regions.empty()) result.mesh.regions.push_back(mesh_.regions[t]);
        }
        mesh::dropUnusedVertices(result.mesh);
        result.removed = mesh_.triangles.size() - count;
        result.reachedTarget = count <= options_.targetTriangles;
        return result;
    }

    const Mesh& mesh_;
    DecimateOptions options_;
    Point origin_;
    double scale_;
    double errorLimit_ = std::numeric_limits<double>::infinity();
    std::vector<Point> position_;
    std::vector<std::uint8_t> original_;  // the vertex still has the coordinates of source_
    std::vector<VertexId> source_;        // empty: itself
    std::vector<Triangle> triangle_;
    std::vector<std::uint8_t> alive_;
    std::vector<Quadric> quadric_;
    std::vector<VertexKind> kind_;
    std::vector<mesh::HalfEdge> borderPlanes_;  // half-edges along borders
    // Triangles at each vertex; a collapse appends the merged list at the end.
    std::vector<std::uint32_t> cornerBegin_;
    std::vector<std::uint32_t> cornerCount_;
    std::vector<TriangleId> around_;
    std::vector<std::uint32_t> version_;
    std::vector<std::uint32_t> mark_;
    std::uint32_t markNow_ = 0;
    std::vector<std::uint8_t> refused_;  // a collapse at this vertex was not allowed
    std::vector<VertexId> refusedNearby_;
    BucketQueue queue_;
};

// The quadric's error is a weighted sum of squared distances and bounds nothing; so the result is measured, and the
// limit on the error moved until the measure holds and, if it can be had, most of the deviation allowed is used.
Outcome<DecimateResult> decimateWithin(const Mesh& m, const Pick& pick, const DecimateOptions& options, Progress& progress) {
    constexpr int mostTries = 8;
    constexpr double wellUsed = 0.5;
    const double size = std::max(mesh::boxOf(m).diagonal(), std::numeric_limits<double>::min());
    const double meanArea = measure::massOf(m).area / (size * size) / std::max<double>(1, static_cast<double>(m.triangles.size()));
    DecimateResult best;
    best.mesh = m;
    best.reachedTarget = m.triangles.size() <= options.targetTriangles;
    double low = 0;
    double high = std::numeric_limits<double>::infinity();
    double limit = options.maxDeviation / size;
    for (int attempt = 0; attempt < mostTries; ++attempt) {
        mesh::PartOfProgress part(progress, static_cast<double>(attempt) / mostTries, (attempt + 1.0) / mostTries);
        Outcome<DecimateResult> result = Decimating(m, pick, options).run(limit * limit * meanArea, part);
        if (!result) return result;
        const auto comparison = measure::compare(m, result->mesh, part, options.maxDeviation);
        if (!comparison) return tl::unexpected(comparison.error());
        result->measuredDeviation = std::max(comparison->aToB.max, comparison->bToA.max);
        const bool holds = result->measuredDeviation <= options.maxDeviation;
        const bool done = holds && (result->reachedTarget || result->measuredDeviation > wellUsed * options.maxDeviation);
        (holds ? low : high) = limit;
        if (holds && result->removed >= best.removed) best = std::move(*result);
        if (done) break;
        limit = !std::isfinite(high) ? 4 * limit : low > 0 ? std::sqrt(low * high) : 0.25 * high;
    }
    return best;
}

}  // namespace

Outcome<DecimateResult> decimate(const Mesh& m, const Pick& pick, const DecimateOptions& options, Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    if (!std::isfinite(options.maxDeviation)) return Decimating(m, pick, options).run(std::numeric_limits<double>::infinity(), progress);

    return decimateWithin(m, pick, options, progress);
}

}  // namespace zither::shape
