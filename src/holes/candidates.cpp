// Walks along open edges, closed along seams where they end, cut into simple loops; over each the patch that suits it.
#include "holes/candidates.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <limits>
#include <map>
#include <set>
#include <span>
#include <unordered_map>

#include "check/crossing_pairs.h"
#include "holes/fill.h"
#include "holes/holes_tolerances.h"
#include "measure/fold_angle.h"
#include "measure/shell_mass.h"
#include "mesh/parallel.h"
#include "mesh/shortest_ways.h"

namespace zither::holes {
namespace {

using mesh::EdgeId;
using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::VertexId;

// A loop of vertices; of each edge from a vertex to the next, its number, or noIndex where it is no edge yet.
struct Walk {
    std::vector<VertexId> from;
    std::vector<EdgeId> edge;
};

class OpenWalks {
public:
    OpenWalks(const Mesh& m, const mesh::Edges& edges)
        : m_(m), edges_(edges), used_(edges.count(), 0), torn_(edges.count(), 0) {
        const auto findOpen = [&] {
            openAt_ = byVertex([&](EdgeId e) { return !used_[e] && (edges.degree(e) == 1 || torn_[e]); });
        };
        findOpen();
        tearSeams();
        do findOpen();
        while (cutLoops());
        seamAt_ = byVertex([&](EdgeId e) { return edges.degree(e) > 1 && edges.degree(e) % 2 == 1; });
    }

    std::vector<Walk> run() {
        openFaces();
        // Rims that end somewhere, first: at a seam, where an odd number of surfaces meet.
        for (VertexId v = 0; v < m_.positions.size(); ++v)
            if ((openAt_.first[v + 1] - openAt_.first[v]) % 2 == 1 && nextOpen(v) != mesh::noIndex) walkFrom(v);
        for (VertexId v = 0; v < m_.positions.size(); ++v)
            while (nextOpen(v) != mesh::noIndex) walkFrom(v);
        return std::move(loops_);
    }

private:
    struct ByVertex {
        std::vector<std::uint32_t> first;
        std::vector<EdgeId> edges;
    };

    template <class Wanted>
    [[nodiscard]] ByVertex byVertex(const Wanted& wanted) const {
        ByVertex at{std::vector<std::uint32_t>(m_.positions.size() + 1, 0), {}};
        const auto ends = [&](EdgeId e) {
            const HalfEdge h = edges_.around(e)[0];
            return std::array{fromVertex(m_, h), toVertex(m_, h)};
        };
        for (EdgeId e = 0; e < edges_.count(); ++e)
            if (wanted(e))
                for (const VertexId v : ends(e)) ++at.first[v + 1];
        for (std::size_t v = 0; v + 1 < at.first.size(); ++v) at.first[v + 1] += at.first[v];
        at.edges.resize(at.first.back());
        std::vector<std::uint32_t> next(at.first.begin(), at.first.end() - 1);
        for (EdgeId e = 0; e < edges_.count(); ++e)
            if (wanted(e))
                for (const VertexId v : ends(e)) at.edges[next[v]++] = e;
        return at;
    }

    [[nodiscard]] EdgeId nextOpen(VertexId v) const {
        for (std::uint32_t i = openAt_.first[v]; i < openAt_.first[v + 1]; ++i)
            if (!used_[openAt_.edges[i]]) return openAt_.edges[i];
        return mesh::noIndex;
    }

    [[nodiscard]] VertexId otherEnd(EdgeId e, VertexId v) const {
        const HalfEdge h = edges_.around(e)[0];
        return fromVertex(m_, h) == v ? toVertex(m_, h) : fromVertex(m_, h);
    }
    [[nodiscard]] double lengthOf(EdgeId e) const {
        const HalfEdge h = edges_.around(e)[0];
        return (m_.positions[toVertex(m_, h)] - m_.positions[fromVertex(m_, h)]).norm();
    }

    [[nodiscard]] std::uint32_t openDegree(VertexId v) const { return openAt_.first[v + 1] - openAt_.first[v]; }

    // Where a triangle is missing beside a seam, one of the seam's edges has two triangles, as if it were none, and the
    // open edges that are left end in nothing. Such an edge runs from where an open edge ends to another open vertex,
    // so that the triangle would go on from the surface beyond the open edge. It counts as open.
    void tearSeams() {
        std::vector<VertexId> ends;
        for (VertexId v = 0; v < m_.positions.size(); ++v)
            if (openDegree(v) == 1) ends.push_back(v);
        if (ends.empty()) return;
        const ByVertex wholeAt = byVertex([&](EdgeId e) { return edges_.degree(e) % 2 == 0; });
        for (const VertexId v : ends) {
            // Best of all where the other side of the triangle is open as well.
            const VertexId beyond = otherEnd(openAt_.edges[openAt_.first[v]], v);
            EdgeId best = mesh::noIndex;
            std::pair<bool, double> least{true, std::numeric_limits<double>::infinity()};
            for (std::uint32_t i = wholeAt.first[v]; i < wholeAt.first[v + 1]; ++i) {
                const EdgeId e = wholeAt.edges[i];
                const VertexId w = otherEnd(e, v);
                if (openDegree(w) != 1 && (openDegree(w) == 0 || openDegree(w) % 2 == 1)) continue;
                if (!goesOn(openAt_.edges[openAt_.first[v]], v, w)) continue;
                const auto open = std::span(openAt_.edges).subspan(openAt_.first[w], openDegree(w));
                const bool apart =
                    std::none_of(open.begin(), open.end(), [&](EdgeId o) { return otherEnd(o, w) == beyond; });
                const std::pair across{apart, (m_.positions[w] - m_.positions[beyond]).norm()};
                if (across < least) {
                    least = across;
                    best = e;
                }
            }
            if (best != mesh::noIndex) torn_[best] = 1;
        }
    }

    // A triangle over open edge e, which ends in v, and vertex w does not fold back onto the one that is there.
    [[nodiscard]] bool goesOn(EdgeId e, VertexId v, VertexId w) const {
        const HalfEdge h = edges_.around(e)[0];
        const Point& from = m_.positions[v];
        const Point along = (m_.positions[otherEnd(e, v)] - from).normalized();
        const auto across = [&](VertexId to) {
            return measure::across(from, along, m_.positions[to]).normalized().eval();
        };
        return across(w).dot(across(oppositeVertex(m_, h))) < -tolerance::foldCosine;
    }

    // Open edges between two vertices at which more than two of them meet.
    struct Chain {
        VertexId from = 0;
        VertexId to = 0;
        std::vector<EdgeId> edges;
        double length = 0;
    };

    // Openings that touch others in one vertex alone are loops by themselves. True where there were any.
    bool cutLoops() {
        bool any = false;
        for (VertexId v = 0; v < m_.positions.size(); ++v) {
            if (openDegree(v) < 3) continue;
            for (std::uint32_t i = openAt_.first[v]; i < openAt_.first[v + 1]; ++i) {
                if (used_[openAt_.edges[i]]) continue;
                const Chain chain = chainFrom(v, openAt_.edges[i]);
                if (chain.to != v) continue;
                loops_.push_back(walkAlong({chain.edges}, v));
                any = true;
            }
        }
        return any;
    }

    // Edges that follow each other from a vertex on, each way turned as it comes.
    Walk walkAlong(const std::vector<std::vector<EdgeId>>& ways, VertexId v) {
        Walk loop;
        for (const std::vector<EdgeId>& way : ways)
            for (const EdgeId e : way) {
                loop.from.push_back(v);
                loop.edge.push_back(e);
                used_[e] = 1;
                v = otherEnd(e, v);
            }
        return loop;
    }

    // Where three openings share open edges, as those of a wall that ends between two of them, the openings are the
    // faces of what open edges draw: the shortest loop through each chain.
    void openFaces() {
        std::vector<Chain> chains;
        std::map<VertexId, std::vector<std::size_t>> at;
        std::vector<std::uint8_t> passed(edges_.count(), 0);
        for (VertexId v = 0; v < m_.positions.size(); ++v) {
            if (openDegree(v) < 3 || openDegree(v) % 2 == 0) continue;
            for (std::uint32_t i = openAt_.first[v]; i < openAt_.first[v + 1]; ++i) {
                if (passed[openAt_.edges[i]]) continue;
                Chain chain = chainFrom(v, openAt_.edges[i]);
                for (const EdgeId e : chain.edges) passed[e] = 1;
                at[chain.from].push_back(chains.size());
                at[chain.to].push_back(chains.size());
                chains.push_back(std::move(chain));
            }
        }
        std::set<std::vector<std::size_t>> known;
        for (std::size_t c = 0; c < chains.size(); ++c) {
            std::vector<std::size_t> face = wayBack(chains, at, c);
            if (face.empty()) continue;
            std::vector<std::size_t> sorted = face;
            std::sort(sorted.begin(), sorted.end());
            if (!known.insert(sorted).second) continue;
            std::vector<std::vector<EdgeId>> ways;
            VertexId v = chains[c].from;
            for (const std::size_t other : face) {
                ways.push_back(chains[other].edges);
                if (chains[other].from != v) std::reverse(ways.back().begin(), ways.back().end());
                v = chains[other].from == v ? chains[other].to : chains[other].from;
            }
            loops_.push_back(walkAlong(ways, chains[c].from));
        }
    }

    // To the next vertex at which not two open edges meet.
    [[nodiscard]] Chain chainFrom(VertexId start, EdgeId first) const {
        Chain chain{start, otherEnd(first, start), {first}, lengthOf(first)};
        while (openDegree(chain.to) == 2 && chain.to != start) {
            const std::uint32_t i = openAt_.first[chain.to];
            const EdgeId next = openAt_.edges[openAt_.edges[i] == chain.edges.back() ? i + 1 : i];
            chain.edges.push_back(next);
            chain.length += lengthOf(next);
            chain.to = otherEnd(next, chain.to);
        }
        return chain;
    }

    // The chain, and the shortest way back from its end to its beginning along others; empty where there
    // is none.
    [[nodiscard]] std::vector<std::size_t> wayBack(const std::vector<Chain>& chains,
                                                   const std::map<VertexId, std::vector<std::size_t>>& at,
                                                   std::size_t chain) const {
        const VertexId from = chains[chain].to;
        const VertexId to = chains[chain].from;
        const mesh::ShortestWays::Start start{from};
        const mesh::ShortestWays ways(
            m_.positions.size(), std::span(&start, 1),
            [&](VertexId v, double, std::vector<mesh::ShortestWays::Leg>& legs) {
                const auto leaving = at.find(v);
                if (leaving == at.end()) return;
                for (const std::size_t c : leaving->second)
                    if (c != chain && chains[c].from != chains[c].to)
                        legs.push_back({chains[c].from == v ? chains[c].to : chains[c].from, chains[c].length,
                                        static_cast<std::uint32_t>(c)});
            },
            to);
        if (!ways.at(to)) return {};
        std::vector<std::size_t> way{chain};
        for (const std::uint32_t c : ways.viasTo(to)) way.push_back(c);
        return way;
    }

    // Along open edges; a loop is cut off whenever a vertex is met again.
    void walkFrom(VertexId start) {
        Walk walk;
        std::unordered_map<VertexId, std::size_t> placeOf{{start, 0}};
        VertexId at = start;
        for (EdgeId e = nextOpen(at); e != mesh::noIndex; e = nextOpen(at)) {
            used_[e] = 1;
            walk.from.push_back(at);
            walk.edge.push_back(e);
            at = otherEnd(e, at);
            const auto [met, fresh] = placeOf.try_emplace(at, walk.edge.size());
            if (!fresh) cutOff(walk, met->second, placeOf);
        }
        if (walk.edge.empty()) return;
        // It ends: back along the seam, or straight where the seam is no way back.
        double length = 0;
        for (const EdgeId e : walk.edge) length += lengthOf(e);
        for (const EdgeId e : wayAlongSeams(at, start, mostDetour * length)) {
            walk.from.push_back(at);
            walk.edge.push_back(e);
            at = otherEnd(e, at);
        }
        if (at != start) {
            walk.from.push_back(at);
            walk.edge.push_back(mesh::noIndex);
        }
        // The way back may touch the walk.
        std::unordered_map<VertexId, std::size_t> place;
        Walk simple;
        for (std::size_t i = 0; i < walk.from.size(); ++i) {
            if (const auto [met, fresh] = place.try_emplace(walk.from[i], simple.edge.size()); !fresh)
                cutOff(simple, met->second, place);
            simple.from.push_back(walk.from[i]);
            simple.edge.push_back(walk.edge[i]);
        }
        loops_.push_back(std::move(simple));
    }

    // The walk from a place on becomes a loop of its own.
    void cutOff(Walk& walk, std::size_t place, std::unordered_map<VertexId, std::size_t>& placeOf) {
        Walk loop;
        loop.from.assign(walk.from.begin() + static_cast<std::ptrdiff_t>(place), walk.from.end());
        loop.edge.assign(walk.edge.begin() + static_cast<std::ptrdiff_t>(place), walk.edge.end());
        for (std::size_t i = 1; i < loop.from.size(); ++i) placeOf.erase(loop.from[i]);
        walk.from.resize(place);
        walk.edge.resize(place);
        loops_.push_back(std::move(loop));
    }

    // The shortest way along seams, no longer than `most`; empty where there is none.
    [[nodiscard]] std::vector<EdgeId> wayAlongSeams(VertexId from, VertexId to, double most) const {
        const mesh::ShortestWays::Start start{from};
        const mesh::ShortestWays ways(
            m_.positions.size(), std::span(&start, 1),
            [&](VertexId v, double away, std::vector<mesh::ShortestWays::Leg>& legs) {
                for (std::uint32_t i = seamAt_.first[v]; i < seamAt_.first[v + 1]; ++i)
                    if (const double length = lengthOf(seamAt_.edges[i]); away + length <= most)
                        legs.push_back({otherEnd(seamAt_.edges[i], v), length, seamAt_.edges[i]});
            },
            to);
        std::vector<EdgeId> way;
        for (const std::uint32_t via : ways.viasTo(to)) way.push_back(EdgeId(via));
        return way;
    }

    static constexpr double mostDetour = 2;  // times the rim's own length

    const Mesh& m_;
    const mesh::Edges& edges_;
    std::vector<std::uint8_t> used_;
    std::vector<std::uint8_t> torn_;
    ByVertex openAt_;
    ByVertex seamAt_;
    std::vector<Walk> loops_;
};

// The loop as most of the surface's half-edges run, with the normals of the triangles beyond, turned to agree.
struct Bordered {
    std::vector<Point> along;
    std::vector<Point> normals;
    std::vector<VertexId> vertices;
    bool simple = true;  // every edge is open, and all triangles run along it alike
};

Bordered bordered(const Mesh& m, const mesh::Edges& edges, const Walk& walk) {
    const std::size_t n = walk.edge.size();
    std::vector<HalfEdge> half(n, mesh::noIndex);
    Bordered out;
    double agree = 0;
    for (std::size_t i = 0; i < n; ++i) {
        if (walk.edge[i] == mesh::noIndex) {
            out.simple = false;
            continue;
        }
        half[i] = edges.around(walk.edge[i])[0];
        if (edges.degree(walk.edge[i]) > 1) {
            out.simple = false;
            continue;
        }
        const double length = (m.positions[toVertex(m, half[i])] - m.positions[fromVertex(m, half[i])]).norm();
        agree += fromVertex(m, half[i]) == walk.from[i] ? length : -length;
    }
    const bool turn = agree < 0;
    for (std::size_t k = 0; k < n; ++k) {
        // Backwards, edge i runs from walk.from[i + 1].
        const std::size_t i = turn ? n - 1 - k : k;
        const VertexId v = turn ? walk.from[(i + 1) % n] : walk.from[i];
        out.vertices.push_back(v);
        out.along.push_back(m.positions[v]);
        if (half[i] == mesh::noIndex) {
            out.normals.push_back(out.normals.empty() ? Point(Point::Zero()) : out.normals.back());
            continue;
        }
        const Point normal = mesh::areaVector(m, mesh::triangleOf(half[i])).normalized();
        out.simple &= fromVertex(m, half[i]) == v;
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

mesh::Outcome<Patch> tautOver(const check::Surveyed& s, const Loop& loop, mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    const auto isEdge = [&](VertexId a, VertexId b) { return mesh::linked(m, s.corners(), a, b); };
    auto taut = tautPatch(m.positions, loop, {isEdge}, progress);
    if (!taut || !taut->triangles.empty()) return taut;
    const auto free = [](VertexId, VertexId) { return false; };
    taut = tautPatch(m.positions, loop, {free}, progress);
    if (!taut || !taut->triangles.empty()) return taut;
    return fanPatch(m.positions, loop);
}

mesh::Outcome<Patch> spanning(const check::Surveyed& s, const Loop& loop, const RimShape& shape,
                              mesh::Progress& progress) {
    if (shape.flat() && loop.vertices.size() > 3) {
        Patch flat = flatPatch(s.mesh().positions, std::array{loop}, shape.area);
        if (!flat.triangles.empty()) return flat;
    }
    return tautOver(s, loop, progress);
}

// Where the surface can be carried on; no triangle elsewhere.
mesh::Outcome<Patch> carriedOn(const check::Surveyed& s, const Loop& loop, const RimShape& shape,
                               mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    if (meetsFaces(loop)) {
        Patch sharp = sharpPatch(m.positions, loop);
        if (!sharp.triangles.empty()) return sharp;
        auto creased = creasedPatch({m, s.corners()}, loop, progress);
        if (!creased || !creased->triangles.empty()) return creased;
    }
    if (chosenWay(shape, loop.vertices.size()).way != FillWay::Smooth) return Patch();
    const auto taut = tautOver(s, loop, progress);
    if (!taut) return taut;
    return smoothPatch({m, s.corners()}, loop, *taut, progress);
}

// Some triangle of the patch meets one of the surface.
bool meetsSurface(const check::Surveyed& s, const Patch& patch) {
    const Mesh& m = s.mesh();
    Mesh two;
    two.triangles = {{0, 1, 2}, {}};
    bool meets = false;
    for (const mesh::Triangle& t : patch.triangles) {
        const auto corners = cornersOf(patch, t, m.positions);
        two.positions.assign(corners.begin(), corners.end());
        if (check::isDegenerate(two, 0)) return true;
        s.tree().overlapping(mesh::boxOf(two, 0), [&](mesh::TriangleId o) {
            if (meets || check::isDegenerate(m, o)) return;
            two.positions.resize(3);
            for (unsigned k = 0; k < 3; ++k) {
                const VertexId v = m.triangles[o][k];
                const auto shared = std::find(t.begin(), t.end(), v);
                if (shared == t.end()) two.positions.push_back(m.positions[v]);
                two.triangles[1][k] = shared == t.end() ? static_cast<VertexId>(two.positions.size() - 1)
                                                        : static_cast<VertexId>(shared - t.begin());
            }
            meets = mesh::sameCorners(two.triangles[0], two.triangles[1]) || check::trianglesIntersect(two, 0, 1);
        });
        if (meets) return true;
    }
    return false;
}

}  // namespace

mesh::Outcome<std::vector<Candidate>> candidatePatches(const check::Surveyed& s, mesh::Precision precision,
                                                       mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    const std::vector<Walk> walks = OpenWalks(m, s.edges()).run();
    const double partSize = mesh::boxOf(m).diagonal();
    std::vector<Candidate> candidates(walks.size());
    std::atomic<bool> stop = false;
    std::atomic<std::size_t> done = 0;
    static_cast<void>(s.corners());
    const mesh::Groups& shells = s.shells();
    const std::vector<measure::ShellMass> masses = measure::massOfShells(m, shells);
    mesh::parallelFor(walks.size(), 1, [&](std::size_t i) {
        if (stop) return;
        const Bordered border = bordered(m, s.edges(), walks[i]);
        Candidate& c = candidates[i];
        c.shape = shapeOf(border.along, border.normals);
        c.edges = walks[i].edge.size();
        c.meant = whyMeant(c.edges, c.shape, partSize);
        const auto open = std::find_if(walks[i].edge.begin(), walks[i].edge.end(),
                                       [&](EdgeId e) { return e != mesh::noIndex && s.edges().degree(e) == 1; });
        if (open != walks[i].edge.end()) c.beside = mesh::triangleOf(s.edges().around(*open)[0]);
        mesh::SilentProgress silent;
        const Loop loop = loopFor(border);
        if (auto patch = spanning(s, loop, c.shape, silent)) c.patch = std::move(*patch);
        c.least = areaOf(c.patch, m.positions);
        // Only a surface that is much larger than its opening, and whose triangles agree along the rim, says how it
        // goes on: a sheet does not.
        if (border.simple && !c.patch.triangles.empty() &&
            tolerance::surfaceToOpening * c.least <= masses[shells.of[c.beside]].area)
            if (auto patch = carriedOn(s, loop, c.shape, silent);
                patch && !patch->triangles.empty() && !meetsSurface(s, *patch))
                c.patch = std::move(*patch);
        for (Point& p : c.patch.added) p = mesh::rounded(precision, p);
        if (!progress.report(static_cast<double>(++done) / static_cast<double>(walks.size()))) stop = true;
    });
    if (stop) return mesh::cancelled();
    // A rim over which no triangle fits bounds nothing.
    std::erase_if(candidates, [](const Candidate& c) { return c.patch.triangles.empty(); });
    if (!progress.report(1)) return mesh::cancelled();
    return candidates;
}

}  // namespace zither::holes
