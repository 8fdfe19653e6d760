// Each change is made on a copy and tested exactly before it is given back.
#include "repair/by_hand.h"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>

#include "check/crossing_pairs.h"
#include "measure/mass.h"
#include "mesh/edges.h"
#include "space/triangle_tree.h"

namespace zither::repair {
namespace {

using mesh::badInput;
using mesh::HalfEdge;
using mesh::Mesh;
using mesh::noEdge;
using mesh::Outcome;
using mesh::Pick;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

constexpr unsigned moreRings = 3;

// What a change of these triangles breaks, in words; empty where it breaks nothing. Triangle ids are the same before
// and after, but collapsed ones of `after` are gone.
std::string harm(const Mesh& before, const Mesh& after, const std::vector<TriangleId>& changed) {
    std::vector<std::uint8_t> isChanged(after.triangles.size(), 0);
    for (TriangleId t : changed) isChanged[t] = 1;
    Point facing = Point::Zero();
    for (TriangleId t : changed) facing += mesh::areaVector(before, t);
    for (TriangleId t : changed) {
        if (mesh::isCollapsed(after.triangles[t])) continue;
        if (check::isDegenerate(after, t)) return "a triangle would lose its area";
        const Point now = mesh::areaVector(after, t);
        const bool same = after.triangles[t] == before.triangles[t];
        const Point was = same ? mesh::areaVector(before, t) : facing;
        if (now.dot(was) < 0) return "a triangle would turn over";
    }
    const space::TriangleTree tree(after);
    for (TriangleId t : changed) {
        if (mesh::isCollapsed(after.triangles[t])) continue;
        std::string found;
        tree.overlapping(mesh::boxOf(after, t), [&](TriangleId o) {
            if (!found.empty() || o == t || check::isDegenerate(after, o)) return;
            const bool meets =
                mesh::sameCorners(after.triangles[t], after.triangles[o]) || check::trianglesIntersect(after, t, o);
            if (!meets) return;
            // What met before may meet still.
            const bool met = !check::isDegenerate(before, t) && !check::isDegenerate(before, o) &&
                             (mesh::sameCorners(before.triangles[t], before.triangles[o]) ||
                              check::trianglesIntersect(before, t, o));
            if (!met) found = "triangles would cross near " + mesh::placeText(mesh::centroid(after, o));
        });
        if (!found.empty()) return found;
    }
    return {};
}

Outcome<Mesh> checked(std::string_view what, const Mesh& before, Mesh&& after, const std::vector<TriangleId>& changed) {
    if (const std::string why = harm(before, after, changed); !why.empty())
        return badInput(fmt::format("{}: {}; nothing was changed", what, why));
    std::vector<std::uint8_t> keep(after.triangles.size());
    for (TriangleId t = 0; t < keep.size(); ++t)
        keep[t] = mesh::isCollapsed(before.triangles[t]) || !mesh::isCollapsed(after.triangles[t]);
    return mesh::keepTriangles(after, keep);
}

// The edge whose middle is nearest.
HalfEdge nearestEdge(const Mesh& m, const Point& at) {
    HalfEdge best = noEdge;
    double least = std::numeric_limits<double>::infinity();
    for (HalfEdge h = 0; h < 3 * m.triangles.size(); ++h) {
        if (mesh::isCollapsed(m.triangles[mesh::triangleOf(h)])) continue;
        const Point middle = 0.5 * (m.positions[fromVertex(m, h)] + m.positions[toVertex(m, h)]);
        if (const double d = (middle - at).squaredNorm(); d < least) {
            least = d;
            best = h;
        }
    }
    return best;
}

std::vector<VertexId> neighboursOf(const Mesh& m, const mesh::Corners& corners, VertexId v) {
    std::vector<VertexId> all;
    for (HalfEdge h : corners.at(v))
        for (VertexId w : m.triangles[mesh::triangleOf(h)])
            if (w != v) all.push_back(w);
    std::sort(all.begin(), all.end());
    all.erase(std::unique(all.begin(), all.end()), all.end());
    return all;
}

}  // namespace

Outcome<Mesh> removePick(const Mesh& m, const Pick& pick, unsigned rings, mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    std::vector<std::uint8_t> keep = mesh::grown(m, pick, rings).mask(m);
    for (std::uint8_t& k : keep) k = k == 0;
    Mesh result = mesh::keepTriangles(m, keep);
    if (!progress.report(1)) return mesh::cancelled();
    return result;
}

Outcome<MendResult> mend(const Mesh& m, const Pick& pick, const MendOptions& options, mesh::Progress& progress) {
    MendResult best;
    const double whole = measure::massOf(m).area;
    std::size_t fewest = std::numeric_limits<std::size_t>::max();
    for (unsigned more = 0; more <= moreRings; ++more) {
        mesh::PartOfProgress part(progress, more / (moreRings + 1.0), (more + 1) / (moreRings + 1.0));
        const std::vector<std::uint8_t> gone = mesh::grown(m, pick, options.rings + more).mask(m);
        const auto removed = static_cast<std::size_t>(std::count(gone.begin(), gone.end(), 1));
        if (removed == m.triangles.size()) break;
        const double share = whole > 0 ? measure::massOf(mesh::keepTriangles(m, gone)).area / whole : 0;
        if (share > options.mostShare) {
            if (more > 0) break;
            best.mesh = m;
            best.removed = removed;
            best.rings = options.rings;
            best.share = share;
            best.tooMuch = true;
            return best;
        }
        auto filled = holes::cutOut(m, gone, {.way = options.way}, part);
        if (!filled) return mesh::errorOf(filled);
        const std::size_t faults = holes::faultsOf(*filled);
        if (faults < fewest) {
            fewest = faults;
            best.mesh = std::exchange(filled->mesh, {});
            best.removed = removed;
            best.rings = options.rings + more;
            best.share = share;
            best.filled = std::move(*filled);
        }
        if (faults == 0) break;
    }
    if (fewest == std::numeric_limits<std::size_t>::max()) best.mesh = m;  // nothing would be left
    if (!progress.report(1)) return mesh::cancelled();
    return best;
}

Mesh flipPick(const Mesh& m, const Pick& pick) {
    Mesh result = m;
    const std::vector<std::uint8_t> chosen = pick.mask(m);
    for (TriangleId t = 0; t < chosen.size(); ++t)
        if (chosen[t]) std::swap(result.triangles[t][1], result.triangles[t][2]);
    return result;
}

std::optional<VertexId> nearestVertex(const Mesh& m, const Point& to) {
    if (m.positions.empty()) return std::nullopt;
    VertexId v = 0;
    for (VertexId w = 1; w < m.positions.size(); ++w)
        if ((m.positions[w] - to).squaredNorm() < (m.positions[v] - to).squaredNorm()) v = w;
    return v;
}

Outcome<Mesh> moveVertex(const Mesh& m, const Point& from, const Point& to, mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    const std::optional<VertexId> nearest = nearestVertex(m, from);
    if (!nearest) return badInput("move-vertex: this part has no vertices");
    const VertexId v = *nearest;
    Mesh after = m;
    after.positions[v] = to;
    std::vector<TriangleId> changed;
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if (mesh::hasCorner(m.triangles[t], v) && !mesh::isCollapsed(m.triangles[t])) changed.push_back(t);
    return checked("move-vertex", m, std::move(after), changed);
}

Outcome<Mesh> collapseEdge(const check::Surveyed& s, const Point& at, mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    if (!progress.report(0)) return mesh::cancelled();
    const HalfEdge h = nearestEdge(m, at);
    if (h == noEdge) return badInput("collapse-edge: this part has no edges");
    const VertexId stays = fromVertex(m, h);
    const VertexId goes = toVertex(m, h);
    const mesh::Corners& corners = s.corners();
    const std::vector<VertexId> a = neighboursOf(m, corners, stays);
    const std::vector<VertexId> b = neighboursOf(m, corners, goes);
    std::vector<VertexId> common;
    std::set_intersection(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(common));
    std::vector<TriangleId> changed;
    std::size_t over = 0;
    for (VertexId v : {stays, goes})
        for (HalfEdge c : corners.at(v)) {
            const TriangleId t = mesh::triangleOf(c);
            if (mesh::isCollapsed(m.triangles[t])) continue;
            const bool both = mesh::hasCorner(m.triangles[t], stays) && mesh::hasCorner(m.triangles[t], goes);
            if (v == stays || !both) changed.push_back(t);
            over += v == stays && both;
        }
    if (common.size() != over)
        return badInput("collapse-edge: the surface would be pinched together there; nothing was changed");
    Mesh after = m;
    after.positions[stays] = 0.5 * (m.positions[stays] + m.positions[goes]);
    for (TriangleId t : changed)
        for (VertexId& v : after.triangles[t])
            if (v == goes) v = stays;
    return checked("collapse-edge", m, std::move(after), changed);
}

Outcome<Mesh> swapEdge(const check::Surveyed& s, const Point& at, mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    if (!progress.report(0)) return mesh::cancelled();
    const HalfEdge h = nearestEdge(m, at);
    if (h == noEdge) return badInput("swap-edge: this part has no edges");
    const HalfEdge o = s.edges().twin(h);
    if (o == noEdge || mesh::runsAlong(m, h, o))
        return badInput("swap-edge: the edge there has not two triangles that face the same way; nothing was changed");
    const VertexId a = fromVertex(m, h);
    const VertexId b = toVertex(m, h);
    const VertexId c = oppositeVertex(m, h);
    const VertexId d = oppositeVertex(m, o);
    const mesh::Corners& corners = s.corners();
    const std::vector<VertexId> around = neighboursOf(m, corners, c);
    if (c == d || std::binary_search(around.begin(), around.end(), d))
        return badInput("swap-edge: the other diagonal is an edge already; nothing was changed");
    Mesh after = m;
    after.triangles[mesh::triangleOf(h)] = {a, d, c};
    after.triangles[mesh::triangleOf(o)] = {d, b, c};
    return checked("swap-edge", m, std::move(after), {mesh::triangleOf(h), mesh::triangleOf(o)});
}

}  // namespace zither::repair
