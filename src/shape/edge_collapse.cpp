// Candidates in buckets by error; the link condition and the turn of triangles are tested at each collapse.
#include "shape/edge_collapse.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cmath>

#include "mesh/disjoint_sets.h"
#include "shape/edge_swaps.h"
#include "shape/shape_tolerances.h"

namespace zither::shape {

EdgeCollapse::EdgeCollapse(const Mesh& m, const std::vector<VertexKind>& allowed, const CollapseSettings& settings)
    : mesh_(m), settings_(settings), count_(m.triangles.size()) {
    position_.resize(m.positions.size());
    for (std::size_t v = 0; v < position_.size(); ++v)
        position_[v] = (m.positions[v] - settings_.origin) / settings_.scale;
    original_.assign(m.positions.size(), 1);
    mergedInto_.resize(position_.size());
    for (VertexId v = 0; v < mergedInto_.size(); ++v) mergedInto_[v] = v;
    triangle_ = m.triangles;
    alive_.assign(m.triangles.size(), 1);
    version_.assign(m.positions.size(), 0);
    mark_.assign(m.positions.size(), 0);
    refused_.assign(m.positions.size(), 0);
    if (std::isfinite(settings_.mostReach)) reach_.assign(m.triangles.size(), 0);
    buildCorners();
    classify(allowed);
    if (!settings.onlyRedoes) buildQuadrics();
    if (!settings.onlyRedoes) fillQueue();
}

void EdgeCollapse::redo(const Collapse& c) {
    if (dead(c.u) || dead(c.v)) return;
    const VertexKind ku = kind_[c.u];
    const VertexKind kv = kind_[c.v];
    if (ku == VertexKind::Fixed && kv == VertexKind::Fixed) return;
    if (std::min(ku, kv) == VertexKind::Border && !onBorder(c.u, c.v)) return;
    // What is less free than the other stays where it is, as in place().
    const Point at = ku > kv ? position_[c.u] : kv > ku ? position_[c.v] : c.at;
    if (linkAllows(c.u, c.v) && fitOf(c.u, c.v, at) != Fit::Turned) count_ -= collapseWithinReach(c.u, c.v, at);
}

bool EdgeCollapse::advance(double errorLimit, std::size_t mostRemoved, Progress& progress) {
    std::size_t removed = 0;
    std::size_t steps = 0;
    Candidate c{};
    while (removed < mostRemoved && queue_.popUpTo(errorLimit, c)) {
        constexpr std::size_t stepsBetweenReports = 8192;
        if (++steps % stepsBetweenReports == 0 &&
            !progress.report(static_cast<double>(removed) / static_cast<double>(mostRemoved)))
            return false;
        if (versionOf(c.u, c.v) != c.version || dead(c.u) || dead(c.v)) continue;
        removed += tryCollapse(c);
    }
    count_ -= removed;
    return true;
}

void EdgeCollapse::classify(const std::vector<VertexKind>& allowed) {
    kind_ = allowed;
    // What nothing may touch needs no kind, and no plane.
    for (VertexId v = 0; v < kind_.size(); ++v)
        if (kind_[v] != VertexKind::Foreign && !isSimple(v)) kind_[v] = std::max(kind_[v], kindOf(v));
}

// All corners at v make one fan that closes, of one region. Most do.
bool EdgeCollapse::isSimple(VertexId v) const {
    const std::span<const TriangleId> at = trianglesAt(v);
    const auto after = [&](TriangleId t) {
        const Triangle& c = triangle_[t];
        return c[0] == v ? c[1] : c[1] == v ? c[2] : c[0];
    };
    const auto before = [&](TriangleId t) {
        const Triangle& c = triangle_[t];
        return c[0] == v ? c[2] : c[1] == v ? c[0] : c[1];
    };
    constexpr std::size_t few = 32;
    if (at.empty() || at.size() > few) return at.empty();
    std::array<VertexId, few> next;
    for (std::size_t i = 0; i < at.size(); ++i) {
        if (mesh::isCollapsed(triangle_[at[i]]) || mesh_.regionOf(at[i]) != mesh_.regionOf(at[0])) return false;
        next[i] = after(at[i]);
    }
    return mesh::goAroundOnce(
        at.size(), [&](std::size_t i) { return next[i]; }, [&](std::size_t i) { return before(at[i]); });
}

VertexKind EdgeCollapse::kindOf(VertexId v) {
    struct Side {
        VertexId other;
        mesh::HalfEdge half;
        bool leaves;  // v
        std::uint32_t corner;
    };
    std::vector<Side> sides;
    const std::span<const TriangleId> at = trianglesAt(v);
    for (std::uint32_t i = 0; i < at.size(); ++i) {
        const Triangle& t = triangle_[at[i]];
        if (mesh::isCollapsed(t)) return VertexKind::Fixed;
        const mesh::HalfEdge h = 3 * at[i] + (t[0] == v ? 0 : t[1] == v ? 1 : 2);
        sides.push_back({toVertex(mesh_, h), h, true, i});
        sides.push_back({oppositeVertex(mesh_, h), mesh::previousInTriangle(h), false, i});
    }
    std::sort(sides.begin(), sides.end(),
              [](const Side& a, const Side& b) { return a.other != b.other ? a.other < b.other : a.half < b.half; });
    bool knotted = false;
    std::size_t borders = 0;
    mesh::DisjointSets fans(at.size());
    for (std::size_t i = 0, end = 0; i < sides.size(); i = end) {
        end = i + 1;
        while (end < sides.size() && sides[end].other == sides[i].other) ++end;
        const bool twoSided = end - i == 2;
        knotted |= end - i > 2 || (twoSided && sides[i].leaves == sides[i + 1].leaves);
        if (twoSided) fans.join(sides[i].corner, sides[i + 1].corner);
        if (end - i > 2 || (twoSided && mesh_.regionOf(mesh::triangleOf(sides[i].half)) ==
                                            mesh_.regionOf(mesh::triangleOf(sides[i + 1].half))))
            continue;
        ++borders;
        if (v < sides[i].other || kind_[sides[i].other] == VertexKind::Foreign) borderPlanes_.push_back(sides[i].half);
    }
    // A vertex whose fans hang together only there would be pulled into a non-manifold knot.
    for (std::uint32_t i = 1; i < at.size(); ++i) knotted |= fans.find(i) != fans.find(0);
    if (!knotted && borders == 0) return VertexKind::Inner;
    return !knotted && borders == 2 && !settings_.lockBorders ? VertexKind::Border : VertexKind::Fixed;
}

void EdgeCollapse::buildQuadrics() {
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
        for (VertexId v : {from, to})
            quadric_[v].addPlane(across.normalized(), position_[from], tolerance::borderWeight * edge.squaredNorm());
    }
}

void EdgeCollapse::buildCorners() {
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

bool EdgeCollapse::onBorder(VertexId u, VertexId v) const {
    // Border edges move with their vertices; two border vertices with one triangle or two regions between them.
    TriangleId first = mesh::noEdge;
    for (TriangleId t : trianglesAt(u)) {
        if (!hasVertex(t, v)) continue;
        if (first == mesh::noEdge)
            first = t;
        else
            return mesh_.regionOf(first) != mesh_.regionOf(t);
    }
    return true;
}

std::optional<EdgeCollapse::Placement> EdgeCollapse::place(VertexId u, VertexId v) const {
    const VertexKind ku = kind_[u];
    const VertexKind kv = kind_[v];
    if (ku == VertexKind::Foreign || kv == VertexKind::Foreign) return std::nullopt;
    if (ku == VertexKind::Fixed && kv == VertexKind::Fixed) return std::nullopt;
    const Quadric q = quadric_[u] + quadric_[v];
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
        if ((*minimum - 0.5 * (position_[u] + position_[v])).squaredNorm() <= reach)
            return Placement{*minimum, q.at(*minimum)};
    }
    Placement best{0.5 * (position_[u] + position_[v]), 0};
    best.error = q.at(best.at);
    for (VertexId end : {u, v})
        if (const double error = q.at(position_[end]); error <= best.error) best = {position_[end], error};
    return best;
}

void EdgeCollapse::offer(VertexId u, VertexId v) {
    const auto placement = place(u, v);
    if (!placement) return;
    queue_.push(placement->error + tolerance::collapseTie * (position_[u] - position_[v]).squaredNorm(),
                {u, v, versionOf(u, v) & Candidate::versions, 0});
}

void EdgeCollapse::fillQueue() {
    for (const Triangle& t : triangle_)
        for (unsigned k = 0; k < 3; ++k) {
            const VertexId u = t[k];
            const VertexId v = t[(k + 1) % 3];
            if (settings_.offered && !(*settings_.offered)[u] && !(*settings_.offered)[v]) continue;
            // Each inner edge is seen twice, in both directions; an open one once in either.
            if (u < v || (kind_[u] != VertexKind::Inner && kind_[v] != VertexKind::Inner)) offer(u, v);
        }
}

std::size_t EdgeCollapse::tryCollapse(const Candidate& c) {
    const auto [u, v, version, unshapely] = c;
    const auto placement = place(u, v);
    const Fit fit = placement && linkAllows(u, v) ? fitOf(u, v, placement->at) : Fit::Turned;
    if (fit == Fit::Turned) {
        refused_[u] = refused_[v] = 1;
        return 0;
    }
    if (!unshapely && fit == Fit::Unshapely)
        if (const double price = priceOfShape(u, v, placement->at); price > placement->error) {
            queue_.push(price, {u, v, version, 1});
            return 0;
        }
    return collapseWithinReach(u, v, placement->at);
}

double EdgeCollapse::priceOfShape(VertexId u, VertexId v, const Point& at) const {
    double before = 1;
    double after = 1;
    double twiceArea = 0;
    for (const VertexId end : {u, v})
        for (const TriangleId t : trianglesAt(end)) {
            const Triangle& tri = triangle_[t];
            const Point& a = position_[tri[0]];
            const Point& b = position_[tri[1]];
            const Point& c = position_[tri[2]];
            before = std::min(before, smallestSineSquared(a, b, c));
            twiceArea += (b - a).cross(c - a).norm();
            if (hasVertex(t, u) && hasVertex(t, v)) continue;
            after = std::min(
                after, smallestSineSquared(tri[0] == end ? at : a, tri[1] == end ? at : b, tri[2] == end ? at : c));
        }
    if (after >= before) return 0;
    // A quadric weighs a distance with the area that it is of; the size is the root of the area.
    const double moved = settings_.shapePrice * twiceArea;
    return moved * moved;
}

std::size_t EdgeCollapse::collapseWithinReach(VertexId u, VertexId v, const Point& at) {
    if (!keepsReach()) return collapse(u, v, at);
    const auto reach = reachAfter(u, v, at);
    if (!reach) return 0;
    const std::size_t removed = collapse(u, v, at);
    for (const TriangleId t : trianglesAt(u)) reach_[t] = *reach;
    return removed;
}

std::optional<float> EdgeCollapse::reachAfter(VertexId u, VertexId v, const Point& at) {
    double reach = 0;
    bool rounded = at != position_[u] && at != position_[v];
    change_.begin(position_[u], position_[v], at);
    for (const VertexId end : {u, v})
        for (const TriangleId t : trianglesAt(end)) {
            reach = std::max<double>(reach, reach_[t]);
            const Triangle& tri = triangle_[t];
            const unsigned k = tri[0] == end ? 0 : tri[1] == end ? 1 : 2;
            const VertexId b = tri[(k + 1) % 3];
            const VertexId c = tri[(k + 2) % 3];
            for (const VertexId w : tri) rounded |= original_[w] == 0;
            if (!hasVertex(t, end == u ? v : u))
                change_.addKept(end == u, b, position_[b], c, position_[c]);
            else if (end == u)
                change_.addGone(b == v, b == v ? c : b, position_[b == v ? c : b]);
        }
    const double margin = rounded ? settings_.rounding : 0;
    if (reach + margin > settings_.mostReach) return std::nullopt;
    const auto further = change_.distance(settings_.mostReach - margin - reach);
    if (!further) return std::nullopt;
    reach += *further;
    return reachAbove(reach);
}

bool EdgeCollapse::linkAllows(VertexId u, VertexId v) {
    std::size_t over = 0;
    ++markNow_;
    for (TriangleId t : trianglesAt(u)) {
        over += hasVertex(t, v);
        for (VertexId w : triangle_[t]) mark_[w] = markNow_;
    }
    if (over == 0 || over > 2) return false;
    // A lone triangle would vanish, and a shell with it.
    if (over == 1 && cornerCount_[u] == 1 && cornerCount_[v] == 1) return false;
    const std::uint32_t seen = markNow_++;
    std::size_t common = 0;
    for (TriangleId t : trianglesAt(v))
        for (VertexId w : triangle_[t])
            if (mark_[w] == seen && w != u && w != v) {
                ++common;
                mark_[w] = markNow_;
            }
    if (common != over) return false;
    if (over != 2 || cornerCount_[u] > 3 || cornerCount_[v] > 3) return true;
    // A tetrahedron, or two triangles over the edge whose far corners coincide, would fold flat onto each other. With a
    // border through one end it is a triangle in three pieces.
    return isOpen(u) || isOpen(v);
}

bool EdgeCollapse::isOpen(VertexId v) {
    std::size_t neighbours = 0;
    forEachNeighbour(v, [&](VertexId) { ++neighbours; });
    return neighbours > cornerCount_[v];
}

EdgeCollapse::Fit EdgeCollapse::fitOf(VertexId u, VertexId v, const Point& at) const {
    const Fit first = fitAround(u, v, at);
    return first == Fit::Turned ? first : std::min(first, fitAround(v, u, at));
}

EdgeCollapse::Fit EdgeCollapse::fitAround(VertexId moved, VertexId other, const Point& at) const {
    constexpr double badSine = tolerance::badSine * tolerance::badSine;
    Fit fit = Fit::Good;
    for (TriangleId t : trianglesAt(moved)) {
        if (hasVertex(t, other)) continue;
        const Triangle& tri = triangle_[t];
        const unsigned k = tri[0] == moved ? 0 : tri[1] == moved ? 1 : 2;
        const Point& b = position_[tri[k == 2 ? 0 : k + 1]];
        const Point& c = position_[tri[k == 0 ? 2 : k - 1]];
        const Point before = (b - position_[moved]).cross(c - position_[moved]);
        const Point after = (b - at).cross(c - at);
        const double afterSquared = after.squaredNorm();
        if (!(afterSquared > 0)) return Fit::Turned;
        const double cosine = before.dot(after);
        if (cosine < 0 ||
            cosine * cosine < tolerance::flipCosine * tolerance::flipCosine * before.squaredNorm() * afterSquared) {
            if (before.squaredNorm() > 0) return Fit::Turned;
        }
        const std::array<double, 3> squares = {(b - at).squaredNorm(), (c - at).squaredNorm(), (c - b).squaredNorm()};
        const double longest = std::max({squares[0], squares[1], squares[2]});
        const double limit = tolerance::sliverHeight * longest;
        if (afterSquared < limit * limit) {
            const double longestBefore =
                std::max({(b - position_[moved]).squaredNorm(), (c - position_[moved]).squaredNorm(), squares[2]});
            if (afterSquared * longestBefore * longestBefore < before.squaredNorm() * longest * longest)
                return Fit::Turned;
        }
        // As smallestSineSquared, which divides.
        const double shortest = std::min({squares[0], squares[1], squares[2]});
        if (afterSquared * shortest < badSine * (squares[0] * squares[1] * squares[2])) fit = Fit::Unshapely;
    }
    return fit;
}

std::size_t EdgeCollapse::collapse(VertexId u, VertexId v, const Point& at) {
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
    mergedInto_[v] = u;
    position_[u] = at;
    if (kind_[v] > kind_[u]) kind_[u] = kind_[v];
    cornerBegin_[u] = begin;
    cornerCount_[u] = static_cast<std::uint32_t>(around_.size() - begin);
    cornerCount_[v] = 0;
    ++version_[u];
    if (settings_.onlyRedoes) return removed;
    made_.push_back({u, v, at});
    quadric_[u] = quadric_[u] + quadric_[v];
    offerAround(u);
    return removed;
}

void EdgeCollapse::movedFrom(VertexId u, VertexId v) {
    original_[u] = original_[v];
    if (source_.empty()) {
        source_.resize(position_.size());
        for (VertexId w = 0; w < source_.size(); ++w) source_[w] = w;
    }
    source_[u] = source_[v];
}

void EdgeCollapse::removeTriangle(TriangleId t, VertexId u, VertexId v) {
    alive_[t] = 0;
    for (VertexId w : triangle_[t]) {
        if (w == u || w == v) continue;
        TriangleId* list = around_.data() + cornerBegin_[w];
        std::uint32_t& count = cornerCount_[w];
        *std::find(list, list + count, t) = list[count - 1];
        --count;
    }
}

void EdgeCollapse::offerAround(VertexId u) {
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

}  // namespace zither::shape
