// Neighbours are kept by half-edges; each change rewrites the few around it.
#include "shape/linked_surface.h"

#include <fmt/format.h>

#include <Eigen/Geometry>

namespace zither::shape {

using mesh::nextInTriangle;
using mesh::noEdge;
using mesh::previousInTriangle;

LinkedSurface::LinkedSurface(const Mesh& m, const mesh::Edges& edges)
    : at_(m.positions),
      out_(m.positions.size(), noEdge),
      tied_(m.positions.size(), 0),
      triangles_(m.triangles),
      twin_(3 * m.triangles.size(), noEdge),
      line_(3 * m.triangles.size(), noLine),
      source_(m.triangles.size()) {
    std::vector<std::uint32_t> corners(at_.size(), 0);
    for (TriangleId t = 0; t < triangles_.size(); ++t) {
        source_[t] = t;
        if (mesh::isCollapsed(triangles_[t])) {
            triangles_[t] = {};
            continue;
        }
        ++alive_;
        for (unsigned k = 0; k < 3; ++k) {
            const auto h = static_cast<HalfEdge>(3 * t + k);
            ++corners[from(h)];
            out_[from(h)] = h;
            const HalfEdge other = edges.twin(h);
            if (other != noEdge && !mesh::runsAlong(m, h, other)) twin_[h] = other;
        }
    }
    for (VertexId v = 0; v < at_.size(); ++v) {
        if (!isUsed(v)) continue;
        std::uint32_t around = 0;
        forEachOut(v, [&](HalfEdge) { ++around; });
        tied_[v] = around != corners[v];
    }
}

void LinkedSurface::setLine(HalfEdge h, LineId line) {
    line_[h] = line;
    if (twin_[h] != noEdge) line_[twin_[h]] = line;
}

unsigned LinkedSurface::valence(VertexId v) const {
    unsigned count = 0;
    forEachNeighbour(v, [&](VertexId) { ++count; });
    return count;
}

bool LinkedSurface::isOnBorder(VertexId v) const {
    bool ends = false;
    forEachOut(v, [&](HalfEdge h) { ends |= twin_[h] == noEdge || twin_[previousInTriangle(h)] == noEdge; });
    return ends;
}

bool LinkedSurface::areLinked(VertexId a, VertexId b) const {
    bool linked = false;
    forEachNeighbour(a, [&](VertexId w) { linked |= w == b; });
    return linked;
}

void LinkedSurface::link(HalfEdge a, HalfEdge b) {
    if (a != noEdge) twin_[a] = b;
    if (b != noEdge) twin_[b] = a;
}

TriangleId LinkedSurface::addTriangle(const Triangle& corners, TriangleId source) {
    const auto t = static_cast<TriangleId>(triangles_.size());
    triangles_.push_back(corners);
    twin_.insert(twin_.end(), 3, noEdge);
    line_.insert(line_.end(), 3, noLine);
    source_.push_back(source);
    ++alive_;
    return t;
}

void LinkedSurface::bury(TriangleId t) {
    triangles_[t] = {};
    --alive_;
}

VertexId LinkedSurface::split(HalfEdge h, const Point& p) {
    const auto middle = static_cast<VertexId>(at_.size());
    at_.push_back(p);
    out_.push_back(noEdge);
    tied_.push_back(0);
    const HalfEdge g = twin_[h];
    const VertexId b = to(h);
    // Beyond the middle, on this side: (middle, b, c).
    const HalfEdge next = nextInTriangle(h);
    const HalfEdge beyond = 3 * addTriangle({middle, b, opposite(h)}, source_[h / 3]);
    triangles_[h / 3][next % 3] = middle;
    link(beyond + 1, twin_[next]);
    line_[beyond + 1] = line_[next];
    line_[beyond] = line_[h];
    link(next, beyond + 2);
    line_[next] = noLine;
    out_[middle] = beyond;
    out_[b] = beyond + 1;
    if (g == noEdge) return middle;
    // On the other: (b, middle, d).
    const HalfEdge last = previousInTriangle(g);
    const HalfEdge across = 3 * addTriangle({b, middle, opposite(g)}, source_[g / 3]);
    triangles_[g / 3][g % 3] = middle;
    link(across + 2, twin_[last]);
    line_[across + 2] = line_[last];
    line_[across] = line_[g];
    link(last, across + 1);
    line_[last] = noLine;
    link(beyond, across);
    return middle;
}

bool LinkedSurface::mayCollapse(HalfEdge h) const {
    const VertexId a = from(h);
    const VertexId b = to(h);
    if (tied_[a] || tied_[b]) return false;
    const HalfEdge g = twin_[h];
    if (g != noEdge && isOnBorder(a) && isOnBorder(b)) return false;
    // The vertices that both see must be exactly those opposite the edge (Dey et al. 1999).
    unsigned common = 0;
    forEachNeighbour(a, [&](VertexId w) {
        if (w != b && areLinked(b, w)) ++common;
    });
    if (common != (g == noEdge ? 1U : 2U)) return false;
    const auto keepsItsOwn = [&](HalfEdge side) {
        const VertexId c = opposite(side);
        // An ear that hangs on this edge alone, or the tip of a pyramid that would be left flat.
        if (twin_[nextInTriangle(side)] == noEdge && twin_[previousInTriangle(side)] == noEdge) return false;
        return tied_[c] || valence(c) > (isOnBorder(c) ? 2U : 3U);
    };
    return keepsItsOwn(h) && (g == noEdge || keepsItsOwn(g));
}

void LinkedSurface::collapse(HalfEdge h) {
    const VertexId a = from(h);
    const VertexId b = to(h);
    const HalfEdge g = twin_[h];
    std::vector<HalfEdge> leaving;
    forEachOut(a, [&](HalfEdge o) { leaving.push_back(o); });
    for (const HalfEdge o : leaving) triangles_[o / 3][o % 3] = b;
    const auto close = [&](HalfEdge side) {
        // The two other edges of the triangle become one.
        const HalfEdge next = nextInTriangle(side);
        const HalfEdge last = previousInTriangle(side);
        const VertexId c = opposite(side);
        const HalfEdge x = twin_[next];
        const HalfEdge y = twin_[last];
        const LineId line = line_[next] != noLine ? line_[next] : line_[last];
        link(x, y);
        for (const HalfEdge now : {x, y})
            if (now != noEdge) line_[now] = line;
        // x comes from c, y leads to it.
        out_[c] = x != noEdge ? x : nextInTriangle(y);
        out_[b] = y != noEdge ? y : nextInTriangle(x);
        bury(side / 3);
    };
    close(h);
    if (g != noEdge) close(g);
    out_[a] = noEdge;
}

bool LinkedSurface::mayFlip(HalfEdge h) const {
    const HalfEdge g = twin_[h];
    if (g == noEdge || line_[h] != noLine) return false;
    const VertexId c = opposite(h);
    const VertexId d = opposite(g);
    if (c == d || tied_[from(h)] || tied_[to(h)]) return false;
    if (tied_[c] && tied_[d]) return false;
    const auto enough = [&](VertexId v) { return valence(v) > (isOnBorder(v) ? 2U : 3U); };
    return enough(from(h)) && enough(to(h)) && !(tied_[c] ? areLinked(d, c) : areLinked(c, d));
}

void LinkedSurface::flip(HalfEdge h) {
    const HalfEdge g = twin_[h];
    const TriangleId t = h / 3;
    const TriangleId u = g / 3;
    const VertexId a = from(h);
    const VertexId b = to(h);
    const VertexId c = opposite(h);
    const VertexId d = opposite(g);
    const HalfEdge hNext = nextInTriangle(h);
    const HalfEdge gNext = nextInTriangle(g);
    const HalfEdge beyondB = twin_[hNext];
    const HalfEdge beyondA = twin_[gNext];
    const LineId lineB = line_[hNext];
    const LineId lineA = line_[gNext];
    triangles_[t][hNext % 3] = d;
    triangles_[u][gNext % 3] = c;
    link(h, beyondA);
    line_[h] = lineA;
    link(g, beyondB);
    line_[g] = lineB;
    link(hNext, gNext);
    line_[hNext] = line_[gNext] = noLine;
    out_[a] = h;
    out_[b] = g;
    out_[c] = gNext;
    out_[d] = hNext;
}

LinkedSurface::Compact LinkedSurface::compact(const Mesh& given) const {
    Compact result;
    Mesh& m = result.mesh;
    m.regionNames = given.regionNames;
    m.regionsAre = given.regionsAre;
    std::vector<VertexId> numberOf(at_.size(), mesh::noIndex);
    for (TriangleId t = 0; t < triangles_.size(); ++t) {
        if (!isAlive(t)) continue;
        Triangle corners;
        for (unsigned k = 0; k < 3; ++k) {
            const VertexId v = triangles_[t][k];
            if (numberOf[v] == mesh::noIndex) {
                numberOf[v] = static_cast<VertexId>(m.positions.size());
                m.positions.push_back(at_[v]);
            }
            corners[k] = numberOf[v];
        }
        m.triangles.push_back(corners);
        if (!given.regions.empty()) m.regions.push_back(given.regions[source_[t]]);
        result.sources.push_back(source_[t]);
    }
    return result;
}

std::string LinkedSurface::validate() const {
    for (HalfEdge h = 0; h < twin_.size(); ++h) {
        if (!isAlive(h / 3)) continue;
        if (from(h) == to(h)) return fmt::format("half-edge {} has no length", h);
        const HalfEdge g = twin_[h];
        if (g == noEdge) continue;
        if (!isAlive(g / 3) || twin_[g] != h) return fmt::format("half-edge {} is not linked back", h);
        if (from(g) != to(h) || to(g) != from(h)) return fmt::format("half-edge {} is linked to another edge", h);
        if (line_[h] != line_[g]) return fmt::format("half-edge {} has another line than its twin", h);
    }
    std::vector<std::uint32_t> corners(at_.size(), 0);
    for (TriangleId t = 0; t < triangles_.size(); ++t)
        if (isAlive(t))
            for (const VertexId v : triangles_[t]) ++corners[v];
    for (VertexId v = 0; v < at_.size(); ++v) {
        if (isUsed(v) != (corners[v] > 0)) return fmt::format("vertex {} does not know whether it is used", v);
        if (!isUsed(v)) continue;
        if (!isAlive(out_[v] / 3) || from(out_[v]) != v) return fmt::format("vertex {} begins elsewhere", v);
        if (tied_[v]) continue;
        std::uint32_t around = 0;
        forEachOut(v, [&](HalfEdge) { ++around; });
        if (around != corners[v]) return fmt::format("vertex {} is not gone around", v);
    }
    return {};
}

}  // namespace zither::shape
