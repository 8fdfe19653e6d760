// Sequential changes, parallel moves: the result does not depend on the number of threads.
#include "shape/even_triangles.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "mesh/parallel.h"
#include "shape/edge_swaps.h"
#include "shape/longest_first.h"
#include "shape/shape_tolerances.h"
#include "space/nearby.h"

namespace zither::shape {

using mesh::noEdge;
using mesh::previousInTriangle;

namespace {

// Of the target: longer edges are split, shorter ones collapsed, so that neither undoes the other.
constexpr double tooLong = 4.0 / 3;
constexpr double tooShort = 4.0 / 5;
// Cosine between a triangle before and after: below it has turned.
constexpr double upright = 0.2;
// Cosine between a surface and where a vertex is put back on it: below it is another side of a thin wall.
constexpr double sameSide = 0.2;
// Of the limit: what is looked at is nearer, for the sake of what lies between.
constexpr double room = 0.8;

}  // namespace

EvenTriangles::EvenTriangles(const EvenInput& input, LinkedSurface surface)
    : in_(input),
      s_(std::move(surface)),
      place_(input.lines.places),
      length_(input.lengths),
      on_(input.mesh.positions.size(), 0),
      normals_(input.mesh.triangles.size()) {
    for (TriangleId t = 0; t < normals_.size(); ++t) {
        normals_[t] = mesh::areaVector(in_.mesh, t).normalized();
        for (unsigned k = 0; k < 3; ++k) {
            on_[in_.mesh.triangles[t][k]] = t;
            const auto h = static_cast<HalfEdge>(3 * t + k);
            if (const mesh::EdgeId e = in_.edges.edgeOf(h); e != noEdge) s_.setLine(h, in_.lines.lineOf[e]);
        }
    }
}

bool EvenTriangles::run(mesh::Progress& progress) {
    constexpr int rounds = 6;
    constexpr int polishing = 4;
    for (int i = 0; i < rounds; ++i) {
        splitLong();
        collapseShort();
        flipForValence();
        relax(Relax::Freely);
        if (!progress.report(static_cast<double>(i + 1) / (rounds + polishing))) return false;
    }
    for (int i = 0; i < polishing; ++i) {
        flipForAngles();
        relax(Relax::WhereAnglesGrow);
        if (!progress.report(static_cast<double>(rounds + i + 1) / (rounds + polishing))) return false;
    }
    constexpr int most = 12;
    for (int i = 0; i < most && mendAngles(); ++i)
        if (!progress.report(1)) return false;
    return true;
}

// ---- places

double EvenTriangles::alongOf(VertexId v, LineId line) const {
    if (place_[v].line == line) return place_[v].along;
    const Line& l = in_.lines.lines[line];
    return v == l.first() ? 0 : l.length();
}

EvenTriangles::Foot EvenTriangles::footOnLine(LineId line, double along) const {
    const Line& l = in_.lines.lines[line];
    const std::size_t edge = l.edgeAt(along);
    const VertexId a = l.vertices()[edge];
    const VertexId b = l.vertices()[edge + 1];
    const double way = l.along(edge + 1) - l.along(edge);
    const double share = way > 0 ? std::clamp((along - l.along(edge)) / way, 0.0, 1.0) : 0;
    return {l.at(along), on_[a], (1 - share) * in_.lengths[a] + share * in_.lengths[b], along};
}

double EvenTriangles::lengthOn(TriangleId t, const Point& p) const {
    const Point n = mesh::areaVector(in_.mesh, t);
    const double whole = n.squaredNorm();
    const Triangle& c = in_.mesh.triangles[t];
    if (!(whole > 0)) return in_.lengths[c[0]];
    double length = 0;
    double sum = 0;
    for (unsigned k = 0; k < 3; ++k) {
        const Point& a = in_.mesh.positions[c[(k + 1) % 3]];
        const Point& b = in_.mesh.positions[c[(k + 2) % 3]];
        const double share = std::max(0.0, n.dot((a - p).cross(b - p)) / whole);
        length += share * in_.lengths[c[k]];
        sum += share;
    }
    return sum > 0 ? length / sum : in_.lengths[c[0]];
}

std::optional<EvenTriangles::Foot> EvenTriangles::footOf(const Point& p, const Point& normal, TriangleId hint,
                                                         double within) const {
    space::Nearest best = space::nearestFrom(in_.mesh, in_.edges, p, hint);
    if (!(best.distanceSquared <= within * within)) {
        const auto nearest = in_.tree.nearest(p, within);
        if (!nearest) return std::nullopt;
        best = *nearest;
    }
    if (!(normals_[best.triangle].dot(normal) > sameSide)) {
        best.distanceSquared = std::numeric_limits<double>::infinity();
        in_.tree.overlapping(mesh::Box{p, p}.widened(within), [&](TriangleId t) {
            if (!(normals_[t].dot(normal) > sameSide)) return;
            const Point q =
                space::nearestOnTriangle(p, in_.mesh.corner(t, 0), in_.mesh.corner(t, 1), in_.mesh.corner(t, 2));
            const double squared = (q - p).squaredNorm();
            if (squared < best.distanceSquared) best = {t, q, squared};
        });
        if (!(best.distanceSquared <= within * within)) return std::nullopt;
    }
    return Foot{best.point, best.triangle, lengthOn(best.triangle, best.point)};
}

Point EvenTriangles::normalAt(VertexId v) const {
    Point sum = Point::Zero();
    s_.forEachOut(v, [&](HalfEdge h) { sum += s_.areaVector(h / 3); });
    return sum.normalized();
}

bool EvenTriangles::isNear(const Point& p, VertexId beside) const {
    if (!std::isfinite(in_.limit)) return true;
    // Mostly one beside that which the vertex lies on is near enough.
    const double reach = room * in_.limit;
    const double enough = reach * reach;
    return space::nearestFrom(in_.mesh, in_.edges, p, on_[beside], enough).distanceSquared <= enough ||
           in_.tree.reaches(p, reach);
}

bool EvenTriangles::isNear(TriangleId t) const {
    if (!std::isfinite(in_.limit)) return true;
    const Triangle& c = s_.triangle(t);
    if (!isNear((s_.at(c[0]) + s_.at(c[1]) + s_.at(c[2])) / 3, c[0])) return false;
    // Where the mesh does not turn, that is all there is to see.
    constexpr double flat = 0.985;
    const Point& n = normals_[on_[c[0]]];
    if (n.dot(normals_[on_[c[1]]]) > flat && n.dot(normals_[on_[c[2]]]) > flat) return true;
    for (unsigned k = 0; k < 3; ++k)
        if (!isNear(0.5 * (s_.at(c[k]) + s_.at(c[(k + 1) % 3])), c[k])) return false;
    return true;
}

// A point of the mesh that the vertex lay on is near the triangles around it.
bool EvenTriangles::isCovered(const Point& p, VertexId v) const {
    if (!std::isfinite(in_.limit)) return true;
    double least = (p - s_.at(v)).norm();
    s_.forEachOut(v, [&](HalfEdge h) {
        if (least <= room * in_.limit) return;
        least =
            std::min(least, (space::nearestOnTriangle(p, s_.at(v), s_.at(s_.to(h)), s_.at(s_.opposite(h))) - p).norm());
    });
    return least <= room * in_.limit;
}

// ---- splits

void EvenTriangles::splitLong() {
    splitLongestFirst(
        s_, [&](HalfEdge h) { return lengthOf(h) / (tooLong * targetOf(h)); }, [&](HalfEdge h) { split(h); });
}

void EvenTriangles::split(HalfEdge h) {
    const VertexId a = s_.from(h);
    const VertexId b = s_.to(h);
    const LineId line = s_.line(h);
    VertexPlace place;
    Foot foot{0.5 * (s_.at(a) + s_.at(b)), s_.source(h / 3), 0.5 * (length_[a] + length_[b])};
    if (line != noLine) {
        place = {line, 0.5 * (alongOf(a, line) + alongOf(b, line))};
        foot = footOnLine(line, place.along);
    }
    s_.split(h, foot.at);
    place_.push_back(place);
    length_.push_back(foot.length);
    on_.push_back(foot.on);
}

// ---- collapses

void EvenTriangles::collapseShort() {
    for (HalfEdge h = 0; h < 3 * s_.triangleSlots(); ++h) {
        if (!s_.isAlive(h / 3) || s_.line(h) == lockedLine) continue;
        if (!(lengthOf(h) < tooShort * targetOf(h))) continue;
        for (const HalfEdge way : {h, s_.twin(h)}) {
            const auto merged = way == noEdge ? std::nullopt : merge(way);
            if (merged && collapse(way, *merged, tooLong)) break;
        }
    }
}

std::optional<EvenTriangles::Merged> EvenTriangles::merge(HalfEdge h) const {
    const VertexId a = s_.from(h);
    const VertexId b = s_.to(h);
    const VertexPlace& from = place_[a];
    const VertexPlace& into = place_[b];
    if (from.isFixed() || s_.isTied(a) || s_.isTied(b)) return std::nullopt;
    if (!from.isFree()) {
        // Along its own line only.
        if (s_.line(h) != from.line) return std::nullopt;
        if (into.isFixed()) return Merged{s_.at(b), into, on_[b], length_[b]};
        const double along = 0.5 * (from.along + into.along);
        const Foot foot = footOnLine(from.line, along);
        return Merged{foot.at, {from.line, along}, foot.on, foot.length};
    }
    if (!into.isFree()) return Merged{s_.at(b), into, on_[b], length_[b]};
    return Merged{0.5 * (s_.at(a) + s_.at(b)), into, on_[b], 0.5 * (length_[a] + length_[b])};
}

bool EvenTriangles::staysNear(HalfEdge h, const Point& to) const {
    if (!std::isfinite(in_.limit)) return true;
    const VertexId a = s_.from(h);
    const VertexId b = s_.to(h);
    bool near = true;
    double fromA = std::numeric_limits<double>::infinity();
    double fromB = fromA;
    for (const auto& [moved, other] : {std::pair(a, b), std::pair(b, a)})
        s_.forEachOut(moved, [&, other = other](HalfEdge o) {
            const VertexId c = s_.to(o);
            const VertexId d = s_.opposite(o);
            if (!near || c == other || d == other) return;
            near = isNear(0.5 * (to + s_.at(c)), c) && isNear((to + s_.at(c) + s_.at(d)) / 3, c);
            for (const auto& [gone, distance] : {std::pair(a, &fromA), std::pair(b, &fromB)})
                *distance = std::min(
                    *distance, (space::nearestOnTriangle(s_.at(gone), to, s_.at(c), s_.at(d)) - s_.at(gone)).norm());
        });
    return near && std::max(fromA, fromB) <= room * in_.limit;
}

bool EvenTriangles::staysUpright(VertexId moved, VertexId other, const Point& to) const {
    bool good = true;
    s_.forEachOut(moved, [&](HalfEdge h) {
        const VertexId b = s_.to(h);
        const VertexId c = s_.opposite(h);
        if (!good || b == other || c == other) return;
        const Point before = s_.areaVector(h / 3);
        const Point after = (s_.at(b) - to).cross(s_.at(c) - to);
        good = after.dot(before) > upright * after.norm() * before.norm();
    });
    return good;
}

bool EvenTriangles::collapse(HalfEdge h, const Merged& merged, double longest) {
    const VertexId a = s_.from(h);
    const VertexId b = s_.to(h);
    // Nothing becomes so long that it would be split again.
    bool good = true;
    const auto look = [&](VertexId w) {
        if (w == a || w == b) return;
        good &= (s_.at(w) - merged.at).norm() <= longest * 0.5 * (length_[w] + merged.length);
    };
    s_.forEachNeighbour(a, look);
    s_.forEachNeighbour(b, look);
    if (!good || !staysUpright(a, b, merged.at) || !staysUpright(b, a, merged.at) || !s_.mayCollapse(h) ||
        !staysNear(h, merged.at))
        return false;
    s_.collapse(h);
    s_.moveTo(b, merged.at);
    place_[b] = merged.place;
    on_[b] = merged.on;
    length_[b] = merged.length;
    return true;
}

// ---- flips

bool EvenTriangles::flipTurnsNothing(HalfEdge h) const {
    const HalfEdge g = s_.twin(h);
    const Point& a = s_.at(s_.from(h));
    const Point& b = s_.at(s_.to(h));
    const Point& c = s_.at(s_.opposite(h));
    const Point& d = s_.at(s_.opposite(g));
    const Point before = s_.areaVector(h / 3).normalized() + s_.areaVector(g / 3).normalized();
    const Point one = (d - a).cross(c - a);
    const Point two = (c - b).cross(d - b);
    constexpr double flat = 0.5;
    const double size = before.norm();
    return one.dot(before) > flat * size * one.norm() && two.dot(before) > flat * size * two.norm();
}

double EvenTriangles::angleBeforeFlip(HalfEdge h) const {
    return std::min(smallestSine(s_.triangle(h / 3)), smallestSine(s_.triangle(s_.twin(h) / 3)));
}

double EvenTriangles::angleAfterFlip(HalfEdge h) const {
    const VertexId a = s_.from(h);
    const VertexId b = s_.to(h);
    const VertexId c = s_.opposite(h);
    const VertexId d = s_.opposite(s_.twin(h));
    return std::min(smallestSine({a, d, c}), smallestSine({b, c, d}));
}

void EvenTriangles::flipForValence() {
    std::vector<std::int16_t> excess(s_.vertexSlots(), 0);
    mesh::parallelFor(excess.size(), mesh::blockSize, [&](std::size_t i) {
        const auto v = static_cast<VertexId>(i);
        if (!s_.isUsed(v) || s_.isTied(v)) return;
        const int ideal = s_.isOnBorder(v) ? 4 : 6;
        excess[i] = static_cast<std::int16_t>(static_cast<int>(s_.valence(v)) - ideal);
    });
    const auto cost = [](int a, int b, int c, int d) { return a * a + b * b + c * c + d * d; };
    constexpr double least = 0.17;  // sine of 10 degrees
    for (HalfEdge h = 0; h < 3 * s_.triangleSlots(); ++h) {
        if (!s_.isAlive(h / 3) || s_.twin(h) == noEdge || s_.twin(h) < h || s_.line(h) != noLine) continue;
        const VertexId a = s_.from(h);
        const VertexId b = s_.to(h);
        const VertexId c = s_.opposite(h);
        const VertexId d = s_.opposite(s_.twin(h));
        const int before = cost(excess[a], excess[b], excess[c], excess[d]);
        const int after = cost(excess[a] - 1, excess[b] - 1, excess[c] + 1, excess[d] + 1);
        if (after >= before || !flipTurnsNothing(h) || !s_.mayFlip(h)) continue;
        const double sine = angleAfterFlip(h);
        if (sine < least * least && sine < angleBeforeFlip(h)) continue;
        if (!isNear(0.5 * (s_.at(c) + s_.at(d)), c)) continue;
        s_.flip(h);
        --excess[a];
        --excess[b];
        ++excess[c];
        ++excess[d];
    }
}

bool EvenTriangles::flipForAngles() {
    bool any = false;
    for (HalfEdge h = 0; h < 3 * s_.triangleSlots(); ++h) {
        if (!s_.isAlive(h / 3) || s_.twin(h) == noEdge || s_.twin(h) < h || s_.line(h) != noLine) continue;
        if (!(angleAfterFlip(h) > angleBeforeFlip(h) + tolerance::shapeGain)) continue;
        if (!flipTurnsNothing(h) || !s_.mayFlip(h)) continue;
        const VertexId c = s_.opposite(h);
        if (!isNear(0.5 * (s_.at(c) + s_.at(s_.opposite(s_.twin(h)))), c)) continue;
        s_.flip(h);
        any = true;
    }
    return any;
}

// ---- moves

double EvenTriangles::smallestSine(const Triangle& t) const {
    return smallestSineSquared(s_.at(t[0]), s_.at(t[1]), s_.at(t[2]));
}

double EvenTriangles::smallestSineAround(VertexId v) const {
    double least = 1;
    s_.forEachOut(v, [&](HalfEdge h) { least = std::min(least, smallestSine(s_.triangle(h / 3))); });
    return least;
}

std::optional<EvenTriangles::Foot> EvenTriangles::relaxed(VertexId v) const {
    const VertexPlace& place = place_[v];
    if (place.isFixed() || !s_.isUsed(v)) return std::nullopt;
    if (!place.isFree()) {
        double sum = 0;
        int count = 0;
        s_.forEachOut(v, [&](HalfEdge h) {
            for (const HalfEdge e : {h, previousInTriangle(h)}) {
                // Each edge once: those that end here only where the surface ends.
                if (s_.line(e) != place.line || (e != h && s_.twin(e) != noEdge)) continue;
                sum += alongOf(e == h ? s_.to(e) : s_.from(e), place.line);
                ++count;
            }
        });
        if (count != 2) return std::nullopt;
        return footOnLine(place.line, 0.5 * sum);
    }
    Point sum = Point::Zero();
    double weight = 0;
    s_.forEachOut(v, [&](HalfEdge h) {
        const Triangle& t = s_.triangle(h / 3);
        const double area = s_.areaVector(h / 3).norm();
        const double own = (length_[t[0]] + length_[t[1]] + length_[t[2]]) / 3;
        // Triangles of the size that they should have pull alike.
        const double pull = area / (own * own);
        sum += pull * (s_.at(t[0]) + s_.at(t[1]) + s_.at(t[2])) / 3;
        weight += pull;
    });
    if (!(weight > 0)) return std::nullopt;
    const Point normal = normalAt(v);
    const Point way = sum / weight - s_.at(v);
    const Point to = s_.at(v) + way - normal.dot(way) * normal;
    return footOf(to, normal, on_[v], 0.5 * length_[v]);
}

void EvenTriangles::relax(Relax how) {
    const std::size_t count = s_.vertexSlots();
    std::vector<std::optional<Foot>> feet(count);
    mesh::parallelFor(count, 512, [&](std::size_t i) { feet[i] = relaxed(static_cast<VertexId>(i)); });
    if (how == Relax::WhereAnglesGrow) {
        for (VertexId v = 0; v < count; ++v)
            if (feet[v]) static_cast<void>(moveIfBetter(v, *feet[v]));
        return;
    }
    // All at once; what a triangle cannot bear goes back.
    std::vector<Point> before(count);
    for (VertexId v = 0; v < count; ++v) {
        before[v] = s_.at(v);
        if (feet[v]) s_.moveTo(v, feet[v]->at);
    }
    std::vector<std::uint8_t> back(count, 0);
    std::vector<std::uint8_t> bad(s_.triangleSlots());
    // What moved in this round: at first all that can, then what went back.
    std::vector<std::uint8_t> moved(count);
    for (VertexId v = 0; v < count; ++v) moved[v] = feet[v].has_value();
    constexpr int most = 6;
    bool any = true;
    for (int round = 0; round < most && any; ++round) {
        any = false;
        mesh::parallelFor(bad.size(), 512, [&](std::size_t i) {
            const auto t = static_cast<TriangleId>(i);
            const Triangle& c = s_.triangle(t);
            bad[t] = 0;
            if (!s_.isAlive(t) || !(moved[c[0]] || moved[c[1]] || moved[c[2]])) return;
            const Point was = (before[c[1]] - before[c[0]]).cross(before[c[2]] - before[c[0]]);
            const Point is = s_.areaVector(t);
            bad[t] = !(is.dot(was) > upright * is.norm() * was.norm()) || !isNear(t);
        });
        std::vector<std::uint8_t> uncovered(count, 0);
        mesh::parallelFor(count, 512, [&](std::size_t v) {
            uncovered[v] = feet[v] && !back[v] && !isCovered(before[v], static_cast<VertexId>(v));
        });
        std::fill(moved.begin(), moved.end(), 0);
        const auto goBack = [&](VertexId v) {
            if (!feet[v] || back[v]) return;
            back[v] = moved[v] = 1;
            s_.moveTo(v, before[v]);
            any = true;
        };
        for (VertexId v = 0; v < count; ++v)
            if (uncovered[v]) goBack(v);
        for (TriangleId t = 0; t < s_.triangleSlots(); ++t) {
            if (!bad[t]) continue;
            for (const VertexId v : s_.triangle(t)) goBack(v);
        }
    }
    for (VertexId v = 0; v < count; ++v) {
        if (!feet[v] || back[v]) continue;
        on_[v] = feet[v]->on;
        length_[v] = feet[v]->length;
        if (!place_[v].isFree()) place_[v].along = feet[v]->along;
    }
}

bool EvenTriangles::moveIfBetter(VertexId v, const Foot& foot) {
    const double before = smallestSineAround(v);
    if (!staysUpright(v, mesh::noIndex, foot.at)) return false;
    const Point was = s_.at(v);
    s_.moveTo(v, foot.at);
    bool good = smallestSineAround(v) > before && isCovered(was, v);
    s_.forEachOut(v, [&](HalfEdge h) { good = good && isNear(h / 3); });
    if (!good) {
        s_.moveTo(v, was);
        return false;
    }
    on_[v] = foot.on;
    length_[v] = foot.length;
    if (!place_[v].isFree()) place_[v].along = foot.along;
    return true;
}

// ---- small angles that are left

bool EvenTriangles::collapseIfBetter(HalfEdge h, double longest) {
    for (const HalfEdge way : {h, s_.twin(h)}) {
        if (way == noEdge) continue;
        const VertexId a = s_.from(way);
        const VertexId b = s_.to(way);
        if (!merge(way)) continue;
        // Onto the other end, which stays where it is: nothing else around it changes.
        double after = 1;
        s_.forEachOut(a, [&](HalfEdge o) {
            const VertexId c = s_.to(o);
            const VertexId d = s_.opposite(o);
            if (c != b && d != b) after = std::min(after, smallestSineSquared(s_.at(b), s_.at(c), s_.at(d)));
        });
        if (!(after > smallestSineAround(a))) continue;
        if (collapse(way, {s_.at(b), place_[b], on_[b], length_[b]}, longest)) return true;
    }
    return false;
}

bool EvenTriangles::mendAngles() {
    constexpr double good = 0.25;  // squared sine of 30 degrees
    constexpr double longest = 2;  // of the target: an edge may become where a small angle goes for it
    bool any = flipForAngles();
    for (TriangleId t = 0; t < s_.triangleSlots(); ++t) {
        if (!s_.isAlive(t) || smallestSine(s_.triangle(t)) >= good) continue;
        // Its shortest edge, if the angles around are better then.
        HalfEdge shortest = 3 * t;
        for (unsigned k = 1; k < 3; ++k)
            if (lengthOf(3 * t + k) < lengthOf(shortest)) shortest = 3 * t + k;
        if (s_.line(shortest) != lockedLine && collapseIfBetter(shortest, longest)) {
            any = true;
            continue;
        }
        for (const VertexId v : s_.triangle(t))
            if (const auto foot = relaxed(v)) any |= moveIfBetter(v, *foot);
    }
    return any;
}

}  // namespace zither::shape
