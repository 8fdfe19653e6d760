// Pairs of triangles that meet where they should not, decided exactly. Candidates come from overlapping boxes of a
// bounding-volume tree; each pair is settled by signs of exact predicates (after Guigue & Devillers 2003), with the
// vertices and the edge that two triangles share left out as definitions.md asks.
#include "check/crossing_pairs.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <limits>
#include <optional>

#include "check/check_tolerances.h"
#include "check/simple_fans.h"
#include "exact/predicates.h"
#include "exact/projection.h"
#include "measure/measure_tolerances.h"
#include "mesh/parallel.h"
#include "space/triangle_distance.h"

namespace zither::check {
namespace {

using exact::Corner3;
using exact::Projection;
using exact::sideOf;

bool withinInterval(double x, double a, double b) {
    return std::min(a, b) <= x && x <= std::max(a, b);
}

// p, known to lie on the line ab in projection, lies between a and b.
bool betweenOnLine(int axis, const Point& p, const Point& a, const Point& b) {
    const int u = (axis + 1) % 3;
    const int v = (axis + 2) % 3;
    return withinInterval(p[u], a[u], b[u]) && withinInterval(p[v], a[v], b[v]);
}

bool segmentsMeetInPlane(int axis, const Point& p, const Point& q, const Point& a, const Point& b) {
    const int pa = exact::orient2dDropping(axis, a, b, p);
    const int qa = exact::orient2dDropping(axis, a, b, q);
    if (pa * qa > 0) return false;
    const int ap = exact::orient2dDropping(axis, p, q, a);
    const int bp = exact::orient2dDropping(axis, p, q, b);
    if (ap * bp > 0) return false;
    if (pa * qa < 0 && ap * bp < 0) return true;
    return (pa == 0 && betweenOnLine(axis, p, a, b)) || (qa == 0 && betweenOnLine(axis, q, a, b)) ||
           (ap == 0 && betweenOnLine(axis, a, p, q)) || (bp == 0 && betweenOnLine(axis, b, p, q));
}

bool coplanarSegmentMeets(const Point& p, const Point& q, const Corner3& t) {
    const Projection projection = exact::projectionOf(t);
    if (exact::inTriangleInPlane(projection, p, t)) return true;
    for (unsigned k = 0; k < 3; ++k)
        if (segmentsMeetInPlane(projection.axis, p, q, *t[k], *t[(k + 1) % 3])) return true;
    return false;
}

// Closed segment pq and closed triangle t; the sides of t's plane on which p and q lie are known.
bool segmentMeets(const Point& p, int sideP, const Point& q, int sideQ, const Corner3& t) {
    if (sideP * sideQ > 0) return false;
    if (sideP == 0 && sideQ == 0) return coplanarSegmentMeets(p, q, t);
    int positive = 0;
    int negative = 0;
    for (unsigned k = 0; k < 3; ++k) {
        const int side = exact::orient3d(p, q, *t[k], *t[(k + 1) % 3]);
        positive += side > 0;
        negative += side < 0;
        if (positive > 0 && negative > 0) return false;
    }
    return true;
}

// Both triangles with the shared vertices first: `shared` of them, in the same order in both.
struct Pair {
    Corner3 a;
    Corner3 b;
    unsigned shared = 0;
};

Pair sharedFirst(const Mesh& m, TriangleId ta, TriangleId tb) {
    const mesh::Triangle& a = m.triangles[ta];
    const mesh::Triangle& b = m.triangles[tb];
    std::array<unsigned, 3> orderA{0, 1, 2};
    std::array<unsigned, 3> orderB{0, 1, 2};
    unsigned shared = 0;
    for (unsigned i = 0; i < 3; ++i)
        for (unsigned j = shared; j < 3; ++j)
            if (a[i] == b[orderB[j]]) {
                std::swap(orderB[shared], orderB[j]);
                std::swap(orderA[shared], orderA[std::find(orderA.begin(), orderA.end(), i) - orderA.begin()]);
                ++shared;
                break;
            }
    Pair pair;
    pair.shared = shared;
    for (unsigned k = 0; k < 3; ++k) {
        pair.a[k] = &m.positions[a[orderA[k]]];
        pair.b[k] = &m.positions[b[orderB[k]]];
    }
    return pair;
}

// Triangles over one edge meet elsewhere only where they lie in one plane on the same side of it.
bool foldsOver(const Pair& p) {
    if (sideOf(p.a, *p.b[2]) != 0) return false;
    const Projection projection = exact::projectionOf(p.a);
    const int sideA = exact::orient2dDropping(projection.axis, *p.a[0], *p.a[1], *p.a[2]);
    const int sideB = exact::orient2dDropping(projection.axis, *p.a[0], *p.a[1], *p.b[2]);
    return sideA * sideB > 0;
}

// Points on one side of a plane through the origin, however they are rounded: n . p is above what rounding could make
// of 0.
bool surelyAbove(const Point& n, const Point& p) {
    // Products that underflow err by less than is added.
    return n.dot(p) > tolerance::dotRounding * n.cwiseAbs().dot(p.cwiseAbs()) + tolerance::aboveZero;
}

// A plane through the vertex parts what else there is of the two, as in a flat fan, where exact signs are dear. False
// where that cannot be told.
bool surelyApartAtVertex(const Pair& p) {
    const Point a1 = *p.a[1] - *p.a[0];
    const Point a2 = *p.a[2] - *p.a[0];
    const Point b1 = *p.b[1] - *p.a[0];
    const Point b2 = *p.b[2] - *p.a[0];
    const Point n = (a1 + a2).normalized() - (b1 + b2).normalized();
    return surelyAbove(n, a1) && surelyAbove(n, a2) && surelyAbove(-n, b1) && surelyAbove(-n, b2);
}

// Triangles at one vertex share a convex set that contains it; it is more than the vertex exactly if the edge opposite
// the vertex, of one of them, meets the other.
bool meetsBeyondVertex(const Pair& p) {
    if (surelyApartAtVertex(p)) return false;
    const int b1 = sideOf(p.a, *p.b[1]);
    const int b2 = sideOf(p.a, *p.b[2]);
    if (b1 * b2 > 0) return false;
    const int a1 = sideOf(p.b, *p.a[1]);
    const int a2 = sideOf(p.b, *p.a[2]);
    if (a1 * a2 > 0) return false;
    return segmentMeets(*p.b[1], b1, *p.b[2], b2, p.a) || segmentMeets(*p.a[1], a1, *p.a[2], a2, p.b);
}

bool meetsAnywhere(const Pair& p) {
    std::array<int, 3> sideB;
    for (unsigned k = 0; k < 3; ++k) sideB[k] = sideOf(p.a, *p.b[k]);
    if ((sideB[0] > 0 && sideB[1] > 0 && sideB[2] > 0) || (sideB[0] < 0 && sideB[1] < 0 && sideB[2] < 0)) return false;
    std::array<int, 3> sideA;
    for (unsigned k = 0; k < 3; ++k) sideA[k] = sideOf(p.b, *p.a[k]);
    if ((sideA[0] > 0 && sideA[1] > 0 && sideA[2] > 0) || (sideA[0] < 0 && sideA[1] < 0 && sideA[2] < 0)) return false;
    for (unsigned k = 0; k < 3; ++k) {
        const unsigned n = (k + 1) % 3;
        if (segmentMeets(*p.b[k], sideB[k], *p.b[n], sideB[n], p.a)) return true;
        if (segmentMeets(*p.a[k], sideA[k], *p.a[n], sideA[n], p.b)) return true;
    }
    return false;
}

bool meets(const Pair& pair) {
    switch (pair.shared) {
        case 0:
            return meetsAnywhere(pair);
        case 1:
            return meetsBeyondVertex(pair);
        case 2:
            return foldsOver(pair);
        default:
            return false;
    }
}

// Pairs found from the leaves of one block, and the work of finding them.
class PairSearch {
public:
    // `reach`: triangles that are nearer are told; 0: none.
    PairSearch(const space::TriangleTree& tree, const PairSearchOptions& options, double reach, bool byLeaves)
        : m_(tree.surface()), tree_(tree), options_(options), reach_(reach) {
        // They are looked for all over the surface: not for a part of it.
        if (byLeaves && tree.order().size() > m_.triangles.size() / 2) simple_ = simpleFans(m_, mesh::Corners(m_));
    }

    // Of a suspect: those of two suspects only from the one with the lower number.
    void searchAround(TriangleId suspect, Meetings& out) const {
        tree_.overlapping(mesh::boxOf(m_, suspect).widened(reach_), [&](TriangleId other) {
            if (other != suspect && (!options_.suspects[other] || suspect < other)) settle(suspect, other, out);
        });
    }

    // Of four leaves with those behind them.
    void searchGroup(std::size_t group, Meetings& out) const {
        tree_.overlappingLeaves(group, reach_, [&](std::size_t leaf, std::size_t other) {
            for (std::size_t i = leaf * arity; i < endOf(leaf); ++i) {
                unsigned found =
                    tree_.trianglesOf(other).overlapping(tree_.trianglesOf(leaf).box(i % arity).widened(reach_));
                if (other == leaf) found &= ~1U << i % arity;
                space::BoxQuad::forEachLane(
                    found, [&](unsigned lane) { settle(tree_.order()[i], tree_.order()[other * arity + lane], out); });
            }
        });
    }

private:
    static constexpr std::size_t arity = space::TriangleTree::arity;
    [[nodiscard]] std::size_t endOf(std::size_t leaf) const {
        return std::min(tree_.order().size(), (leaf + 1) * arity);
    }

    void settle(TriangleId a, TriangleId b, Meetings& out) const {
        const auto& [suspects, leftOut] = options_;
        if (!suspects.empty() && !suspects[a] && !suspects[b]) return;
        if (!leftOut.empty() && (leftOut[a] || leftOut[b])) return;
        if (sharesSimpleFan(a, b) || mesh::sameCorners(m_.triangles[a], m_.triangles[b])) return;
        const Pair pair = sharedFirst(m_, a, b);
        if (meets(pair)) {
            out.crossing.emplace_back(std::min(a, b), std::max(a, b));
        } else if (pair.shared == 0 && reach_ > 0 && !space::surelyFarther(pair.a, pair.b, reach_) &&
                   space::distanceSquared(pair.a, pair.b) < reach_ * reach_) {
            out.near.push_back(a);
            out.near.push_back(b);
        }
    }

    [[nodiscard]] bool sharesSimpleFan(TriangleId a, TriangleId b) const {
        if (simple_.empty()) return false;
        for (const VertexId v : m_.triangles[a])
            for (const VertexId w : m_.triangles[b])
                if (v == w && simple_[v]) return true;
        return false;
    }

    const Mesh& m_;
    const space::TriangleTree& tree_;
    PairSearchOptions options_;
    double reach_;
    std::vector<std::uint8_t> simple_;  // one flag a vertex (simple_fans.h); empty: not known
};

}  // namespace

bool trianglesIntersect(const Mesh& m, TriangleId a, TriangleId b) {
    return meets(sharedFirst(m, a, b));
}

mesh::Outcome<std::vector<TrianglePair>> crossingPairs(const space::TriangleTree& tree, mesh::Progress& progress,
                                                       const PairSearchOptions& options) {
    auto met = meetings(tree, 0, progress, options);
    if (!met) return mesh::errorOf(met);
    return std::move(met->crossing);
}

mesh::Outcome<Meetings> meetings(const space::TriangleTree& tree, double reach, mesh::Progress& progress,
                                 const PairSearchOptions& options) {
    // Where few are asked about, each looks around itself; else leaf against leaf.
    std::vector<TriangleId> few;
    if (!options.suspects.empty()) {
        for (const TriangleId t : tree.order())
            if (options.suspects[t]) few.push_back(t);
        if (few.empty()) return Meetings();
        constexpr std::size_t share = 8;
        if (share * few.size() > tree.order().size()) few.clear();
    }
    std::optional<PairSearch> search(std::in_place, tree, options, reach, few.empty());
    const std::size_t searches = few.empty() ? tree.groupCount() : few.size();
    constexpr std::size_t aBlock = 128;
    const std::size_t blocks = (searches + aBlock - 1) / aBlock;
    std::vector<Meetings> found(blocks);
    std::atomic<bool> stop = false;
    mesh::parallelFor(blocks, 1, [&](std::size_t b) {
        if (stop) return;
        for (std::size_t i = b * aBlock; i < std::min(searches, (b + 1) * aBlock); ++i)
            if (few.empty())
                search->searchGroup(i, found[b]);
            else
                search->searchAround(few[i], found[b]);
        if (!progress.report(static_cast<double>(b) / static_cast<double>(blocks))) stop = true;
    });
    if (stop) return mesh::cancelled();
    // There may be more pairs than triangles: nothing else that is large is there while they are put together.
    search.reset();
    Meetings all;
    std::size_t count = 0;
    for (const Meetings& part : found) count += part.crossing.size();
    all.crossing.reserve(count);
    for (Meetings& part : found) {
        all.crossing.insert(all.crossing.end(), part.crossing.begin(), part.crossing.end());
        all.near.insert(all.near.end(), part.near.begin(), part.near.end());
        part = {};
    }
    std::sort(all.near.begin(), all.near.end());
    all.near.erase(std::unique(all.near.begin(), all.near.end()), all.near.end());
    return all;
}

}  // namespace zither::check
