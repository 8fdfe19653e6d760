// A list of folded edges; each change kills triangles and adds others, and is undone where it does not hold.
#include "fit/unfold.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <deque>
#include <optional>
#include <unordered_map>
#include <unordered_set>
#include <utility>

#include "check/crossing_pairs.h"
#include "fit/swept.h"
#include "measure/fold_angle.h"
#include "measure/mass.h"
#include "mesh/edges.h"
#include "space/triangle_tree.h"

namespace zither::fit {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::Triangle;
using mesh::TriangleId;
using mesh::VertexId;

double distanceToSegment(const Point& p, const Point& a, const Point& b) {
    return (space::nearestOnTriangle(p, a, b, b) - p).norm();
}

class Unfolding {
public:
    Unfolding(const Mesh& m, const UnfoldOptions& options)
        : options_(options), given_(m), tree_(given_), corners_(given_), m_(m), alive_(m.triangles.size(), 1) {
        slackOf_.assign(m.triangles.size(), 0);
        source_.resize(m.triangles.size());
        for (TriangleId t = 0; t < m.triangles.size(); ++t) source_[t] = t;
    }

    UnfoldResult run(const mesh::Edges& edges, const std::vector<mesh::EdgeId>& folds) {
        std::vector<Ends> given;
        for (const mesh::EdgeId e : folds) {
            const mesh::HalfEdge h = edges.around(e)[0];
            given.push_back({mesh::fromVertex(given_, h), mesh::toVertex(given_, h)});
            isGiven_.insert(keyOf(given.back()));
        }
        for (const Ends& e : given)
            if (!follow(e)) takeBack();
        result_.mesh = std::move(m_);
        result_.sourceOf = std::move(source_);
        result_.keep(alive_);
        return std::move(result_);
    }

private:
    struct Ends {
        VertexId u, v;
    };
    static std::uint64_t keyOf(const Ends& e) { return mesh::pairKey(std::min(e.u, e.v), std::max(e.u, e.v)); }
    // (u, v, a) and (v, u, b) lie on each other.
    struct Fold {
        VertexId u, v, a, b;
        TriangleId first, second;
        bool fin = false;  // material lies between the sides, not empty space
    };
    struct Change {
        std::vector<TriangleId> go;
        std::vector<std::pair<Triangle, TriangleId>> come;  // with what each is a piece of
        double moved = 0;

        void replace(TriangleId t, std::initializer_list<Triangle> by) {
            go.push_back(t);
            for (const Triangle& piece : by) come.emplace_back(piece, t);
        }
    };

    // Lays a fold flat, then what that folds over, until nothing does: true where fewer folds are left than went.
    bool follow(const Ends& first) {
        // Each change takes area away; where it only makes ever more pieces there is no end.
        constexpr std::size_t patience = 200;
        journal_.clear();
        finned_.clear();
        waiting_ = {first};
        std::size_t went = 0;
        std::size_t came = 0;
        for (std::size_t i = 0; !waiting_.empty(); ++i) {
            const Ends e = waiting_.front();
            waiting_.pop_front();
            const auto fold = foldAt(e.u, e.v);
            if (!fold) continue;
            const bool flat = i < patience && flatten(*fold);
            if (flat && fold->fin)
                for (const Point& p : {at(e.u), at(e.v), Point((at(e.u) + at(e.v)) / 2), at(fold->a), at(fold->b)})
                    finned_.push_back(p);
            if (isGiven_.contains(keyOf(e)))
                went += flat;
            else
                came += !flat;
        }
        if (came >= went || !staysSeen()) return false;
        result_.unfolded += went;
        for (const auto& [change, before] : journal_)
            result_.farthestMoved = std::max(result_.farthestMoved, change.moved);
        return true;
    }

    // Of a fin that went everything lies near what is there still: what stands out farther can be seen, however thin.
    bool staysSeen() {
        for (const Point& p : finned_) {
            mesh::Box box;
            box.add(p);
            bool near = false;
            const auto look = [&](TriangleId t) {
                near = near ||
                       (alive_[t] &&
                        (space::nearestOnTriangle(p, m_.corner(t, 0), m_.corner(t, 1), m_.corner(t, 2)) - p).norm() <=
                            options_.tolerance);
            };
            eachIn(box.widened(options_.tolerance), look);
            if (!near) return false;
        }
        return true;
    }

    void takeBack() {
        for (; !journal_.empty(); journal_.pop_back()) undo(journal_.back().first, journal_.back().second);
        waiting_.clear();
    }

    const Point& at(VertexId v) const { return m_.positions[v]; }

    // Triangles that may lie in the box, gone ones too. What came lies where it is a piece of, but for what it moved.
    template <class Visit>
    void eachIn(const mesh::Box& box, const Visit& visit) const {
        tree_.overlapping(box.widened(slack_), [&](TriangleId t) {
            visit(t);
            if (const auto pieces = piecesOf_.find(t); pieces != piecesOf_.end())
                for (const TriangleId piece : pieces->second) visit(piece);
        });
    }

    std::vector<TriangleId>& around(VertexId v) {
        const auto [it, fresh] = around_.try_emplace(v);
        if (fresh && v < given_.positions.size())
            for (const mesh::HalfEdge h : corners_.at(v))
                if (alive_[mesh::triangleOf(h)]) it->second.push_back(mesh::triangleOf(h));
        return it->second;
    }

    // The only triangle with an edge from a to b.
    std::optional<TriangleId> over(VertexId a, VertexId b) {
        std::optional<TriangleId> found;
        for (const TriangleId t : around(a))
            for (unsigned k = 0; k < 3; ++k)
                if (m_.triangles[t][k] == a && m_.triangles[t][(k + 1) % 3] == b) {
                    if (found) return std::nullopt;
                    found = t;
                }
        return found;
    }

    VertexId opposite(TriangleId t, VertexId a, VertexId b) const {
        for (const VertexId v : m_.triangles[t])
            if (v != a && v != b) return v;
        return a;
    }

    void wait(VertexId u, VertexId v) {
        if (foldAt(u, v)) waiting_.push_back(Ends{u, v});
    }

    std::optional<Fold> foldAt(VertexId u, VertexId v) {
        const auto first = over(u, v);
        const auto second = over(v, u);
        if (!first || !second) return std::nullopt;
        Fold fold{u, v, opposite(*first, u, v), opposite(*second, u, v), *first, *second};
        fold.fin = mesh::areaVector(m_, *first).dot(at(fold.b) - at(u)) < 0;
        if (measure::leastHeight(m_, *first) < options_.needle || measure::leastHeight(m_, *second) < options_.needle)
            return std::nullopt;
        if (measure::angleBetweenSides(at(u), at(v), at(fold.a), at(fold.b)) >= options_.angleDeg) return std::nullopt;
        return fold;
    }

    bool flatten(const Fold& f) {
        return flattenFrom(f) || flattenFrom({f.v, f.u, f.b, f.a, f.second, f.first, f.fin});
    }

    // Both triangles seen in one plane: u at the origin, v on the first axis, the sides along the second.
    struct Seen {
        Eigen::Vector2d v, a, b;
    };
    [[nodiscard]] Seen seen(const Fold& f) const {
        const Point along = (at(f.v) - at(f.u)).normalized();
        const Point up = (measure::across(at(f.u), along, at(f.a)).normalized() +
                          measure::across(at(f.u), along, at(f.b)).normalized())
                             .normalized();
        const auto place = [&](VertexId w) {
            const Point p = at(w) - at(f.u);
            return Eigen::Vector2d(p.dot(along), p.dot(up));
        };
        return {place(f.v), place(f.a), place(f.b)};
    }

    // The corner a goes into the second triangle, or the border of the first crosses that of the second.
    bool flattenFrom(const Fold& f) {
        const Seen s = seen(f);
        const auto left = [](const Eigen::Vector2d& from, const Eigen::Vector2d& to, const Eigen::Vector2d& p) {
            const Eigen::Vector2d d = (to - from).normalized();
            const Eigen::Vector2d q = p - from;
            return d.x() * q.y() - d.y() * q.x();
        };
        const Eigen::Vector2d zero(0, 0);
        const double near = options_.needle;
        if ((s.a - s.b).norm() <= near) return together(f);
        // How far a lies within the second triangle, from its two borders.
        const double fromV = left(s.v, s.b, s.a);
        const double fromU = left(s.b, zero, s.a);
        if (fromV > near && fromU > near) return into(f);
        if (std::abs(fromV) <= near && fromU > near) return onto(f, f.v, f.b, {f.a, f.u, f.b});
        if (std::abs(fromU) <= near && fromV > near) return onto(f, f.b, f.u, {f.v, f.a, f.b});
        return cross(f, s, fromV < 0 && fromU > near);
    }

    bool together(const Fold& f) {
        if (f.a == f.b) return false;
        Change c;
        c.moved = (at(f.a) - at(f.b)).norm();
        c.go = {f.first, f.second};
        for (const TriangleId t : std::vector<TriangleId>(around(f.a))) {
            if (t == f.first) continue;
            Triangle now = m_.triangles[t];
            for (VertexId& w : now)
                if (w == f.a) w = f.b;
            // What has the same corners as one that is there goes with it.
            const auto twin = std::find_if(around(f.b).begin(), around(f.b).end(),
                                           [&](TriangleId o) { return mesh::sameCorners(m_.triangles[o], now); });
            if (twin == around(f.b).end())
                c.replace(t, {now});
            else
                c.go.insert(c.go.end(), {t, *twin});
        }
        return make(c);
    }

    bool into(const Fold& f) {
        Change c;
        c.moved = (space::nearestOnTriangle(at(f.a), at(f.u), at(f.v), at(f.b)) - at(f.a)).norm();
        c.go = {f.first};
        c.replace(f.second, {{f.u, f.b, f.a}, {f.b, f.v, f.a}});
        return make(c);
    }

    // The triangle beside the edge from p to q is parted at w. False where there is none.
    bool split(VertexId p, VertexId q, VertexId w, Change& c) {
        const auto beside = over(p, q);
        if (!beside) return false;
        const VertexId far = opposite(*beside, p, q);
        c.replace(*beside, {{p, w, far}, {w, q, far}});
        return true;
    }

    // Onto the border of the second triangle that runs from q to p; `rest` is left of that.
    bool onto(const Fold& f, VertexId p, VertexId q, const Triangle& rest) {
        Change c;
        c.moved = distanceToSegment(at(f.a), at(p), at(q));
        c.go = {f.first};
        c.replace(f.second, {rest});
        return split(p, q, f.a, c) && make(c);
    }

    // Of the segments from p to q and from r to s, seen in the plane: the place in space between the two, which both
    // take, and how far they are apart there.
    struct Crossing {
        Point at;
        double apart;
    };
    [[nodiscard]] std::optional<Crossing> crossing(VertexId p, VertexId q, VertexId r, VertexId s,
                                                   const Eigen::Vector2d& p2, const Eigen::Vector2d& q2,
                                                   const Eigen::Vector2d& r2, const Eigen::Vector2d& s2) const {
        const Eigen::Vector2d d = q2 - p2;
        const Eigen::Vector2d e = s2 - r2;
        const double det = d.x() * e.y() - d.y() * e.x();
        if (det == 0) return std::nullopt;
        const Eigen::Vector2d w = r2 - p2;
        const double along = (w.x() * e.y() - w.y() * e.x()) / det;
        const double other = (w.x() * d.y() - w.y() * d.x()) / det;
        if (!(along > 0 && along < 1 && other > 0 && other < 1)) return std::nullopt;
        const Point a = at(p) + along * (at(q) - at(p));
        const Point b = at(r) + other * (at(s) - at(r));
        const Point middle = mesh::rounded(options_.precision, 0.5 * (a + b));
        for (const VertexId end : {p, q, r, s})
            if ((middle - at(end)).norm() <= options_.needle) return std::nullopt;
        return Crossing{middle, std::max((middle - a).norm(), (middle - b).norm())};
    }

    // The border from a to one end of the edge crosses that from the other end to b: where a lies beyond v that end is
    // u.
    bool cross(const Fold& f, const Seen& s, bool beyondV) {
        const Eigen::Vector2d zero(0, 0);
        const VertexId end = beyondV ? f.u : f.v;
        const VertexId other = beyondV ? f.v : f.u;
        const auto x = crossing(end, f.a, other, f.b, beyondV ? zero : s.v, s.a, beyondV ? s.v : zero, s.b);
        if (!x) return false;
        const VertexId w = add(x->at);
        Change c;
        c.moved = x->apart;
        // Edges run the other way round at the other end.
        c.replace(f.first, {beyondV ? Triangle{w, f.v, f.a} : Triangle{f.u, w, f.a}});
        if (!(beyondV ? split(f.u, f.a, w, c) : split(f.a, f.v, w, c))) return false;
        c.replace(f.second, {beyondV ? Triangle{w, f.u, f.b} : Triangle{f.v, w, f.b}});
        if (!(beyondV ? split(f.v, f.b, w, c) : split(f.b, f.u, w, c))) return false;
        // One triangle beside both would have to be parted twice.
        return c.go[1] != c.go[3] && make(c);
    }

    VertexId add(const Point& p) {
        m_.positions.push_back(p);
        return static_cast<VertexId>(m_.positions.size() - 1);
    }

    bool make(const Change& c) {
        if (c.moved > options_.tolerance) return false;
        for (const TriangleId t : c.go)
            if (!options_.fixed.empty() && options_.fixed[source_[t]]) return false;
        const std::size_t before = m_.triangles.size();
        std::vector<VertexId> touched;
        for (const TriangleId t : c.go) {
            alive_[t] = 0;
            for (const VertexId v : m_.triangles[t]) {
                std::erase(around(v), t);
                touched.push_back(v);
            }
        }
        for (const auto& [corners, piece] : c.come) {
            const auto t = static_cast<TriangleId>(m_.triangles.size());
            m_.triangles.push_back(corners);
            if (!m_.regions.empty()) m_.regions.push_back(m_.regions[piece]);
            source_.push_back(source_[piece]);
            slackOf_.push_back(slackOf_[piece] + c.moved);
            slack_ = std::max(slack_, slackOf_.back());
            alive_.push_back(1);
            piecesOf_[source_.back()].push_back(t);
            for (const VertexId v : corners) {
                around(v).push_back(t);
                touched.push_back(v);
            }
        }
        std::sort(touched.begin(), touched.end());
        touched.erase(std::unique(touched.begin(), touched.end()), touched.end());
        if (!std::all_of(touched.begin(), touched.end(), [&](VertexId v) { return isOneFan(v); }) ||
            !isSound(static_cast<TriangleId>(before)) || passesOver(c, static_cast<TriangleId>(before))) {
            undo(c, before);
            return false;
        }
        journal_.emplace_back(c, before);
        for (std::size_t t = before; t < m_.triangles.size(); ++t)
            for (unsigned k = 0; k < 3; ++k) wait(m_.triangles[t][k], m_.triangles[t][(k + 1) % 3]);
        return true;
    }

    void undo(const Change& c, std::size_t before) {
        for (std::size_t t = m_.triangles.size(); t-- > before;) {
            for (const VertexId v : m_.triangles[t]) std::erase(around(v), static_cast<TriangleId>(t));
            piecesOf_.find(source_[t])->second.pop_back();
        }
        m_.triangles.resize(before);
        slackOf_.resize(before);
        if (!m_.regions.empty()) m_.regions.resize(before);
        source_.resize(before);
        alive_.resize(before);
        for (const TriangleId t : c.go) {
            alive_[t] = 1;
            for (const VertexId v : m_.triangles[t]) around(v).push_back(t);
        }
    }

    // Nothing is there any more, or what is there goes around once.
    bool isOneFan(VertexId v) {
        const std::vector<TriangleId>& fan = around(v);
        const auto corner = [&](std::size_t i, unsigned further) {
            const Triangle& t = m_.triangles[fan[i]];
            unsigned k = 0;
            while (t[k] != v) ++k;
            return t[(k + further) % 3];
        };
        return fan.empty() || mesh::goAroundOnce(
                                  fan.size(), [&](std::size_t i) { return corner(i, 1); },
                                  [&](std::size_t i) { return corner(i, 2); });
    }

    [[nodiscard]] Corners3 placeOf(TriangleId t) const { return {m_.corner(t, 0), m_.corner(t, 1), m_.corner(t, 2)}; }

    // Something lies between what went and what came, and would be on the other side of the skin.
    [[nodiscard]] bool passesOver(const Change& c, TriangleId begin) const {
        std::vector<Corners3> before;
        std::vector<Corners3> after;
        for (const TriangleId t : c.go) before.push_back(placeOf(t));
        for (TriangleId t = begin; t < m_.triangles.size(); ++t) after.push_back(placeOf(t));
        return fit::passesOver(before, after, [&](const mesh::Box& box, const auto& visit) {
            eachIn(box, [&](TriangleId o) {
                if (!alive_[o] || o >= begin) return;
                for (const VertexId w : m_.triangles[o]) {
                    const auto isCorner = [&](TriangleId t) { return mesh::hasCorner(m_.triangles[t], w); };
                    if (std::none_of(c.go.begin(), c.go.end(), isCorner)) visit(at(w));
                }
            });
        });
    }

    // What came is not degenerate and meets nothing.
    bool isSound(TriangleId begin) {
        for (TriangleId t = begin; t < m_.triangles.size(); ++t)
            if (check::isDegenerate(m_, t)) return false;
        for (TriangleId t = begin; t < m_.triangles.size(); ++t) {
            bool meets = false;
            const mesh::Box box = mesh::boxOf(m_, t);
            const auto test = [&](TriangleId o) {
                meets = meets ||
                        (o != t && alive_[o] &&
                         (mesh::sameCorners(m_.triangles[t], m_.triangles[o]) || check::trianglesIntersect(m_, t, o)));
            };
            eachIn(box, test);
            for (TriangleId o = begin; o < m_.triangles.size(); ++o) test(o);
            if (meets) return false;
        }
        return true;
    }

    const UnfoldOptions& options_;
    const Mesh given_;  // for the tree
    space::TriangleTree tree_;
    mesh::Corners corners_;  // of the given surface
    Mesh m_;                 // with triangles that are gone
    std::vector<std::uint8_t> alive_;
    std::vector<TriangleId> source_;
    std::vector<double> slackOf_;  // of each triangle: how far out of what it is a piece of it may reach
    double slack_ = 0;             // the largest
    std::unordered_map<TriangleId, std::vector<TriangleId>> piecesOf_;  // of triangles of the given surface
    std::unordered_set<std::uint64_t> isGiven_;                         // edges of folds of the given surface
    std::unordered_map<VertexId, std::vector<TriangleId>> around_;
    std::vector<Point> finned_;  // of fins that went
    std::deque<Ends> waiting_;
    std::vector<std::pair<Change, std::size_t>> journal_;  // of one fold, with how many triangles there were before
    UnfoldResult result_;
};

}  // namespace

UnfoldResult unfold(const Mesh& m, const UnfoldOptions& options) {
    const mesh::Edges edges(m);
    std::vector<mesh::EdgeId> folds;
    for (mesh::EdgeId e = 0; e < edges.count(); ++e)
        if (measure::isFold(m, edges, e, options.angleDeg, options.needle)) folds.push_back(e);
    if (folds.empty()) return {mesh::Traced::all(m)};
    return Unfolding(m, options).run(edges, folds);
}

}  // namespace zither::fit
