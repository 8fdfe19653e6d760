// A stack of edges to look at; the four around a swap are looked at again.
#include "shape/edge_swaps.h"

#include <algorithm>
#include <array>
#include <set>

#include "mesh/edges.h"
#include "mesh/parallel.h"
#include "shape/edge_collapse.h"
#include "shape/shape_tolerances.h"

namespace zither::shape {

double smallestSineSquared(const Point& a, const Point& b, const Point& c) {
    const std::array<double, 3> squares = {(b - a).squaredNorm(), (c - b).squaredNorm(), (a - c).squaredNorm()};
    const double product = squares[0] * squares[1] * squares[2];
    if (!(product > 0)) return 0;
    return (b - a).cross(c - a).squaredNorm() * *std::min_element(squares.begin(), squares.end()) / product;
}

namespace {

using mesh::HalfEdge;

class Swapping {
public:
    Swapping(Mesh& m, const std::vector<std::uint8_t>& may, std::vector<std::uint8_t>& changed,
             std::vector<float>& reach, const SwapOptions& options)
        : m_(m), may_(may), changed_(changed), reach_(reach), options_(options), given_(m.triangles), corners_(m) {
        twin_.resize(3 * m.triangles.size());
        mesh::parallelFor(twin_.size(), 4096, [&](std::size_t h) { twin_[h] = acrossSheet(static_cast<HalfEdge>(h)); });
    }

    std::size_t run() {
        std::vector<std::uint8_t> better(twin_.size());
        mesh::parallelFor(twin_.size(), 1024, [&](std::size_t i) {
            const auto h = static_cast<HalfEdge>(i);
            better[i] = twin_[h] != mesh::noEdge && h < twin_[h] && isBetterSwapped(h);
        });
        for (HalfEdge h = 0; h < twin_.size(); ++h)
            if (better[h]) open_.push_back(h);
        std::size_t swapped = 0;
        // Angles only grow, but for rounding.
        const std::size_t most = 8 * twin_.size();
        while (!open_.empty() && swapped < most) {
            const HalfEdge h = open_.back();
            open_.pop_back();
            if (isBetterSwapped(h)) swap(h), ++swapped;
        }
        return swapped;
    }

private:
    // An edge from p to q with the corners across it: triangles p, q, r and q, p, s.
    struct Across {
        TriangleId t;
        TriangleId o;
        VertexId p;
        VertexId q;
        VertexId r;
        VertexId s;
    };
    [[nodiscard]] Across across(HalfEdge h) const {
        const HalfEdge g = twin_[h];
        return {mesh::triangleOf(h), mesh::triangleOf(g),   fromVertex(m_, h),
                toVertex(m_, h),     oppositeVertex(m_, h), oppositeVertex(m_, g)};
    }

    // The half-edge across; noEdge where the two are not all there is at the edge, or one region facing one way.
    [[nodiscard]] HalfEdge acrossSheet(HalfEdge h) const {
        const VertexId to = toVertex(m_, h);
        HalfEdge other = mesh::noEdge;
        std::size_t count = 0;
        if (mesh::isCollapsed(m_.triangles[mesh::triangleOf(h)])) return other;
        for (const HalfEdge g : corners_.at(fromVertex(m_, h))) {
            if (mesh::isCollapsed(m_.triangles[mesh::triangleOf(g)])) continue;
            count += toVertex(m_, g) == to || oppositeVertex(m_, g) == to;
            if (oppositeVertex(m_, g) == to) other = mesh::previousInTriangle(g);
        }
        const bool sheet = count == 2 && other != mesh::noEdge &&
                           m_.regionOf(mesh::triangleOf(h)) == m_.regionOf(mesh::triangleOf(other));
        return sheet ? other : HalfEdge(mesh::noEdge);
    }

    [[nodiscard]] bool isBetterSwapped(HalfEdge h) const {
        if (twin_[h] == mesh::noEdge) return false;
        const auto [t, o, p, q, r, s] = across(h);
        if (!may_[t] || !may_[o] || (!changed_[t] && !changed_[o])) return false;
        if (!reach_.empty() && std::max(reach_[t], reach_[o]) + options_.flat > options_.mostReach) return false;
        const Point& pp = m_.positions[p];
        const Point& pq = m_.positions[q];
        const Point& pr = m_.positions[r];
        const Point& ps = m_.positions[s];
        // The four corners in one plane, and still facing one way.
        const Point normal = (pq - pp).cross(pr - pp) + (pp - pq).cross(ps - pq);
        const double length = normal.norm();
        if (!(length > 0)) return false;
        const Point middle = 0.25 * (pp + pq + pr + ps);
        for (const Point* corner : {&pp, &pq, &pr, &ps})
            if (std::abs(normal.dot(*corner - middle)) > options_.flat * length) return false;
        if (!((ps - pp).cross(pr - pp).dot(normal) > 0) || !((pq - ps).cross(pr - ps).dot(normal) > 0)) return false;
        const double now = std::min(smallestSineSquared(pp, pq, pr), smallestSineSquared(pq, pp, ps));
        const double then = std::min(smallestSineSquared(pp, ps, pr), smallestSineSquared(ps, pq, pr));
        if (!(then > now * (1 + tolerance::shapeGain))) return false;
        return r != s && !wereLinked(r, s) && !fresh_.contains(std::minmax(r, s));
    }

    [[nodiscard]] bool wereLinked(VertexId a, VertexId b) const {
        const auto at = corners_.at(a);
        return std::any_of(at.begin(), at.end(),
                           [&](HalfEdge h) { return mesh::hasCorner(given_[mesh::triangleOf(h)], b); });
    }

    // To p, s, r and s, q, r.
    void swap(HalfEdge h) {
        const HalfEdge g = twin_[h];
        const auto [t, o, p, q, r, s] = across(h);
        const HalfEdge qr = twin_[mesh::nextInTriangle(h)];
        const HalfEdge rp = twin_[mesh::previousInTriangle(h)];
        const HalfEdge ps = twin_[mesh::nextInTriangle(g)];
        const HalfEdge sq = twin_[mesh::previousInTriangle(g)];
        m_.triangles[t] = {p, s, r};
        m_.triangles[o] = {s, q, r};
        link(HalfEdge(3 * t), ps);
        link(HalfEdge(3 * t + 1), HalfEdge(3 * o + 2));
        link(HalfEdge(3 * t + 2), rp);
        link(HalfEdge(3 * o), sq);
        link(HalfEdge(3 * o + 1), qr);
        fresh_.insert(std::minmax(r, s));
        changed_[t] = changed_[o] = 1;
        if (!reach_.empty()) reach_[t] = reach_[o] = reachAbove(std::max<double>(reach_[t], reach_[o]) + options_.flat);
        for (const HalfEdge e : {3 * t, 3 * t + 2, 3 * o, 3 * o + 1}) open_.push_back(e);
    }

    void link(HalfEdge a, HalfEdge b) {
        twin_[a] = b;
        if (b != mesh::noEdge) twin_[b] = a;
    }

    Mesh& m_;
    const std::vector<std::uint8_t>& may_;
    std::vector<std::uint8_t>& changed_;
    std::vector<float>& reach_;
    SwapOptions options_;
    std::vector<Triangle> given_;  // as they were: edges that were there are not made again
    mesh::Corners corners_;
    std::vector<HalfEdge> twin_;
    std::set<std::pair<VertexId, VertexId>> fresh_;  // edges that were made
    std::vector<HalfEdge> open_;
};

}  // namespace

std::size_t swapForShape(Mesh& m, const std::vector<std::uint8_t>& may, std::vector<std::uint8_t>& changed,
                         std::vector<float>& reach, const SwapOptions& options) {
    return Swapping(m, may, changed, reach, options).run();
}

}  // namespace zither::shape
