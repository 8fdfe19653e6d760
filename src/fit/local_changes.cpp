// Boxes of the given surface serve as they are: what leaves its own is said to lie in those around it.
#include "fit/local_changes.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <limits>
#include <utility>

#include "check/crossing_pairs.h"
#include "measure/deviation.h"
#include "measure/mass.h"
#include "measure/overlay.h"

namespace zither::fit {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

// Of a distance, where no bound is known.
constexpr double unbounded = std::numeric_limits<double>::infinity();

void sortOnce(std::vector<VertexId>& list) {
    std::sort(list.begin(), list.end());
    list.erase(std::unique(list.begin(), list.end()), list.end());
}

// Where the segment from a to b is nearest to the line through c and d.
Point nearestOnSegment(const Point& a, const Point& b, const Point& c, const Point& d) {
    const Point line = (d - c).normalized();
    const Point over = (b - a) - line.dot(b - a) * line;
    const double squared = over.squaredNorm();
    const double along = squared > 0 ? std::clamp(over.dot(c - a) / squared, 0.0, 1.0) : 0.5;
    return a + along * (b - a);
}

}  // namespace

LocalChanges::LocalChanges(const Mesh& m, ChangeRules rules)
    : rules_(std::move(rules)),
      m_(m),
      given_(m),
      corners_(m),
      tree_(given_),
      alive_(m.triangles.size(), 1),
      shares_(m.triangles.size(), 0),
      touched_(m.positions.size(), 1),
      touchedNow_(m.positions.size(), 0) {}

double LocalChanges::width(const mesh::Triangle& t) const {
    return measure::leastHeight(m_.positions[t[0]], m_.positions[t[1]], m_.positions[t[2]]);
}

bool LocalChanges::isSliver(TriangleId t) const {
    return isThin(t) || (byAngle() && measure::smallestAngleDeg(m_, t) < rules_.angleDeg);
}

std::pair<unsigned, double> LocalChanges::longestEdge(TriangleId t) const {
    std::pair<unsigned, double> longest{0, 0};
    for (unsigned k = 0; k < 3; ++k)
        if (const double l = (m_.corner(t, (k + 1) % 3) - m_.corner(t, k)).norm(); l > longest.second) longest = {k, l};
    return longest;
}

// Where a triangle looks; of a thin one that says nothing.
Point LocalChanges::facing(TriangleId t) const {
    return isThin(t) ? Point(Point::Zero()) : mesh::areaVector(m_, t);
}

LocalChanges::Triangles& LocalChanges::at(VertexId v) {
    const auto [it, fresh] = around_.try_emplace(v);
    if (fresh)
        for (const mesh::HalfEdge h : corners_.at(v)) {
            const TriangleId t = mesh::triangleOf(h);
            if (alive_[t] && mesh::hasCorner(m_.triangles[t], v)) it->second.push_back(t);
        }
    return it->second;
}

std::vector<VertexId> LocalChanges::neighbours(VertexId v) {
    std::vector<VertexId> all;
    for (const TriangleId t : at(v))
        for (const VertexId w : m_.triangles[t])
            if (w != v) all.push_back(w);
    sortOnce(all);
    return all;
}

// The corners in common are just those of the triangles that go.
bool LocalChanges::goesWith(const Triangles& going, const std::vector<VertexId>& common, VertexId from,
                            VertexId onto) const {
    std::vector<VertexId> opposite;
    for (const TriangleId t : going)
        for (const VertexId v : m_.triangles[t])
            if (v != from && v != onto) opposite.push_back(v);
    sortOnce(opposite);
    return opposite == common;
}

// Every edge at the vertex has an even number of triangles.
bool LocalChanges::isClosedAround(VertexId at, const Triangles& fan) const {
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

// The link condition: the two ends have just the two corners in common that go with the edge.
bool LocalChanges::linkAllows(const Triangles& fan, const Triangles& going, VertexId from, VertexId onto) {
    if (rules_.moveTouching ? going.empty() : going.size() != 2) return false;
    const std::vector<VertexId> a = neighbours(from);
    const std::vector<VertexId> b = neighbours(onto);
    std::vector<VertexId> common;
    std::set_intersection(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(common));
    return rules_.moveTouching ? goesWith(going, common, from, onto) && isClosedAround(from, fan)
                               : common.size() == 2 && fan.size() == a.size();
}

// The vertex is on no border of regions, or slides along one that stays where it is.
bool LocalChanges::keepsBorders(const Triangles& fan, VertexId from, VertexId onto) const {
    if (m_.regions.empty()) return true;
    std::vector<VertexId> ends;
    for (const TriangleId t : fan)
        for (const VertexId v : m_.triangles[t])
            if (v != from) ends.push_back(v);
    sortOnce(ends);
    std::vector<VertexId> border;
    for (const VertexId end : ends) {
        const auto has = [&](TriangleId t) { return mesh::hasCorner(m_.triangles[t], end); };
        const auto first = std::find_if(fan.begin(), fan.end(), has);
        if (std::any_of(first, fan.end(), [&](TriangleId t) { return has(t) && m_.regions[t] != m_.regions[*first]; }))
            border.push_back(end);
    }
    if (border.empty()) return true;
    if (border.size() != 2 || (border[0] != onto && border[1] != onto)) return false;
    const Point& before = m_.positions[from];
    const Point& a = m_.positions[border[0]];
    const Point& b = m_.positions[border[1]];
    return (space::nearestOnTriangle(before, a, b, b) - before).norm() <= rules_.tolerance;
}

bool LocalChanges::collapse(VertexId from, VertexId onto, Moves moves) {
    const Triangles fan = at(from);
    Triangles going;
    Triangles staying;
    for (const TriangleId t : fan) (mesh::hasCorner(m_.triangles[t], onto) ? going : staying).push_back(t);
    if (std::any_of(fan.begin(), fan.end(), [&](TriangleId t) { return isFixed(t); })) return false;
    const double length = (m_.positions[from] - m_.positions[onto]).norm();
    const auto slack = slack_.find(from);
    const double slid = length + (slack == slack_.end() ? 0 : slack->second);
    if (moves == Moves::Vertex && slid > rules_.tolerance) return false;
    if (!linkAllows(fan, going, from, onto)) return false;
    if (moves == Moves::Surface && !keepsBorders(fan, from, onto)) return false;

    std::vector<VertexId> rim = neighbours(from);
    std::erase(rim, onto);
    if (moves == Moves::Surface)
        for (const Point& p : passedOver(rim, onto, from))
            if (distance(p, fan) > rules_.tolerance) return false;
    const std::vector<Corners3> places = placesOf(fan);
    std::vector<mesh::Triangle> before;
    Points facings;
    for (const TriangleId t : staying) {
        before.push_back(m_.triangles[t]);
        facings.push_back(facing(t));
    }
    for (const TriangleId t : going) alive_[t] = 0;
    for (const TriangleId t : staying)
        for (VertexId& v : m_.triangles[t])
            if (v == from) v = onto;
    Triangles now = staying;
    now.insert(now.end(), at(onto).begin(), at(onto).end());
    Points fresh;
    double moved = slid;
    if (moves == Moves::Surface) {
        moved = 0;
        fresh = passedOver(rim, from, onto);
        fresh.push_back(m_.positions[from]);
    }
    std::vector<VertexId> keepers = rim;
    keepers.insert(keepers.end(), {from, onto});
    if ((moves == Moves::Surface && makesSlivers(staying, before, going)) || !stayNear(fresh, keepers, now, moved) ||
        !isSound(staying, facings) || passesOver(places, staying) ||
        !staysOver(fan, staying, moves == Moves::Vertex ? length : unbounded, moved)) {
        for (std::size_t i = 0; i < staying.size(); ++i) m_.triangles[staying[i]] = before[i];
        for (const TriangleId t : going) alive_[t] = 1;
        return false;
    }
    if (moves == Moves::Vertex) {
        fresh.push_back(m_.positions[from]);
        double& reach = slack_[onto];
        reach = std::max(reach, slid);
    }
    Points& points = points_[onto];
    points.insert(points.end(), fresh.begin(), fresh.end());
    if (const auto left = points_.extract(from))
        points.insert(points.end(), left.mapped().begin(), left.mapped().end());
    Triangles& there = at(onto);
    for (const TriangleId t : going) std::erase(there, t);
    there.insert(there.end(), staying.begin(), staying.end());
    for (const VertexId v : rim)
        for (const TriangleId t : going) std::erase(at(v), t);
    at(from).clear();
    touch(staying);
    if (moves == Moves::Surface) shareBoxes(fan);
    farthestMoved_ = std::max(farthestMoved_, moved);
    return true;
}

// Points of edges from `from` where they pass over an edge from `onto`: if one goes and the other comes, the surface
// moves farthest there.
LocalChanges::Points LocalChanges::passedOver(const std::vector<VertexId>& rim, VertexId from, VertexId onto) const {
    Points points;
    for (const VertexId v : rim)
        for (const VertexId w : rim)
            if (v != w)
                points.push_back(
                    nearestOnSegment(m_.positions[from], m_.positions[v], m_.positions[onto], m_.positions[w]));
    return points;
}

double LocalChanges::distance(const Point& p, const Triangles& triangles) const {
    double best = std::numeric_limits<double>::infinity();
    for (const TriangleId t : triangles)
        if (alive_[t])
            best = std::min(
                best, (space::nearestOnTriangle(p, m_.corner(t, 0), m_.corner(t, 1), m_.corner(t, 2)) - p).norm());
    return best;
}

// `fresh` points lie near the triangles that are there now, points kept at the vertices near these or around their
// vertex. The farthest is raised to their distances.
bool LocalChanges::stayNear(const Points& fresh, const std::vector<VertexId>& vertices, const Triangles& now,
                            double& farthest) {
    for (const Point& p : fresh) {
        farthest = std::max(farthest, distance(p, now));
        if (farthest > rules_.tolerance) return false;
    }
    for (const VertexId v : vertices) {
        const auto known = points_.find(v);
        if (known == points_.end()) continue;
        Triangles near = at(v);
        near.insert(near.end(), now.begin(), now.end());
        for (const Point& p : known->second) {
            farthest = std::max(farthest, distance(p, near));
            if (farthest > rules_.tolerance) return false;
        }
    }
    return true;
}

// A bound of how far the triangle is from the given surface, as sharp as it must be to tell whether that is too far.
double LocalChanges::fromGiven(TriangleId t) {
    const auto under = tree_.nearest(mesh::centroid(m_, t), rules_.tolerance);
    if (!under) return unbounded;
    const mesh::Edges& edges = edges_.get([&] { return mesh::Edges(given_); });
    const auto height =
        measure::heightOver(given_, edges, {m_.corner(t, 0), m_.corner(t, 1), m_.corner(t, 2)}, under->triangle);
    if (height && height->most <= rules_.tolerance) return height->most;
    Mesh alone;
    alone.positions = {m_.corner(t, 0), m_.corner(t, 1), m_.corner(t, 2)};
    alone.triangles = {{0, 1, 2}};
    constexpr std::size_t patience = 64;
    mesh::SilentProgress silent;
    const auto measured =
        measure::deviationFrom({space::TriangleTree(alone), mesh::Edges(alone)}, {tree_, edges},
                               {.skip = {}, .enough = rules_.tolerance, .mostSplits = patience}, silent);
    return measured->max;
}

// Triangles that became others, no point of which is farther than `by` from those, lie near the given surface: as far
// as both together, or as is found by laying them onto it. The farthest is raised. To be asked last: it is kept.
bool LocalChanges::staysOver(const Triangles& were, const Triangles& are, double by, double& farthest) {
    double reach = 0;
    for (const TriangleId t : were)
        if (const auto known = reach_.find(t); known != reach_.end()) reach = std::max(reach, known->second);
    std::vector<double> reaches(are.size(), reach + by);
    for (std::size_t i = 0; i < are.size() && reach + by > rules_.tolerance; ++i) {
        reaches[i] = fromGiven(are[i]);
        if (reaches[i] > rules_.tolerance) return false;
    }
    for (std::size_t i = 0; i < are.size(); ++i) {
        reach_[are[i]] = reaches[i];
        farthest = std::max(farthest, reaches[i]);
    }
    return true;
}

// By angle: a triangle that was none has become a sliver, or thin, or one has become worse. Else: no fewer are slivers
// than before, with those that go.
bool LocalChanges::makesSlivers(const Triangles& triangles, const std::vector<mesh::Triangle>& before,
                                const Triangles& going) {
    if (!byAngle()) {
        std::size_t were = 0;
        std::size_t are = 0;
        for (const TriangleId t : going) were += isThin(t);
        for (const mesh::Triangle& t : before) were += width(t) < rules_.tolerance;
        for (const TriangleId t : triangles) are += isThin(t);
        return are >= were;
    }
    for (std::size_t i = 0; i < triangles.size(); ++i) {
        if (isThin(triangles[i]) && width(before[i]) >= rules_.tolerance) return true;
        const double now = measure::smallestAngleDeg(m_, triangles[i]);
        if (now >= rules_.angleDeg) continue;
        const mesh::Triangle after = std::exchange(m_.triangles[triangles[i]], before[i]);
        const double was = measure::smallestAngleDeg(m_, triangles[i]);
        m_.triangles[triangles[i]] = after;
        if (now < was) return true;
    }
    return false;
}

bool LocalChanges::swapLongest(TriangleId t) {
    const unsigned k = longestEdge(t).first;
    const VertexId a = m_.triangles[t][k];
    const VertexId c = m_.triangles[t][(k + 1) % 3];
    const VertexId b = m_.triangles[t][(k + 2) % 3];
    TriangleId other = t;
    int over = 0;
    for (const TriangleId o : at(a))
        if (o != t && mesh::hasCorner(m_.triangles[o], c)) {
            other = o;
            ++over;
        }
    if (over != 1 || isFixed(t) || isFixed(other)) return false;
    // A cap has next to no area: what comes is of the neighbour's region, whose border moves by the cap's height.
    const bool border = !m_.regions.empty() && m_.regions[t] != m_.regions[other];
    if (border && !isThin(t)) return false;
    const mesh::Triangle& quad = m_.triangles[other];
    unsigned j = 0;
    while (quad[j] == a || quad[j] == c) ++j;
    const VertexId d = quad[j];
    // The neighbour must run the other way along the edge, and b to d must not be an edge yet.
    if (quad[(j + 1) % 3] != c || d == b) return false;
    for (const TriangleId o : at(b))
        if (mesh::hasCorner(m_.triangles[o], d)) return false;
    // A needle's longest edge is no cap's: the corner must lie over the inside of the edge.
    const Point along = m_.positions[c] - m_.positions[a];
    const double share = along.dot(m_.positions[b] - m_.positions[a]) / along.squaredNorm();
    if (!(share > 0 && share < 1)) return false;
    const std::array<mesh::Triangle, 2> before{m_.triangles[t], m_.triangles[other]};
    const double angleBefore = std::min(measure::smallestAngleDeg(m_, t), measure::smallestAngleDeg(m_, other));
    const Point looks = facing(other);
    const Point& pa = m_.positions[a];
    const Point& pb = m_.positions[b];
    const Point& pc = m_.positions[c];
    const Point& pd = m_.positions[d];
    const Point passed = nearestOnSegment(pa, pc, pb, pd);
    double moved = distance(nearestOnSegment(pb, pd, pa, pc), {t, other});
    if (moved > rules_.tolerance) return false;
    const std::vector<Corners3> places = placesOf({t, other});
    // (a, c, b) and (d, c, a) become (a, d, b) and (d, c, b).
    m_.triangles[t] = {a, d, b};
    m_.triangles[other] = {d, c, b};
    const int were = (width(before[0]) < rules_.tolerance) + (width(before[1]) < rules_.tolerance);
    const int are = isThin(t) + isThin(other);
    bool better = false;
    if (byAngle()) {
        better = are <= were &&
                 std::min(measure::smallestAngleDeg(m_, t), measure::smallestAngleDeg(m_, other)) > angleBefore;
    } else {
        better = are < were || (are == were && std::min(width(m_.triangles[t]), width(m_.triangles[other])) >=
                                                   std::min(width(before[0]), width(before[1])));
    }
    if (!better || !stayNear({passed}, {a, b, c, d}, {t, other}, moved) || !isSound({t, other}, {looks, looks}) ||
        passesOver(places, {t, other}) || !staysOver({t, other}, {t, other}, unbounded, moved)) {
        m_.triangles[t] = before[0];
        m_.triangles[other] = before[1];
        return false;
    }
    if (border) m_.regions[t] = m_.regions[other];
    points_[b].push_back(passed);
    std::erase(at(c), t);
    std::erase(at(a), other);
    at(d).push_back(t);
    at(b).push_back(other);
    touch({t, other});
    shareBoxes({t, other});
    farthestMoved_ = std::max(farthestMoved_, moved);
    return true;
}

bool LocalChanges::moveTo(VertexId v, const Point& to) {
    const Triangles fan = at(v);
    const auto slack = slack_.find(v);
    const double slid = (to - m_.positions[v]).norm() + (slack == slack_.end() ? 0 : slack->second);
    if (slid > rules_.tolerance || !isClosedAround(v, fan)) return false;
    std::size_t were = 0;
    Points facings;
    for (const TriangleId t : fan) {
        if (isFixed(t)) return false;
        were += isSliver(t);
        facings.push_back(facing(t));
    }
    const std::vector<Corners3> places = placesOf(fan);
    const Point from = std::exchange(m_.positions[v], to);
    std::size_t are = 0;
    for (const TriangleId t : fan) are += isSliver(t);
    std::vector<VertexId> keepers = neighbours(v);
    keepers.push_back(v);
    double moved = 0;
    if (are >= were || !stayNear({from}, keepers, fan, moved) || !isSound(fan, facings) || passesOver(places, fan) ||
        !staysOver(fan, fan, (to - from).norm(), moved)) {
        m_.positions[v] = from;
        return false;
    }
    points_[v].push_back(from);
    slack_[v] = slid;
    touch(fan);
    farthestMoved_ = std::max(farthestMoved_, moved);
    return true;
}

// The changed triangles are not degenerate, face as before and meet nothing.
bool LocalChanges::isSound(const Triangles& triangles, const Points& facing) {
    for (std::size_t i = 0; i < triangles.size(); ++i) {
        const TriangleId t = triangles[i];
        if (check::isDegenerate(m_, t)) return false;
        const Point now = mesh::areaVector(m_, t);
        if (facing[i] != Point::Zero() && now.dot(facing[i]) < 0.5 * now.norm() * facing[i].norm()) return false;
    }
    for (const TriangleId t : triangles) {
        bool meets = false;
        const auto test = [&](TriangleId o) {
            meets =
                meets || (o != t && alive_[o] && !(isBroken(t) && isBroken(o)) &&
                          (mesh::sameCorners(m_.triangles[t], m_.triangles[o]) || check::trianglesIntersect(m_, t, o)));
        };
        // What slid left its box in the tree by the tolerance at most; what changed more may lie in others'.
        tree_.overlapping(mesh::boxOf(m_, t).widened(rules_.tolerance), [&](TriangleId o) {
            test(o);
            if (!shares_[o]) return;
            for (const TriangleId also : alsoIn_.find(o)->second) test(also);
        });
        for (const TriangleId o : triangles) test(o);
        if (meets) return false;
    }
    return true;
}

std::vector<Corners3> LocalChanges::placesOf(const Triangles& triangles) const {
    std::vector<Corners3> places;
    for (const TriangleId t : triangles)
        if (alive_[t]) places.push_back({m_.corner(t, 0), m_.corner(t, 1), m_.corner(t, 2)});
    return places;
}

// Where the triangles were before and what they are now have something between them that neither meets: a speck.
bool LocalChanges::passesOver(const std::vector<Corners3>& before, const Triangles& triangles) const {
    return fit::passesOver(before, placesOf(triangles), [&](const mesh::Box& box, const auto& visit) {
        const auto look = [&](TriangleId o) {
            if (!alive_[o]) return;
            for (const VertexId v : m_.triangles[o]) {
                const auto isCorner = [&](TriangleId t) { return mesh::hasCorner(m_.triangles[t], v); };
                if (std::none_of(triangles.begin(), triangles.end(), isCorner)) visit(m_.positions[v]);
            }
        };
        tree_.overlapping(box.widened(rules_.tolerance), [&](TriangleId o) {
            look(o);
            if (shares_[o])
                for (const TriangleId also : alsoIn_.find(o)->second) look(also);
        });
    });
}

bool LocalChanges::isAtAny(TriangleId t, const std::vector<std::uint8_t>& vertices) const {
    const mesh::Triangle& v = m_.triangles[t];
    return vertices[v[0]] || vertices[v[1]] || vertices[v[2]];
}

void LocalChanges::touch(const Triangles& triangles) {
    for (const TriangleId t : triangles)
        for (const VertexId v : m_.triangles[t]) touchedNow_[v] = touched_[v] = 1;
}

void LocalChanges::nextRound() {
    touched_ = std::exchange(touchedNow_, std::vector<std::uint8_t>(m_.positions.size(), 0));
}

// After a change any of the triangles may lie in the boxes that all of them had.
void LocalChanges::shareBoxes(const Triangles& triangles) {
    Triangles boxes;
    for (const TriangleId t : triangles) {
        const Triangles own = boxesOf(t);
        boxes.insert(boxes.end(), own.begin(), own.end());
    }
    std::sort(boxes.begin(), boxes.end());
    boxes.erase(std::unique(boxes.begin(), boxes.end()), boxes.end());
    for (const TriangleId box : boxes)
        for (const TriangleId t : triangles) {
            if (t == box) continue;
            Triangles& list = alsoIn_[box];
            shares_[box] = 1;
            if (std::find(list.begin(), list.end(), t) == list.end()) list.push_back(t);
        }
    for (const TriangleId t : triangles) boxes_[t] = boxes;
}

LocalChanges::Triangles LocalChanges::boxesOf(TriangleId t) const {
    const auto found = boxes_.find(t);
    return found == boxes_.end() ? Triangles{t} : found->second;
}

}  // namespace zither::fit
