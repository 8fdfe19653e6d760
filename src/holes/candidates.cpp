// Closed walks along edges of odd degree, cut into simple loops; flat or taut patches over them.
#include "holes/candidates.h"

#include <algorithm>
#include <atomic>

#include "mesh/parallel.h"

namespace zither::holes {
namespace {

using mesh::EdgeId;
using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::VertexId;

// A simple loop of edges, walked from vertex to vertex.
struct Walk {
    std::vector<VertexId> from;  // of each edge
    std::vector<EdgeId> edge;
};

class OddWalks {
public:
    OddWalks(const Mesh& m, const mesh::Edges& edges) : m_(m), edges_(edges), first_(m.positions.size() + 1, 0) {
        std::vector<std::pair<VertexId, EdgeId>> ends;
        for (EdgeId e = 0; e < edges.count(); ++e) {
            if (edges.degree(e) % 2 == 0) continue;
            const HalfEdge h = edges.around(e)[0];
            ends.emplace_back(fromVertex(m, h), e);
            ends.emplace_back(toVertex(m, h), e);
        }
        // At each vertex open edges first: a rim is left along the seam of a fin only where it ends there.
        std::sort(ends.begin(), ends.end(), [&](const auto& a, const auto& b) {
            if (a.first != b.first) return a.first < b.first;
            const bool openA = edges.degree(a.second) == 1;
            const bool openB = edges.degree(b.second) == 1;
            return openA != openB ? openA : a.second < b.second;
        });
        for (const auto& [v, e] : ends) {
            ++first_[v + 1];
            at_.push_back(e);
        }
        for (std::size_t v = 0; v + 1 < first_.size(); ++v) first_[v + 1] += first_[v];
    }

    std::vector<Walk> run() {
        std::vector<Walk> loops;
        std::vector<std::uint8_t> used(edges_.count(), 0);
        std::vector<std::uint32_t> placeInWalk(m_.positions.size(), mesh::noIndex);
        for (EdgeId start = 0; start < edges_.count(); ++start) {
            if (edges_.degree(start) != 1 || used[start]) continue;
            // As the surface's own half-edge runs.
            Walk walk;
            VertexId at = fromVertex(m_, edges_.around(start)[0]);
            const auto step = [&](EdgeId e) {
                used[e] = 1;
                placeInWalk[at] = static_cast<std::uint32_t>(walk.edge.size());
                walk.from.push_back(at);
                walk.edge.push_back(e);
                at = otherEnd(e, at);
            };
            step(start);
            while (!walk.edge.empty()) {
                if (const std::uint32_t met = placeInWalk[at]; met != mesh::noIndex) {
                    Walk loop;
                    loop.from.assign(walk.from.begin() + met, walk.from.end());
                    loop.edge.assign(walk.edge.begin() + met, walk.edge.end());
                    for (const VertexId v : loop.from) placeInWalk[v] = mesh::noIndex;
                    walk.from.resize(met);
                    walk.edge.resize(met);
                    loops.push_back(std::move(loop));
                    continue;
                }
                const auto begin = at_.begin() + first_[at];
                const auto end = at_.begin() + first_[at + 1];
                const auto next = std::find_if(begin, end, [&](EdgeId e) { return !used[e]; });
                // Every vertex has an even number of odd edges: a walk ends only where it began.
                if (next == end) break;
                step(*next);
            }
            for (const VertexId v : walk.from) placeInWalk[v] = mesh::noIndex;
        }
        return loops;
    }

private:
    [[nodiscard]] VertexId otherEnd(EdgeId e, VertexId v) const {
        const HalfEdge h = edges_.around(e)[0];
        return fromVertex(m_, h) == v ? toVertex(m_, h) : fromVertex(m_, h);
    }

    const Mesh& m_;
    const mesh::Edges& edges_;
    std::vector<std::uint32_t> first_;
    std::vector<EdgeId> at_;
};

// The loop as most of the surface's half-edges run, with the normals of the triangles beyond, turned to agree.
struct Bordered {
    std::vector<Point> along;
    std::vector<Point> normals;
    std::vector<VertexId> vertices;
};

Bordered bordered(const Mesh& m, const mesh::Edges& edges, const Walk& walk) {
    const std::size_t n = walk.edge.size();
    std::vector<HalfEdge> half(n);
    double agree = 0;
    for (std::size_t i = 0; i < n; ++i) {
        half[i] = edges.around(walk.edge[i])[0];
        if (edges.degree(walk.edge[i]) > 1) continue;
        const double length = (m.positions[toVertex(m, half[i])] - m.positions[fromVertex(m, half[i])]).norm();
        agree += fromVertex(m, half[i]) == walk.from[i] ? length : -length;
    }
    Bordered out;
    const bool turn = agree < 0;
    for (std::size_t k = 0; k < n; ++k) {
        // Backwards, edge i runs from walk.from[i + 1].
        const std::size_t i = turn ? n - 1 - k : k;
        const VertexId v = turn ? walk.from[(i + 1) % n] : walk.from[i];
        out.vertices.push_back(v);
        out.along.push_back(m.positions[v]);
        const Point normal = mesh::areaVector(m, mesh::triangleOf(half[i])).normalized();
        out.normals.push_back(fromVertex(m, half[i]) == v ? normal : Point(-normal));
    }
    return out;
}

// A patch runs along the rim against the surface.
Loop loopFor(const Bordered& b) {
    const std::size_t n = b.vertices.size();
    Loop loop;
    for (std::size_t k = 0; k < n; ++k) {
        loop.vertices.push_back(b.vertices[n - 1 - k]);
        // From vertex n - 1 - k back to the one before it: the edge that starts at the latter.
        loop.rimNormals.push_back(b.normals[(2 * n - 2 - k) % n]);
    }
    return loop;
}

mesh::Outcome<Patch> patchOver(const check::Surveyed& s, const Loop& loop, const RimShape& shape,
                               mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    if (shape.flat() && loop.vertices.size() > 3) {
        Patch flat = flatPatch(m.positions, std::array{loop}, shape.area);
        if (!flat.triangles.empty()) return flat;
    }
    const auto isEdge = [&](VertexId a, VertexId b) { return mesh::linked(m, s.corners(), a, b); };
    auto taut = tautPatch(m.positions, loop, {isEdge}, progress);
    if (!taut || !taut->triangles.empty()) return taut;
    const auto free = [](VertexId, VertexId) { return false; };
    taut = tautPatch(m.positions, loop, {free}, progress);
    if (!taut || !taut->triangles.empty()) return taut;
    return fanPatch(m.positions, loop);
}

}  // namespace

mesh::Outcome<std::vector<Candidate>> candidatePatches(const check::Surveyed& s, mesh::Precision precision,
                                                       mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    const std::vector<Walk> walks = OddWalks(m, s.edges()).run();
    const double partSize = mesh::boxOf(m).diagonal();
    std::vector<Candidate> candidates(walks.size());
    std::atomic<bool> stop = false;
    std::atomic<std::size_t> done = 0;
    static_cast<void>(s.corners());
    mesh::parallelFor(walks.size(), 1, [&](std::size_t i) {
        if (stop) return;
        const Bordered border = bordered(m, s.edges(), walks[i]);
        Candidate& c = candidates[i];
        c.shape = shapeOf(border.along, border.normals);
        c.edges = walks[i].edge.size();
        c.meant = whyMeant(c.edges, c.shape, partSize);
        const auto open = std::find_if(walks[i].edge.begin(), walks[i].edge.end(),
                                       [&](EdgeId e) { return s.edges().degree(e) == 1; });
        if (open != walks[i].edge.end()) c.beside = mesh::triangleOf(s.edges().around(*open)[0]);
        mesh::SilentProgress silent;
        auto patch = patchOver(s, loopFor(border), c.shape, silent);
        if (patch) c.patch = std::move(*patch);
        for (Point& p : c.patch.added) p = mesh::rounded(precision, p);
        if (!progress.report(static_cast<double>(++done) / static_cast<double>(walks.size()))) stop = true;
    });
    if (stop) return mesh::cancelled();
    // Walks along seams alone bound no opening.
    std::erase_if(candidates, [](const Candidate& c) { return c.patch.triangles.empty(); });
    if (!progress.report(1)) return mesh::cancelled();
    return candidates;
}

}  // namespace zither::holes
