// A queue of needles and caps; each change is tested exactly before it is made.
#include "arrange/slivers.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <unordered_map>
#include <utility>

#include "check/crossing_pairs.h"
#include "measure/mass.h"
#include "mesh/edges.h"
#include "space/triangle_tree.h"

namespace zither::arrange {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

class SliverRemover {
public:
    SliverRemover(const Mesh& m, const SliverOptions& options)
        : options_(options),
          m_(m),
          surface_(m),
          corners_(m),
          tree_(surface_),
          alive_(m.triangles.size(), 1),
          shares_(m.triangles.size(), 0),
          touched_(m.positions.size(), 1),
          touchedNow_(m.positions.size(), 0) {}

    mesh::Outcome<SliverResult> run(mesh::Progress& progress) {
        // A swap may lay bare a short edge, and a collapse a cap.
        const int rounds = byAngle() ? 6 : 2;
        for (int round = 0; round < rounds; ++round) {
            const std::size_t before = result_.collapsed + result_.swapped;
            if (!collapseNeedles(progress, 0.1 + 0.8 * round / rounds)) return mesh::cancelled();
            if (!swapCaps(progress, 0.1 + 0.8 * (round + 0.5) / rounds)) return mesh::cancelled();
            if (result_.collapsed + result_.swapped == before) break;
            touched_ = std::exchange(touchedNow_, std::vector<std::uint8_t>(m_.positions.size(), 0));
        }
        for (TriangleId t = 0; t < m_.triangles.size(); ++t) result_.left += alive_[t] && isSliver(t);
        for (TriangleId t = 0; t < alive_.size(); ++t)
            if (alive_[t]) result_.sourceOf.push_back(t);
        result_.mesh = mesh::keepTriangles(m_, alive_);
        if (!progress.report(1)) return mesh::cancelled();
        return std::move(result_);
    }

private:
    struct Short {
        double length;
        VertexId a;
        VertexId b;
        bool operator<(const Short& o) const {
            return length != o.length ? length < o.length : a != o.a ? a < o.a : b < o.b;
        }
    };

    [[nodiscard]] bool movable(VertexId v) const { return options_.movable.empty() || options_.movable[v]; }
    [[nodiscard]] bool fixed(TriangleId t) const { return !options_.fixed.empty() && options_.fixed[t]; }
    [[nodiscard]] bool broken(TriangleId t) const { return !options_.broken.empty() && options_.broken[t]; }
    [[nodiscard]] Point normal(TriangleId t) const { return mesh::areaVector(m_, t); }

    // Height over the longest edge.
    [[nodiscard]] double width(const mesh::Triangle& t) const {
        const Point& a = m_.positions[t[0]];
        const Point& b = m_.positions[t[1]];
        const Point& c = m_.positions[t[2]];
        const double longest = std::max({(b - a).norm(), (c - b).norm(), (a - c).norm()});
        return longest > 0 ? (b - a).cross(c - a).norm() / longest : 0;
    }
    [[nodiscard]] double width(TriangleId t) const { return width(m_.triangles[t]); }

    // Something around it changed in the last round: what could not be done before may be possible now.
    [[nodiscard]] bool touched(TriangleId t) const {
        const mesh::Triangle& v = m_.triangles[t];
        return touched_[v[0]] || touched_[v[1]] || touched_[v[2]];
    }
    void touch(const std::vector<TriangleId>& triangles) {
        for (const TriangleId t : triangles)
            for (const VertexId v : m_.triangles[t]) touchedNow_[v] = touched_[v] = 1;
    }

    [[nodiscard]] bool byAngle() const { return options_.angleDeg > 0; }
    [[nodiscard]] bool isSliver(TriangleId t) const {
        return width(t) < options_.tolerance || (byAngle() && measure::smallestAngleDeg(m_, t) < options_.angleDeg);
    }

    // Twins of the shortest edge of a needle; an edge below the tolerance where angles do not count.
    [[nodiscard]] bool wantsCollapse(TriangleId t, unsigned k, double length) const {
        if (length < options_.tolerance) return true;
        if (!byAngle() || measure::smallestAngleDeg(m_, t) >= options_.angleDeg) return false;
        const double next = (m_.corner(t, (k + 2) % 3) - m_.corner(t, (k + 1) % 3)).norm();
        const double last = (m_.corner(t, k) - m_.corner(t, (k + 2) % 3)).norm();
        return length < 0.5 * std::min(next, last);
    }

    std::vector<TriangleId>& at(VertexId v) {
        const auto [it, fresh] = around_.try_emplace(v);
        if (fresh)
            for (mesh::HalfEdge h : corners_.at(v)) {
                const TriangleId t = mesh::triangleOf(h);
                if (alive_[t] && hasCorner(t, v)) it->second.push_back(t);
            }
        return it->second;
    }

    [[nodiscard]] bool hasCorner(TriangleId t, VertexId v) const { return mesh::hasCorner(m_.triangles[t], v); }

    std::vector<VertexId> neighbours(VertexId v) {
        std::vector<VertexId> all;
        for (TriangleId t : at(v))
            for (VertexId w : m_.triangles[t])
                if (w != v) all.push_back(w);
        std::sort(all.begin(), all.end());
        all.erase(std::unique(all.begin(), all.end()), all.end());
        return all;
    }

    bool collapseNeedles(mesh::Progress& progress, double share) {
        std::vector<Short> edges;
        for (TriangleId t = 0; t < m_.triangles.size(); ++t) {
            if (!alive_[t] || !touched(t)) continue;
            for (unsigned k = 0; k < 3; ++k) {
                const VertexId a = m_.triangles[t][k];
                const VertexId b = m_.triangles[t][(k + 1) % 3];
                if (!movable(a) && !movable(b)) continue;
                const double length = (m_.positions[a] - m_.positions[b]).norm();
                if (wantsCollapse(t, k, length)) edges.push_back({length, std::min(a, b), std::max(a, b)});
            }
        }
        std::sort(edges.begin(), edges.end());
        edges.erase(std::unique(edges.begin(), edges.end(),
                                [](const Short& x, const Short& y) { return x.a == y.a && x.b == y.b; }),
                    edges.end());
        for (std::size_t i = 0; i < edges.size(); ++i) {
            if (i % 4096 == 0 && !progress.report(share)) return false;
            const auto& [length, a, b] = edges[i];
            if ((movable(b) && collapse(b, a)) || (movable(a) && collapse(a, b))) ++result_.collapsed;
        }
        return true;
    }

    // The corners in common are just those of the triangles that go.
    [[nodiscard]] bool goesWith(const std::vector<TriangleId>& going, const std::vector<VertexId>& common,
                                VertexId from, VertexId onto) const {
        std::vector<VertexId> opposite;
        for (const TriangleId t : going)
            for (const VertexId v : m_.triangles[t])
                if (v != from && v != onto) opposite.push_back(v);
        std::sort(opposite.begin(), opposite.end());
        opposite.erase(std::unique(opposite.begin(), opposite.end()), opposite.end());
        return opposite == common;
    }

    // Every edge at the vertex has an even number of triangles.
    [[nodiscard]] bool isClosedAround(VertexId at, const std::vector<TriangleId>& fan) const {
        std::vector<VertexId> ends;
        for (const TriangleId t : fan)
            for (const VertexId v : m_.triangles[t])
                if (v != at) ends.push_back(v);
        std::sort(ends.begin(), ends.end());
        for (std::size_t i = 0; i < ends.size();) {
            const std::size_t first = i;
            while (i < ends.size() && ends[i] == ends[first]) ++i;
            if ((i - first) % 2 != 0) return false;
        }
        return true;
    }

    // Moves `from` onto `onto`. False where that is not to be.
    bool collapse(VertexId from, VertexId onto) {
        const std::vector<TriangleId> fan = at(from);
        std::vector<TriangleId> going;
        std::vector<TriangleId> staying;
        for (TriangleId t : fan) (hasCorner(t, onto) ? going : staying).push_back(t);
        if (options_.moveTouching ? going.empty() : going.size() != 2) return false;
        for (TriangleId t : fan)
            if (fixed(t)) return false;
        double moved = error_[from] + (m_.positions[from] - m_.positions[onto]).norm();
        if (!byAngle() && moved > options_.tolerance) return false;
        // The link condition: the two ends have just the two corners in common that go with the edge.
        const std::vector<VertexId> a = neighbours(from);
        const std::vector<VertexId> b = neighbours(onto);
        std::vector<VertexId> common;
        std::set_intersection(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(common));
        if (options_.moveTouching ? !goesWith(going, common, from, onto) || !isClosedAround(from, fan)
                                  : common.size() != 2 || fan.size() != a.size())
            return false;

        std::vector<mesh::Triangle> before;
        std::vector<Point> normals;
        for (TriangleId t : staying) {
            before.push_back(m_.triangles[t]);
            normals.push_back(width(t) < options_.tolerance ? Point(Point::Zero()) : normal(t));
        }
        for (TriangleId t : going) alive_[t] = 0;
        for (TriangleId t : staying)
            for (VertexId& v : m_.triangles[t])
                if (v == from) v = onto;
        if (byAngle()) moved = std::max(error_[from], error_[onto]) + surfaceMoved(staying, before, from, onto);
        if (moved > options_.tolerance || (byAngle() && makesSlivers(staying, before)) || !sound(staying, normals)) {
            for (std::size_t i = 0; i < staying.size(); ++i) m_.triangles[staying[i]] = before[i];
            for (TriangleId t : going) alive_[t] = 1;
            return false;
        }
        std::vector<TriangleId>& at1 = at(onto);
        for (TriangleId t : going) std::erase(at1, t);
        at1.insert(at1.end(), staying.begin(), staying.end());
        for (VertexId v : common)
            for (TriangleId t : going) std::erase(at(v), t);
        at(from).clear();
        touch(staying);
        if (byAngle()) shareBoxes(fan);
        error_[onto] = std::max(error_[onto], moved);
        result_.farthestMoved = std::max(result_.farthestMoved, moved);
        return true;
    }

    [[nodiscard]] double distanceTo(const std::vector<TriangleId>& triangles, const Point& p) const {
        double best = std::numeric_limits<double>::infinity();
        for (TriangleId t : triangles)
            best = std::min(
                best, (space::nearestOnTriangle(p, m_.corner(t, 0), m_.corner(t, 1), m_.corner(t, 2)) - p).norm());
        return best;
    }

    // How far the surface around `from` is from what it becomes, at the vertex and at the middles of the edges there
    // that go, which lie farthest from what stays.
    [[nodiscard]] double surfaceMoved(const std::vector<TriangleId>& now, const std::vector<mesh::Triangle>& before,
                                      VertexId from, VertexId onto) const {
        double moved = distanceTo(now, m_.positions[from]);
        for (const mesh::Triangle& t : before)
            for (VertexId v : t)
                if (v != from && v != onto)
                    for (const double along : {0.25, 0.5, 0.75})
                        moved = std::max(moved,
                                         distanceTo(now, along * m_.positions[from] + (1 - along) * m_.positions[v]));
        return moved;
    }

    // A triangle that was none has become a sliver, or one has become worse.
    [[nodiscard]] bool makesSlivers(const std::vector<TriangleId>& triangles,
                                    const std::vector<mesh::Triangle>& before) {
        for (std::size_t i = 0; i < triangles.size(); ++i) {
            const double now = measure::smallestAngleDeg(m_, triangles[i]);
            if (now >= options_.angleDeg) continue;
            const mesh::Triangle after = std::exchange(m_.triangles[triangles[i]], before[i]);
            const double was = measure::smallestAngleDeg(m_, triangles[i]);
            m_.triangles[triangles[i]] = after;
            if (now < was) return true;
        }
        return false;
    }

    bool swapCaps(mesh::Progress& progress, double share) {
        const std::size_t count = m_.triangles.size();
        for (TriangleId t = 0; t < count; ++t) {
            if (t % 65536 == 0 && !progress.report(share)) return false;
            if (alive_[t] && touched(t) && !fixed(t) && isSliver(t) && swapLongest(t)) ++result_.swapped;
        }
        return true;
    }

    // Turns the longest edge of t in the quadrangle that it makes with its neighbour.
    bool swapLongest(TriangleId t) {
        unsigned k = 0;
        double longest = 0;
        for (unsigned i = 0; i < 3; ++i)
            if (const double l = (m_.corner(t, (i + 1) % 3) - m_.corner(t, i)).norm(); l > longest) {
                longest = l;
                k = i;
            }
        const VertexId a = m_.triangles[t][k];
        const VertexId c = m_.triangles[t][(k + 1) % 3];
        const VertexId b = m_.triangles[t][(k + 2) % 3];
        TriangleId other = t;
        int over = 0;
        for (TriangleId o : at(a))
            if (o != t && hasCorner(o, c)) {
                other = o;
                ++over;
            }
        if (over != 1 || fixed(other) || (!m_.regions.empty() && m_.regions[t] != m_.regions[other])) return false;
        const mesh::Triangle& quad = m_.triangles[other];
        unsigned j = 0;
        while (quad[j] == a || quad[j] == c) ++j;
        const VertexId d = quad[j];
        // The neighbour must run the other way along the edge, and b to d must not be an edge yet.
        if (quad[(j + 1) % 3] != c || d == b) return false;
        for (TriangleId o : at(b))
            if (hasCorner(o, d)) return false;
        // A needle's longest edge is no cap's: the corner must lie over the inside of the edge.
        const Point along = m_.positions[c] - m_.positions[a];
        const double share = along.dot(m_.positions[b] - m_.positions[a]) / along.squaredNorm();
        if (!(share > 0 && share < 1)) return false;
        const std::array<mesh::Triangle, 2> before{m_.triangles[t], m_.triangles[other]};
        const double angleBefore = std::min(measure::smallestAngleDeg(m_, t), measure::smallestAngleDeg(m_, other));
        // Over a cap the surface moves by the cap's height; else by as much as the two diagonals pass each other.
        const double height = (along * share - (m_.positions[b] - m_.positions[a])).norm();
        const double moved =
            std::max({error_[a], error_[b], error_[c], error_[d]}) + std::min(height, foldHeight(a, c, b, d));
        if (byAngle() && moved > 0.8 * options_.tolerance) return false;
        const Point facing = width(other) < options_.tolerance ? Point(Point::Zero()) : normal(other);
        // (a, c, b) and (d, c, a) become (a, d, b) and (d, c, b).
        m_.triangles[t] = {a, d, b};
        m_.triangles[other] = {d, c, b};
        const bool better =
            byAngle() ? std::min(measure::smallestAngleDeg(m_, t), measure::smallestAngleDeg(m_, other)) > angleBefore
                      : std::min(width(t), width(other)) >= width(before[0]);
        if (!better || !sound({t, other}, {facing, facing})) {
            m_.triangles[t] = before[0];
            m_.triangles[other] = before[1];
            return false;
        }
        std::erase(at(c), t);
        std::erase(at(a), other);
        at(d).push_back(t);
        at(b).push_back(other);
        touch({t, other});
        shareBoxes({t, other});
        if (byAngle()) {
            for (VertexId v : {a, b, c, d}) error_[v] = std::max(error_[v], moved);
            result_.farthestMoved = std::max(result_.farthestMoved, moved);
        }
        return true;
    }

    // Volume of the four corners over the area between the diagonals: how far the surface moves where one edge becomes
    // the other.
    [[nodiscard]] double foldHeight(VertexId a, VertexId c, VertexId b, VertexId d) const {
        const Point ac = m_.positions[c] - m_.positions[a];
        const Point bd = m_.positions[d] - m_.positions[b];
        const Point n = ac.cross(bd);
        const double length = n.norm();
        return length > 0 ? std::abs(n.dot(m_.positions[b] - m_.positions[a])) / length : 0;
    }

    // The changed triangles are not degenerate, face as before and meet nothing.
    bool sound(const std::vector<TriangleId>& triangles, const std::vector<Point>& facing) {
        for (std::size_t i = 0; i < triangles.size(); ++i) {
            const TriangleId t = triangles[i];
            if (check::isDegenerate(m_, t)) return false;
            const Point now = normal(t);
            if (facing[i] != Point::Zero() && now.dot(facing[i]) < 0.5 * now.norm() * facing[i].norm()) return false;
        }
        for (TriangleId t : triangles) {
            bool meets = false;
            const auto test = [&](TriangleId o) {
                meets = meets ||
                        (o != t && alive_[o] && !(broken(t) && broken(o)) &&
                         (mesh::sameCorners(m_.triangles[t], m_.triangles[o]) || check::trianglesIntersect(m_, t, o)));
            };
            // What was collapsed left its box in the tree by the tolerance at most; what was swapped may lie in
            // others'.
            mesh::Box box = mesh::boxOf(m_, t);
            box.min -= mesh::Point::Constant(options_.tolerance);
            box.max += mesh::Point::Constant(options_.tolerance);
            tree_.overlapping(box, [&](TriangleId o) {
                test(o);
                if (!shares_[o]) return;
                for (TriangleId also : alsoIn_.find(o)->second) test(also);
            });
            for (TriangleId o : triangles) test(o);
            if (meets) return false;
        }
        return true;
    }

    // After a change any of the triangles may lie in the boxes that all of them had.
    void shareBoxes(const std::vector<TriangleId>& triangles) {
        std::vector<TriangleId> boxes;
        for (TriangleId t : triangles) {
            const std::vector<TriangleId> own = boxesOf(t);
            boxes.insert(boxes.end(), own.begin(), own.end());
        }
        std::sort(boxes.begin(), boxes.end());
        boxes.erase(std::unique(boxes.begin(), boxes.end()), boxes.end());
        for (TriangleId box : boxes)
            for (TriangleId t : triangles) {
                if (t == box) continue;
                std::vector<TriangleId>& list = alsoIn_[box];
                shares_[box] = 1;
                if (std::find(list.begin(), list.end(), t) == list.end()) list.push_back(t);
            }
        for (TriangleId t : triangles) boxes_[t] = boxes;
    }
    [[nodiscard]] std::vector<TriangleId> boxesOf(TriangleId t) const {
        const auto found = boxes_.find(t);
        return found == boxes_.end() ? std::vector<TriangleId>{t} : found->second;
    }

    const SliverOptions& options_;
    Mesh m_;
    Mesh surface_;  // as it came in, for the tree
    mesh::Corners corners_;
    space::TriangleTree tree_;
    std::vector<std::uint8_t> alive_;
    std::vector<std::uint8_t> shares_;      // of each triangle: others may lie in its box, see alsoIn_
    std::vector<std::uint8_t> touched_;     // of each vertex: something around it changed in the last round or this one
    std::vector<std::uint8_t> touchedNow_;  // in this one
    std::unordered_map<VertexId, std::vector<TriangleId>> around_;    // of vertices that were looked at
    std::unordered_map<VertexId, double> error_;                      // how far what is at a vertex was moved
    std::unordered_map<TriangleId, std::vector<TriangleId>> boxes_;   // whose boxes a swapped triangle may lie in
    std::unordered_map<TriangleId, std::vector<TriangleId>> alsoIn_;  // and the other way round
    SliverResult result_;
};

}  // namespace

mesh::Outcome<SliverResult> removeSlivers(const Mesh& m, const SliverOptions& options, mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    return SliverRemover(m, options).run(progress);
}

}  // namespace zither::arrange
