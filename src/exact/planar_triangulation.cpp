// Incremental constrained Delaunay triangulation over exact predicates.
#include "exact/planar_triangulation.h"

#include <algorithm>
#include <cmath>
#include <deque>

namespace zither::exact {
namespace {

constexpr std::size_t fewFaces = 100;
// Relative to the sum of the determinant's terms: nearly on the circle either diagonal will do, and the margin keeps
// flips from going in circles.
constexpr double nearlyOnCircle = 1e-9;

}  // namespace

void PlanarTriangulation::start(PlanarSource& source, int axis, int turn, double error) {
    source_ = &source;
    axis_ = axis;
    turn_ = turn;
    axisX_ = turn > 0 ? (axis + 1) % 3 : (axis + 2) % 3;
    axisY_ = turn > 0 ? (axis + 2) % 3 : (axis + 1) % 3;
    error_ = error;
}

void PlanarTriangulation::startWith(const std::array<Vertex, 3>& corners) {
    vertices_.clear();
    faces_.clear();
    lists_.clear();
    exact_.clear();
    suspects_.clear();
    last_ = 0;
    random_ = 1;
    for (const Vertex& corner : corners) newVertex(corner);
    faces_.push_back({{0, 1, 2}});
    for (Vertex& v : vertices_) v.triangle = 0;
}

void PlanarTriangulation::constrainStartingEdge(unsigned i, std::uint32_t constraint) {
    mark(0, i, constraint);
}

std::uint32_t PlanarTriangulation::newVertex(const Vertex& vertex) {
    vertices_.push_back(vertex);
    return static_cast<std::uint32_t>(vertices_.size() - 1);
}

const Homogeneous& PlanarTriangulation::exactPoint(std::uint32_t v) const {
    if (exact_.size() < vertices_.size()) exact_.resize(vertices_.size());
    if (!exact_[v]) exact_[v] = std::make_unique<Homogeneous>(source_->exactPoint(vertices_[v].name));
    return *exact_[v];
}

int PlanarTriangulation::orient(std::uint32_t a, std::uint32_t b, std::uint32_t c) const {
    const Vertex& va = vertices_[a];
    const Vertex& vb = vertices_[b];
    const Vertex& vc = vertices_[c];
    if (LineSet::haveCommon(va.lines, vb.lines, vc.lines)) return 0;
    if (const int sign = filteredOrient2d(va.x, va.y, vb.x, vb.y, vc.x, vc.y, error_); sign != 0) return sign;
    return orientExactly(a, b, c);
}

int PlanarTriangulation::orientExactly(std::uint32_t a, std::uint32_t b, std::uint32_t c) const {
    const Vertex& va = vertices_[a];
    const Vertex& vb = vertices_[b];
    const Vertex& vc = vertices_[c];
    if (va.given && vb.given && vc.given) return orient2d(Point2(va.x, va.y), Point2(vb.x, vb.y), Point2(vc.x, vc.y));
    return turn_ * orient2dDropping(axis_, exactPoint(a), exactPoint(b), exactPoint(c));
}

int PlanarTriangulation::compare(bool alongX, std::uint32_t a, std::uint32_t b) const {
    const Vertex& va = vertices_[a];
    const Vertex& vb = vertices_[b];
    const double p = alongX ? va.x : va.y;
    const double q = alongX ? vb.x : vb.y;
    if (va.given && vb.given) return (p > q) - (p < q);
    if (p - q > 4 * error_) return 1;
    if (q - p > 4 * error_) return -1;
    return exact::compare(alongX ? axisX_ : axisY_, exactPoint(a), exactPoint(b));
}

bool PlanarTriangulation::sameDirection(std::uint32_t a, std::uint32_t b, std::uint32_t p, std::uint32_t q) const {
    // The coordinate in which p and q are farther apart tells with the fewest doubts.
    bool alongX = std::abs(vertices_[q].x - vertices_[p].x) >= std::abs(vertices_[q].y - vertices_[p].y);
    int direction = compare(alongX, q, p);
    if (direction == 0) {
        alongX = !alongX;
        direction = compare(alongX, q, p);
    }
    return compare(alongX, b, a) == direction;
}

PlanarTriangulation::Place PlanarTriangulation::locate(std::uint32_t v) {
    std::uint32_t f = last_;
    for (;;) {
        // A fixed order of the edges could walk in circles where the triangulation is not Delaunay.
        random_ = random_ * 1664525U + 1013904223U;
        const unsigned first = (random_ >> 24) % 3;
        unsigned zeros = 0;
        unsigned zeroAt[3] = {};
        bool moved = false;
        for (unsigned n = 0; n < 3; ++n) {
            const unsigned i = (first + n) % 3;
            const int side = orient(faces_[f].v[next(i)], faces_[f].v[previous(i)], v);
            if (side < 0) {
                f = faces_[f].neighbour[i];
                moved = true;
                break;
            }
            if (side == 0) zeroAt[zeros++] = i;
        }
        if (moved) continue;
        if (zeros == 0) return {f, 0, Place::Inside};
        if (zeros == 1) return {f, zeroAt[0], Place::OnEdge};
        return {f, 3 - zeroAt[0] - zeroAt[1], Place::AtVertex};
    }
}

std::uint32_t PlanarTriangulation::insert(const Vertex& vertex) {
    const std::uint32_t v = newVertex(vertex);
    const Place place = locate(v);
    if (place.kind == Place::AtVertex) {
        const std::uint32_t there = faces_[place.face].v[place.corner];
        vertices_[there].lines.add(vertex.lines);
        vertices_.pop_back();
        if (exact_.size() > vertices_.size()) exact_.resize(vertices_.size());
        return there;
    }
    if (place.kind == Place::Inside)
        splitFace(place.face, v);
    else
        splitEdge(place.face, place.corner, v);
    // Few points are as well flipped all at once, by improve(); among many, long thin faces would slow down the search.
    if (faces_.size() > fewFaces)
        legalise();
    else
        suspects_.clear();
    last_ = vertices_[v].triangle;
    return v;
}

void PlanarTriangulation::relink(std::uint32_t neighbour, std::uint32_t from, std::uint32_t to) {
    if (neighbour == none) return;
    for (std::uint32_t& n : faces_[neighbour].neighbour)
        if (n == from) {
            n = to;
            return;
        }
}

unsigned PlanarTriangulation::backIndex(std::uint32_t f, unsigned i) const {
    const Face& other = faces_[faces_[f].neighbour[i]];
    return other.neighbour[0] == f && other.v[1] == faces_[f].v[previous(i)]   ? 0
           : other.neighbour[1] == f && other.v[2] == faces_[f].v[previous(i)] ? 1
                                                                               : 2;
}

void PlanarTriangulation::splitFace(std::uint32_t f, std::uint32_t v) {
    const Face old = faces_[f];
    const auto g = static_cast<std::uint32_t>(faces_.size());
    const std::uint32_t h = g + 1;
    // f keeps the edge opposite corner 0; g and h get those opposite corners 1 and 2.
    faces_[f] = {{v, old.v[1], old.v[2]}, {old.neighbour[0], g, h}, {old.constraints[0], none, none}};
    faces_.push_back({{old.v[0], v, old.v[2]}, {f, old.neighbour[1], h}, {none, old.constraints[1], none}});
    faces_.push_back({{old.v[0], old.v[1], v}, {f, g, old.neighbour[2]}, {none, none, old.constraints[2]}});
    relink(old.neighbour[1], f, g);
    relink(old.neighbour[2], f, h);
    vertices_[v].triangle = f;
    vertices_[old.v[0]].triangle = g;
    vertices_[old.v[1]].triangle = f;
    vertices_[old.v[2]].triangle = f;
    suspects_.insert(suspects_.end(), {{f, 0U}, {g, 1U}, {h, 2U}});
}

void PlanarTriangulation::splitEdge(std::uint32_t f, unsigned i, std::uint32_t v) {
    const Face old = faces_[f];
    const std::uint32_t a = old.v[i];
    const std::uint32_t b = old.v[next(i)];
    const std::uint32_t c = old.v[previous(i)];
    const std::uint32_t list = old.constraints[i];
    constraintsOf(list, [&](std::uint32_t constraint) { vertices_[v].lines.add(constraint); });
    const std::uint32_t across = old.neighbour[i];
    const unsigned j = across == none ? 0 : backIndex(f, i);
    const auto g = static_cast<std::uint32_t>(faces_.size());
    // f becomes (a, b, v), g (a, v, c).
    faces_[f] = {{a, b, v}, {none, g, old.neighbour[previous(i)]}, {list, none, old.constraints[previous(i)]}};
    faces_.push_back({{a, v, c}, {none, old.neighbour[next(i)], f}, {list, old.constraints[next(i)], none}});
    relink(old.neighbour[next(i)], f, g);
    vertices_[v].triangle = f;
    vertices_[a].triangle = f;
    vertices_[b].triangle = f;
    vertices_[c].triangle = g;
    suspects_.insert(suspects_.end(), {{f, 2U}, {g, 1U}});
    if (across == none) return;
    const Face other = faces_[across];
    const std::uint32_t d = other.v[j];
    // The far face is (d, c, b): it becomes (d, v, b) beside f, and (d, c, v) beside g.
    const auto h = static_cast<std::uint32_t>(faces_.size());
    faces_[across] = {{d, v, b}, {f, other.neighbour[next(j)], h}, {list, other.constraints[next(j)], none}};
    faces_.push_back(
        {{d, c, v}, {g, across, other.neighbour[previous(j)]}, {list, none, other.constraints[previous(j)]}});
    relink(other.neighbour[previous(j)], across, h);
    faces_[f].neighbour[0] = across;
    faces_[g].neighbour[0] = h;
    vertices_[d].triangle = across;
    vertices_[c].triangle = g;
    suspects_.insert(suspects_.end(), {{across, 1U}, {h, 2U}});
}

bool PlanarTriangulation::canFlip(std::uint32_t f, unsigned i) const {
    const std::uint32_t across = faces_[f].neighbour[i];
    if (across == none || faces_[f].constraints[i] != none) return false;
    const std::uint32_t a = faces_[f].v[i];
    const std::uint32_t d = faces_[across].v[backIndex(f, i)];
    return orient(a, faces_[f].v[next(i)], d) > 0 && orient(a, d, faces_[f].v[previous(i)]) > 0;
}

void PlanarTriangulation::flip(std::uint32_t f, unsigned i) {
    const std::uint32_t g = faces_[f].neighbour[i];
    const unsigned j = backIndex(f, i);
    const Face left = faces_[f];
    const Face right = faces_[g];
    const std::uint32_t a = left.v[i];
    const std::uint32_t b = left.v[next(i)];
    const std::uint32_t c = left.v[previous(i)];
    const std::uint32_t d = right.v[j];
    faces_[f] = {{a, b, d},
                 {right.neighbour[next(j)], g, left.neighbour[previous(i)]},
                 {right.constraints[next(j)], none, left.constraints[previous(i)]}};
    faces_[g] = {{a, d, c},
                 {right.neighbour[previous(j)], left.neighbour[next(i)], f},
                 {right.constraints[previous(j)], left.constraints[next(i)], none}};
    relink(right.neighbour[next(j)], g, f);
    relink(left.neighbour[next(i)], f, g);
    vertices_[a].triangle = f;
    vertices_[b].triangle = f;
    vertices_[d].triangle = f;
    vertices_[c].triangle = g;
}

bool PlanarTriangulation::wantsFlip(std::uint32_t f, unsigned i) const {
    const std::uint32_t across = faces_[f].neighbour[i];
    if (across == none || faces_[f].constraints[i] != none) return false;
    const Vertex& d = vertices_[faces_[across].v[backIndex(f, i)]];
    double x[3], y[3], s[3];
    for (unsigned k = 0; k < 3; ++k) {
        const Vertex& p = vertices_[faces_[f].v[k]];
        x[k] = p.x - d.x;
        y[k] = p.y - d.y;
        s[k] = x[k] * x[k] + y[k] * y[k];
    }
    const double a = x[1] * y[2] - x[2] * y[1];
    const double b = x[2] * y[0] - x[0] * y[2];
    const double c = x[0] * y[1] - x[1] * y[0];
    const double determinant = s[0] * a + s[1] * b + s[2] * c;
    return determinant > nearlyOnCircle * (s[0] * std::abs(a) + s[1] * std::abs(b) + s[2] * std::abs(c)) &&
           canFlip(f, i);
}

void PlanarTriangulation::legalise() {
    // Rounded circles could disagree with each other; the limit ends what an exact test would have ended.
    std::size_t flips = 16 * faces_.size() + 64;
    while (!suspects_.empty()) {
        const auto [f, i] = suspects_.back();
        suspects_.pop_back();
        if (flips == 0 || !wantsFlip(f, i)) continue;
        --flips;
        const std::uint32_t g = faces_[f].neighbour[i];
        flip(f, i);
        suspects_.insert(suspects_.end(), {{f, 0U}, {f, 2U}, {g, 0U}, {g, 1U}});
    }
}

void PlanarTriangulation::improve() {
    for (std::uint32_t f = 0; f < faces_.size(); ++f)
        for (unsigned i = 0; i < 3; ++i)
            if (faces_[f].neighbour[i] != none && faces_[f].neighbour[i] > f) suspects_.emplace_back(f, i);
    legalise();
}

bool PlanarTriangulation::findEdge(std::uint32_t a, std::uint32_t b, std::uint32_t& f, unsigned& i) const {
    const std::uint32_t start = vertices_[a].triangle;
    for (const bool forward : {true, false}) {
        f = start;
        do {
            const unsigned k = faces_[f].v[0] == a ? 0 : faces_[f].v[1] == a ? 1 : 2;
            if (faces_[f].v[next(k)] == b) {
                i = previous(k);
                return true;
            }
            f = faces_[f].neighbour[forward ? next(k) : previous(k)];
        } while (f != none && f != start);
        if (f == start) break;
    }
    return false;
}

void PlanarTriangulation::mark(std::uint32_t f, unsigned i, std::uint32_t constraint) {
    bool carried = false;
    constraintsOf(faces_[f].constraints[i], [&](std::uint32_t c) { carried |= c == constraint; });
    if (carried) return;
    lists_.push_back({constraint, faces_[f].constraints[i]});
    const auto head = static_cast<std::uint32_t>(lists_.size() - 1);
    faces_[f].constraints[i] = head;
    if (faces_[f].neighbour[i] != none) faces_[faces_[f].neighbour[i]].constraints[backIndex(f, i)] = head;
}

void PlanarTriangulation::constrain(std::uint32_t a, std::uint32_t b, std::uint32_t constraint) {
    vertices_[a].lines.add(constraint);
    vertices_[b].lines.add(constraint);
    while (a != b) a = advance(a, b, constraint);
    if (faces_.size() > fewFaces)
        legalise();
    else
        suspects_.clear();
}

// Makes the first stretch of the segment an edge; returns where it ends.
std::uint32_t PlanarTriangulation::advance(std::uint32_t from, std::uint32_t to, std::uint32_t constraint) {
    // The face at `from` that the segment enters, or an edge along it.
    std::uint32_t f = none;
    unsigned k = 0;
    const std::uint32_t start = vertices_[from].triangle;
    for (const bool forward : {true, false}) {
        f = start;
        bool found = false;
        std::uint32_t known = none;  // its side is knownSide
        int knownSide = 0;
        do {
            k = faces_[f].v[0] == from ? 0 : faces_[f].v[1] == from ? 1 : 2;
            const std::uint32_t p = faces_[f].v[next(k)];
            const std::uint32_t q = faces_[f].v[previous(k)];
            const auto sideOf = [&](std::uint32_t w) {
                return w == known ? knownSide : w == to ? 0 : orient(from, to, w);
            };
            const int sideP = sideOf(p);
            const int sideQ = sideOf(q);
            known = forward ? q : p;
            knownSide = forward ? sideQ : sideP;
            for (const bool alongP : {true, false}) {
                const std::uint32_t w = alongP ? p : q;
                if ((alongP ? sideP : sideQ) != 0 || (w != to && !sameDirection(from, w, from, to))) continue;
                vertices_[w].lines.add(constraint);
                mark(f, alongP ? previous(k) : next(k), constraint);
                return w;
            }
            if (sideP < 0 && sideQ > 0) {
                found = true;
                break;
            }
            f = faces_[f].neighbour[forward ? next(k) : previous(k)];
        } while (f != none && f != start);
        if (found) break;
    }
    std::vector<EdgeOf> crossing;
    for (;;) {
        const std::uint32_t p = faces_[f].v[next(k)];
        const std::uint32_t q = faces_[f].v[previous(k)];
        if (faces_[f].constraints[k] != none) {
            const PlanarSource::Crossing made = source_->cross(lists_[faces_[f].constraints[k]].constraint, constraint);
            const std::uint32_t x = newVertex(vertexAt(made.name, made.approximation, false, {constraint}));
            splitEdge(f, k, x);
            suspects_.clear();
            for (std::uint32_t at = from; at != x;) at = advance(at, x, constraint);
            return x;
        }
        crossing.push_back({p, q});
        const std::uint32_t g = faces_[f].neighbour[k];
        const unsigned j = backIndex(f, k);
        const std::uint32_t d = faces_[g].v[j];
        const int side = d == to ? 0 : orient(from, to, d);
        if (side == 0) {
            vertices_[d].lines.add(constraint);
            openCorridor(from, d, std::move(crossing));
            std::uint32_t edgeFace = 0;
            unsigned edge = 0;
            // On the rim of the whole only one of the two directions has a face.
            if (findEdge(from, d, edgeFace, edge) || findEdge(d, from, edgeFace, edge))
                mark(edgeFace, edge, constraint);
            return d;
        }
        // g is (d, q, p) from j on: the segment leaves between d and q, or between p and d.
        f = g;
        k = side > 0 ? next(j) : previous(j);
    }
}

// Flips edges out of the way of the segment, after Sloan 1993: those whose four corners are not convex wait until
// others are gone.
void PlanarTriangulation::openCorridor(std::uint32_t from, std::uint32_t to, std::vector<EdgeOf> crossing) {
    std::deque<EdgeOf> waiting(crossing.begin(), crossing.end());
    while (!waiting.empty()) {
        const EdgeOf edge = waiting.front();
        waiting.pop_front();
        std::uint32_t f = 0;
        unsigned i = 0;
        if (!findEdge(edge.a, edge.b, f, i)) continue;
        if (!canFlip(f, i)) {
            waiting.push_back(edge);
            continue;
        }
        const std::uint32_t a = faces_[f].v[i];
        const std::uint32_t d = faces_[faces_[f].neighbour[i]].v[backIndex(f, i)];
        const std::uint32_t g = faces_[f].neighbour[i];
        flip(f, i);
        const bool ends = a == from || a == to || d == from || d == to;
        if (!ends && orient(from, to, a) * orient(from, to, d) < 0)
            waiting.push_back({a, d});
        else
            suspects_.insert(suspects_.end(), {{f, 0U}, {f, 1U}, {f, 2U}, {g, 0U}, {g, 1U}});
    }
}

}  // namespace zither::exact
