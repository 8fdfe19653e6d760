// Nearest points of near pairs, pushed apart a few times over; then exact tests of what moved.
#include "fit/part_skins.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <utility>

#include "check/crossing_pairs.h"
#include "exact/predicates.h"
#include "measure/fold_angle.h"
#include "measure/mass.h"
#include "mesh/edges.h"
#include "space/triangle_distance.h"
#include "space/triangle_tree.h"

namespace zither::fit {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

class Parting {
public:
    Parting(const Mesh& m, const PartOptions& options)
        : m_(m), options_(options), tree_(m), now_(m), movable_(m.positions.size(), 1), held_(m.positions.size(), 0) {
        for (TriangleId t = 0; t < options.fixed.size(); ++t)
            if (options.fixed[t])
                for (const VertexId v : m.triangles[t]) movable_[v] = 0;
    }

    mesh::Outcome<PartResult> run(mesh::Progress& progress) {
        mesh::PartOfProgress finding(progress, 0, 0.4);
        if (auto found = findPairs(finding); !found) return mesh::errorOf(found);
        findFolds();
        if (!pairs_.empty() || !folds_.empty()) {
            // What moved is tested as it will be; what does not hold goes back and stays, and the others try again.
            constexpr int turns = 6;
            bool holds = false;
            for (int turn = 0; turn <= turns && !holds; ++turn) {
                // At last what is left of it is only tested.
                if (turn < turns) {
                    push();
                    round();
                }
                mesh::PartOfProgress testing(progress, 0.4 + 0.6 * turn / (turns + 1),
                                             0.4 + 0.6 * (turn + 1.0) / (turns + 1));
                const auto held = hold(testing);
                if (!held) return mesh::errorOf(held);
                holds = *held;
            }
            if (!holds) now_.positions = m_.positions;
        }
        PartResult result;
        for (VertexId v = 0; v < now_.positions.size(); ++v) {
            const double by = (now_.positions[v] - m_.positions[v]).norm();
            result.moved += by > 0;
            result.farthestMoved = std::max(result.farthestMoved, by);
        }
        result.positions = std::move(now_.positions);
        if (!progress.report(1)) return mesh::cancelled();
        return result;
    }

private:
    // A little more than must be, so that rounding does not take it back.
    [[nodiscard]] double gap() const { return 1.1 * options_.gap; }

    [[nodiscard]] static space::Triangle3 cornersOf(const Mesh& m, TriangleId t) {
        return {&m.corner(t, 0), &m.corner(t, 1), &m.corner(t, 2)};
    }

    mesh::Outcome<void> findPairs(mesh::Progress& progress) {
        // What is pushed may come near to what was not.
        const double reach = 2 * gap();
        const auto met = check::meetings(tree_, options_.gap, progress);
        if (!met) return mesh::errorOf(met);
        for (const TriangleId t : met->near)
            tree_.overlapping(mesh::boxOf(m_, t).widened(reach), [&](TriangleId o) {
                if (o == t || mesh::sharesCorner(m_.triangles[t], m_.triangles[o])) return;
                if (space::distanceSquared(cornersOf(m_, t), cornersOf(m_, o)) < reach * reach)
                    pairs_.emplace_back(std::min(t, o), std::max(t, o));
            });
        std::sort(pairs_.begin(), pairs_.end());
        pairs_.erase(std::unique(pairs_.begin(), pairs_.end()), pairs_.end());
        return {};
    }

    void findFolds() {
        if (!(options_.angleDeg > 0)) return;
        const mesh::Edges edges(m_);
        for (mesh::EdgeId e = 0; e < edges.count(); ++e)
            if (measure::isFold(m_, edges, e, options_.angleDeg, options_.needle)) {
                const mesh::HalfEdge h = edges.around(e)[0];
                folds_.push_back({mesh::fromVertex(m_, h), mesh::toVertex(m_, h), mesh::oppositeVertex(m_, h),
                                  mesh::oppositeVertex(m_, edges.around(e)[1])});
            }
    }

    void push() {
        constexpr int rounds = 30;
        // Only where something moved since the last round can there be anything to push again.
        std::vector<std::uint8_t> was(m_.positions.size(), 1);
        for (int round = 0; round < rounds; ++round) {
            touched_.assign(m_.positions.size(), 0);
            const auto isNew = [&](TriangleId t) {
                const mesh::Triangle& v = m_.triangles[t];
                return was[v[0]] || was[v[1]] || was[v[2]] || touched_[v[0]] || touched_[v[1]] || touched_[v[2]];
            };
            bool pushed = false;
            for (const auto& [a, b] : pairs_)
                if (isNew(a) || isNew(b)) pushed |= pushApart(a, b);
            for (const Sides& s : folds_) pushed |= open(s);
            if (!pushed) break;
            std::swap(was, touched_);
        }
    }

    bool pushApart(TriangleId a, TriangleId b) {
        const space::NearestPoints near = space::nearestPoints(cornersOf(now_, a), cornersOf(now_, b));
        Point pa = Point::Zero();
        Point pb = Point::Zero();
        double weightA = 0;
        double weightB = 0;
        for (unsigned k = 0; k < 3; ++k) {
            const VertexId va = m_.triangles[a][k];
            const VertexId vb = m_.triangles[b][k];
            pa += near.a[k] * now_.positions[va];
            pb += near.b[k] * now_.positions[vb];
            if (isFree(va)) weightA += near.a[k] * near.a[k];
            if (isFree(vb)) weightB += near.b[k] * near.b[k];
        }
        const Point between = pb - pa;
        const double apart = between.norm();
        if (!(apart < options_.gap) || !(apart > 0) || !(weightA + weightB > 0)) return false;
        // Each by what it weighs: the way is shared by all corners that can move.
        const Point by = (gap() - apart) / apart / (weightA + weightB) * between;
        for (unsigned k = 0; k < 3; ++k) {
            move(m_.triangles[a][k], -near.a[k] * by);
            move(m_.triangles[b][k], near.b[k] * by);
        }
        return true;
    }

    // An edge from u to v with the far corners of its two triangles.
    struct Sides {
        VertexId u, v, a, b;
    };

    // The lower of the far corners moves away from the other side.
    bool open(const Sides& s) {
        const auto& at = now_.positions;
        if (measure::angleBetweenSides(at[s.u], at[s.v], at[s.a], at[s.b]) >= options_.angleDeg) return false;
        const Point along = (at[s.v] - at[s.u]).normalized();
        Point a = measure::across(at[s.u], along, at[s.a]);
        Point b = measure::across(at[s.u], along, at[s.b]);
        VertexId lower = s.a;
        if (b.norm() < a.norm()) {
            lower = s.b;
            std::swap(a, b);
        }
        const Point aside = a - a.dot(b) / b.squaredNorm() * b;
        const double apart = aside.norm();
        if (!(apart > 0) || !isFree(lower)) return false;
        constexpr double more = 1.1;
        const double wanted = a.norm() * std::tan(more * options_.angleDeg * std::numbers::pi / 180);
        move(lower, (wanted - apart) / apart * aside);
        return true;
    }

    [[nodiscard]] bool isFree(VertexId v) const { return movable_[v] && !held_[v]; }

    void move(VertexId v, const Point& by) {
        if (!isFree(v)) return;
        const Point to = now_.positions[v] + by;
        if ((to - m_.positions[v]).norm() > options_.tolerance) return;
        now_.positions[v] = to;
        touched_[v] = 1;
    }

    void round() {
        for (VertexId v = 0; v < now_.positions.size(); ++v)
            if (hasMoved(v)) now_.positions[v] = mesh::rounded(options_.precision, now_.positions[v]);
    }

    [[nodiscard]] bool hasMoved(VertexId v) const { return now_.positions[v] != m_.positions[v]; }

    // Nothing that moved is degenerate, meets anything or has turned over; else what does goes back, and is held there.
    mesh::Outcome<bool> hold(mesh::Progress& progress) {
        std::vector<std::uint8_t> suspects(m_.triangles.size(), 0);
        std::vector<TriangleId> bad;
        std::vector<VertexId> backs;
        bool any = false;
        for (TriangleId t = 0; t < suspects.size(); ++t) {
            const mesh::Triangle& v = m_.triangles[t];
            suspects[t] = hasMoved(v[0]) || hasMoved(v[1]) || hasMoved(v[2]);
            if (!suspects[t]) continue;
            any = true;
            if (check::isDegenerate(now_, t) ||
                measure::leastHeight(now_, t) < std::min(options_.needle, measure::leastHeight(m_, t)))
                bad.push_back(t);
        }
        if (!any) return true;
        for (VertexId v = 0; v < now_.positions.size(); ++v)
            if (hasMoved(v) && passesThrough(v)) backs.push_back(v);
        std::vector<std::uint8_t> leftOut(m_.triangles.size(), 0);
        for (const TriangleId t : bad) leftOut[t] = check::isDegenerate(now_, t);
        const auto pairs =
            check::crossingPairs(space::TriangleTree(now_), progress, {.suspects = suspects, .leftOut = leftOut});
        if (!pairs) return mesh::errorOf(pairs);
        for (const auto& [a, b] : *pairs) bad.insert(bad.end(), {a, b});
        for (const TriangleId t : bad) backs.insert(backs.end(), m_.triangles[t].begin(), m_.triangles[t].end());
        for (const VertexId v : backs) {
            now_.positions[v] = m_.positions[v];
            held_[v] = 1;
        }
        return backs.empty();
    }

    // On its way it met a triangle that it is no corner of: what is small could come to lie on the other side of a skin
    // without meeting it there.
    [[nodiscard]] bool passesThrough(VertexId v) const {
        const Point& from = m_.positions[v];
        const Point& to = now_.positions[v];
        mesh::Box way;
        way.add(from);
        way.add(to);
        bool met = false;
        tree_.overlapping(way, [&](TriangleId t) {
            const mesh::Triangle& c = m_.triangles[t];
            if (met || mesh::hasCorner(c, v)) return;
            const int before = exact::orient3d(m_.positions[c[0]], m_.positions[c[1]], m_.positions[c[2]], from);
            const int after = exact::orient3d(m_.positions[c[0]], m_.positions[c[1]], m_.positions[c[2]], to);
            if (before == after) return;
            std::array<int, 3> sides;
            for (unsigned k = 0; k < 3; ++k)
                sides[k] = exact::orient3d(from, to, m_.positions[c[k]], m_.positions[c[(k + 1) % 3]]);
            met = !((sides[0] < 0 || sides[1] < 0 || sides[2] < 0) && (sides[0] > 0 || sides[1] > 0 || sides[2] > 0));
        });
        return met;
    }

    const Mesh& m_;
    const PartOptions& options_;
    const space::TriangleTree tree_;
    Mesh now_;
    std::vector<std::uint8_t> movable_;  // of each vertex
    std::vector<std::uint8_t> touched_;  // of each vertex: it was pushed in this round
    std::vector<std::uint8_t> held_;     // of each vertex: it did not hold where it was pushed to
    std::vector<std::pair<TriangleId, TriangleId>> pairs_;
    std::vector<Sides> folds_;
};

}  // namespace

mesh::Outcome<PartResult> partSkins(const Mesh& m, const PartOptions& options, mesh::Progress& progress) {
    return Parting(m, options).run(progress);
}

}  // namespace zither::fit
