// Weights by distance on the surface that came in; moved positions beside it.
#include "shape/brush.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <unordered_map>
#include <unordered_set>

#include "check/crossing_pairs.h"

namespace zither::shape {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

class Stroke::Work {
public:
    Work(const check::Surveyed& s, const mesh::Pick& pick, const BrushOptions& options)
        : s_(s), m_(s.mesh()), options_(options) {
        if (!pick.everything()) picked_ = pick.mask(m_);
        // Asked for here, so that no dab waits for them.
        static_cast<void>(s.edges());
        static_cast<void>(s.corners());
        static_cast<void>(s.tree());
    }

    void dab(const Point& place) {
        const std::vector<Under> under = underBrush(place);
        if (under.empty()) return;
        std::vector<std::pair<VertexId, Point>> before;
        before.reserve(under.size());
        std::vector<Point> to(under.size());
        const Point push = options_.way == BrushOptions::Smooth ? Point(Point::Zero()) : pushUnder(under);
        for (std::size_t i = 0; i < under.size(); ++i) {
            const auto [v, weight] = under[i];
            const Point wanted = options_.way == BrushOptions::Smooth
                                     ? Point(at(v) + weight * options_.strength * fairing(v))
                                     : Point(at(v) + weight * push);
            to[i] = mesh::rounded(options_.precision, wanted);
        }
        for (std::size_t i = 0; i < under.size(); ++i) {
            before.emplace_back(under[i].vertex, at(under[i].vertex));
            moved_[under[i].vertex] = to[i];
        }
        keepFacing(before);
        for (const Under& u : under)
            for (const HalfEdge h : s_.corners().at(u.vertex)) touch(mesh::triangleOf(h));
    }

    [[nodiscard]] const Point& at(VertexId v) const {
        const auto it = moved_.find(v);
        return it == moved_.end() ? m_.positions[v] : it->second;
    }
    [[nodiscard]] std::span<const TriangleId> touched() const { return touched_; }

    // Pairs of which one is touched, but for those that met before.
    [[nodiscard]] std::vector<TriangleId> crossing() const {
        if (touched_.empty()) return {};
        // The touched ones as they are now, with all that lies where they are.
        std::vector<TriangleId> all(touched_);
        std::unordered_set<TriangleId> others;
        for (const TriangleId t : touched_)
            s_.tree().overlapping(boxNow(t), [&](TriangleId o) {
                if (!isTouched_.contains(o)) others.insert(o);
            });
        std::vector<TriangleId> ordered(others.begin(), others.end());
        std::sort(ordered.begin(), ordered.end());
        all.insert(all.end(), ordered.begin(), ordered.end());
        const Mesh now = piece(all);
        std::vector<std::uint8_t> suspects(all.size(), 0);
        std::fill(suspects.begin(), suspects.begin() + static_cast<std::ptrdiff_t>(touched_.size()), 1);
        const check::Surveyed part(now);
        mesh::SilentProgress quiet;
        const auto pairs = check::crossingPairs(part.tree(), quiet, {suspects, part.degenerate()});
        const std::vector<std::uint8_t>& broken = s_.degenerate();
        std::vector<TriangleId> met;
        for (const auto& [a, b] : *pairs) {
            const TriangleId first = all[a];
            const TriangleId second = all[b];
            if (!broken[first] && !broken[second] && check::trianglesIntersect(m_, first, second)) continue;
            for (const TriangleId t : {first, second})
                if (isTouched_.contains(t)) met.push_back(t);
        }
        std::sort(met.begin(), met.end());
        met.erase(std::unique(met.begin(), met.end()), met.end());
        return met;
    }

    std::size_t takeBackCrossings() {
        std::unordered_set<VertexId> back;
        constexpr int halvings = 6;
        for (int round = 0;; ++round) {
            const std::vector<TriangleId> met = crossing();
            if (met.empty()) return back.size();
            std::unordered_set<VertexId> now;
            for (const TriangleId t : met)
                for (const VertexId v : m_.triangles[t]) now.insert(v);
            // What lies about it too, so that no step is left; in the end everything.
            if (round > 2 * halvings)
                for (const auto& [v, p] : moved_) now.insert(v);
            for (const VertexId v : now) {
                const auto it = moved_.find(v);
                if (it == moved_.end()) continue;
                back.insert(v);
                const Point& from = m_.positions[v];
                it->second =
                    round < halvings ? mesh::rounded(options_.precision, from + 0.5 * (it->second - from)) : from;
            }
            if (round > 2 * halvings) return back.size();
        }
    }

    [[nodiscard]] Done done() const {
        Done done{m_};
        for (const auto& [v, p] : moved_) {
            if (p == m_.positions[v]) continue;
            done.mesh.positions[v] = p;
            ++done.moved;
            done.farthest = std::max(done.farthest, (p - m_.positions[v]).norm());
        }
        return done;
    }

private:
    struct Under {
        VertexId vertex = 0;
        double weight = 0;
    };

    // Within reach along edges of the surface that came in.
    [[nodiscard]] std::vector<Under> underBrush(const Point& place) {
        const double radius = 0.5 * options_.width;
        const auto nearest = s_.tree().nearest(place);
        if (!nearest || !(radius > 0)) return {};
        std::vector<Under> under;
        std::vector<VertexId> open;
        std::unordered_set<VertexId> seen;
        for (const VertexId v : m_.triangles[nearest->triangle])
            if (seen.insert(v).second) open.push_back(v);
        while (!open.empty()) {
            const VertexId v = open.back();
            open.pop_back();
            const double away = (m_.positions[v] - place).norm() / radius;
            if (!(away < 1)) continue;
            if (mayMove(v)) under.push_back({v, (1 - away * away) * (1 - away * away)});
            for (const HalfEdge h : s_.corners().at(v))
                for (const VertexId n : {mesh::toVertex(m_, h), mesh::oppositeVertex(m_, h)})
                    if (seen.insert(n).second) open.push_back(n);
        }
        std::sort(under.begin(), under.end(), [](const Under& a, const Under& b) { return a.vertex < b.vertex; });
        return under;
    }

    // It lies amid triangles of one region that are picked and go once all around it.
    bool mayMove(VertexId v) {
        if (const auto it = mayMove_.find(v); it != mayMove_.end()) return it->second;
        bool may = true;
        std::size_t walked = 0;
        const auto around = s_.corners().at(v);
        for (const HalfEdge h : around) {
            const TriangleId t = mesh::triangleOf(h);
            const HalfEdge twin = s_.edges().twin(h);
            may = may && twin != mesh::noEdge && !mesh::runsAlong(m_, h, twin) &&
                  s_.edges().degree(s_.edges().edgeOf(h)) == 2 &&
                  m_.regionOf(t) == m_.regionOf(mesh::triangleOf(twin)) && (picked_.empty() || picked_[t]) &&
                  !s_.degenerate()[t];
            if (!may) break;
        }
        if (may) {
            // One fan.
            HalfEdge h = *around.begin();
            do {
                ++walked;
                h = s_.edges().twin(mesh::previousInTriangle(h));
            } while (h != mesh::noEdge && h != *around.begin() && walked <= around.size());
            may = walked == around.size();
        }
        mayMove_.emplace(v, may);
        return may;
    }

    // From a vertex to the middle of its neighbours.
    [[nodiscard]] Point toMiddle(VertexId v) const {
        Point sum = Point::Zero();
        std::size_t count = 0;
        for (const HalfEdge h : s_.corners().at(v)) {
            sum += at(mesh::toVertex(m_, h));
            ++count;
        }
        return sum / static_cast<double>(count) - at(v);
    }

    // The way to the middle, less what it is all around: ripples go, and what is evenly curved stays (the bilaplacian
    // of Kobbelt et al. 1998). Half of it is as much as is stable.
    [[nodiscard]] Point fairing(VertexId v) {
        Point around = Point::Zero();
        std::size_t count = 0;
        for (const HalfEdge h : s_.corners().at(v))
            if (const VertexId n = mesh::toVertex(m_, h); mayMove(n)) {
                around += toMiddle(n);
                ++count;
            }
        return count > 0 ? Point(0.5 * (toMiddle(v) - around / static_cast<double>(count))) : Point(Point::Zero());
    }

    [[nodiscard]] Point pushUnder(const std::vector<Under>& under) const {
        Point normal = Point::Zero();
        for (const Under& u : under)
            for (const HalfEdge h : s_.corners().at(u.vertex)) normal += u.weight * areaVectorNow(mesh::triangleOf(h));
        const double length = normal.norm();
        if (!(length > 0)) return Point::Zero();
        constexpr double most = 1.0 / 20;  // of the width, at full strength
        const double sign = options_.way == BrushOptions::In ? -1 : 1;
        return sign * options_.strength * most * options_.width / length * normal;
    }

    [[nodiscard]] Point areaVectorNow(TriangleId t) const {
        const auto& [a, b, c] = m_.triangles[t];
        return (at(b) - at(a)).cross(at(c) - at(a));
    }
    [[nodiscard]] mesh::Box boxNow(TriangleId t) const {
        mesh::Box box;
        for (const VertexId v : m_.triangles[t]) box.add(at(v));
        return box;
    }

    // Corners of what turned over, or has no area, go back to where they were before the dab.
    void keepFacing(const std::vector<std::pair<VertexId, Point>>& before) {
        const std::unordered_map<VertexId, Point> was(before.begin(), before.end());
        const auto atBefore = [&](VertexId v) {
            const auto it = was.find(v);
            return it == was.end() ? at(v) : it->second;
        };
        std::vector<VertexId> look;
        look.reserve(before.size());
        for (const auto& [v, p] : before) look.push_back(v);
        while (!look.empty()) {
            std::vector<VertexId> next;
            for (const VertexId v : look)
                for (const HalfEdge h : s_.corners().at(v)) {
                    const TriangleId t = mesh::triangleOf(h);
                    const auto& [a, b, c] = m_.triangles[t];
                    const Point then = (atBefore(b) - atBefore(a)).cross(atBefore(c) - atBefore(a));
                    if (then.dot(areaVectorNow(t)) > 0 && !exact::collinear(at(a), at(b), at(c))) continue;
                    for (const VertexId w : m_.triangles[t])
                        if (const auto it = was.find(w); it != was.end() && at(w) != it->second) {
                            moved_[w] = it->second;
                            next.push_back(w);
                        }
                }
            look = std::move(next);
        }
    }

    void touch(TriangleId t) {
        if (isTouched_.insert(t).second) touched_.push_back(t);
    }

    // These triangles as they are now, with the vertices that they share.
    [[nodiscard]] Mesh piece(const std::vector<TriangleId>& triangles) const {
        Mesh piece;
        std::unordered_map<VertexId, VertexId> numberOf;
        for (const TriangleId t : triangles) {
            mesh::Triangle corners;
            for (unsigned k = 0; k < 3; ++k) {
                const VertexId v = m_.triangles[t][k];
                const auto [it, fresh] = numberOf.emplace(v, static_cast<std::uint32_t>(piece.positions.size()));
                if (fresh) piece.positions.push_back(at(v));
                corners[k] = it->second;
            }
            piece.triangles.push_back(corners);
        }
        return piece;
    }

    const check::Surveyed& s_;
    const Mesh& m_;
    const BrushOptions options_;
    std::vector<std::uint8_t> picked_;  // one flag a triangle; empty: all
    std::unordered_map<VertexId, Point> moved_;
    std::unordered_map<VertexId, bool> mayMove_;
    std::vector<TriangleId> touched_;
    std::unordered_set<TriangleId> isTouched_;
};

Stroke::Stroke(const check::Surveyed& s, const mesh::Pick& pick, const BrushOptions& options)
    : work_(std::make_unique<Work>(s, pick, options)) {}
Stroke::~Stroke() = default;

void Stroke::dab(const Point& place) {
    work_->dab(place);
}
std::span<const TriangleId> Stroke::touched() const {
    return work_->touched();
}
const Point& Stroke::at(VertexId v) const {
    return work_->at(v);
}
std::vector<TriangleId> Stroke::crossing() const {
    return work_->crossing();
}
std::size_t Stroke::takeBackCrossings() {
    return work_->takeBackCrossings();
}
Stroke::Done Stroke::done() const {
    return work_->done();
}

}  // namespace zither::shape
