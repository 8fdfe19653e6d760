// Pieces of surface grown around seeds; their genus tells of a handle, a tree and a cotree of its loop.
#include "measure/tunnels.h"

#include <algorithm>
#include <cmath>
#include <set>
#include <unordered_map>

#include "measure/measure_tolerances.h"
#include "mesh/disjoint_sets.h"
#include "mesh/shortest_ways.h"
#include "space/cell_grid.h"

namespace zither::measure {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::noEdge;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

// Along edges, as far as a radius.
mesh::ShortestWays waysFrom(const Mesh& m, const mesh::Corners& corners, VertexId start, double radius) {
    const mesh::ShortestWays::Start from{start};
    return {m.positions.size(), std::span(&from, 1),
            [&](VertexId v, double away, std::vector<mesh::ShortestWays::Leg>& legs) {
                for (const HalfEdge h : corners.at(v))
                    for (const VertexId n : {toVertex(m, h), oppositeVertex(m, h)})
                        if (const double length = (m.positions[v] - m.positions[n]).norm(); away + length <= radius)
                            legs.push_back({n, length});
            }};
}

// Surface along edges about a vertex.
class Piece {
public:
    Piece(const Mesh& m, const mesh::Edges& edges, const mesh::Corners& corners, VertexId start, double radius)
        : m_(m), edges_(edges), start_(start), ways_(waysFrom(m, corners, start, radius)) {
        gather(corners);
    }

    // False where the piece is cut off by open or non-manifold edges, or holds no handle.
    [[nodiscard]] bool hasHandle() const { return whole_ && genus_ > 0; }

    // The shortest of the loops through the start that do not part the piece; empty where there is none.
    [[nodiscard]] std::vector<VertexId> shortestLoop(double& length) const {
        // Edges in neither the tree of shortest ways nor the tree of faces beside it, which is grown over the edges
        // that make the longest loops, are one a generator (Erickson & Whittlesey 2005).
        struct Rung {
            double loop;
            HalfEdge h;
        };
        std::vector<Rung> rungs;
        std::unordered_map<TriangleId, std::uint32_t> face;
        for (std::uint32_t i = 0; i < triangles_.size(); ++i) face[triangles_[i]] = i;
        // All that is outside the piece is one face for each rim of the piece.
        mesh::DisjointSets cotree(triangles_.size() + rimCount_);
        for (TriangleId t : triangles_)
            for (HalfEdge h = 3 * t; h < 3 * t + 3; ++h) {
                const HalfEdge o = edges_.twin(h);
                const bool inner = o != noEdge && face.contains(mesh::triangleOf(o));
                if (inner && o < h) continue;
                const VertexId a = fromVertex(m_, h);
                const VertexId b = toVertex(m_, h);
                if (isTreeEdge(a, b)) continue;
                rungs.push_back({ways_.at(a)->away + ways_.at(b)->away + lengthOf(a, b), h});
            }
        std::sort(rungs.begin(), rungs.end(),
                  [](const Rung& a, const Rung& b) { return a.loop != b.loop ? a.loop > b.loop : a.h < b.h; });
        HalfEdge best = noEdge;
        length = std::numeric_limits<double>::infinity();
        for (const Rung& rung : rungs) {
            const HalfEdge o = edges_.twin(rung.h);
            const auto other = o == noEdge ? face.end() : face.find(mesh::triangleOf(o));
            const std::uint32_t beyond =
                other != face.end() ? other->second : static_cast<std::uint32_t>(triangles_.size()) + rimOf_.at(rung.h);
            if (cotree.join(face.at(mesh::triangleOf(rung.h)), beyond)) continue;
            if (rung.loop < length) {
                length = rung.loop;
                best = rung.h;
            }
        }
        if (best == noEdge) return {};
        return loopOver(best, length);
    }

private:
    [[nodiscard]] double lengthOf(VertexId a, VertexId b) const { return (m_.positions[a] - m_.positions[b]).norm(); }
    [[nodiscard]] bool isTreeEdge(VertexId a, VertexId b) const {
        return ways_.at(a)->from == b || ways_.at(b)->from == a;
    }

    // The triangles all of whose corners were reached, as far as they hang together about the start; their genus.
    void gather(const mesh::Corners& corners) {
        std::unordered_map<TriangleId, std::uint32_t> number;
        const auto inside = [&](TriangleId t) {
            return std::all_of(m_.triangles[t].begin(), m_.triangles[t].end(),
                               [&](VertexId v) { return ways_.at(v) != nullptr; });
        };
        for (HalfEdge h : corners.at(start_))
            if (inside(mesh::triangleOf(h))) {
                triangles_.push_back(mesh::triangleOf(h));
                number[triangles_.back()] = 0;
                break;
            }
        for (std::size_t i = 0; i < triangles_.size(); ++i)
            for (HalfEdge h = 3 * triangles_[i]; h < 3 * triangles_[i] + 3; ++h) {
                const HalfEdge o = edges_.twin(h);
                if (o == noEdge || mesh::runsAlong(m_, h, o)) {
                    whole_ = false;
                    return;
                }
                const TriangleId t = mesh::triangleOf(o);
                if (number.contains(t) || !inside(t)) continue;
                number[t] = static_cast<std::uint32_t>(triangles_.size());
                triangles_.push_back(t);
            }
        // Corners that hang together across inner edges are one vertex: a piece that touches itself at a vertex counts
        // as if it did not.
        mesh::DisjointSets sectors(3 * triangles_.size());
        std::size_t halfEdges = 0;
        std::size_t rimEdges = 0;
        const auto slot = [&](HalfEdge h) { return 3 * number.at(mesh::triangleOf(h)) + mesh::cornerOf(h); };
        for (TriangleId t : triangles_)
            for (HalfEdge h = 3 * t; h < 3 * t + 3; ++h) {
                ++halfEdges;
                const HalfEdge o = edges_.twin(h);
                if (!number.contains(mesh::triangleOf(o))) {
                    ++rimEdges;
                    continue;
                }
                sectors.join(slot(h), slot(mesh::nextInTriangle(o)));
                sectors.join(slot(mesh::nextInTriangle(h)), slot(o));
            }
        std::set<std::uint32_t> vertices;
        for (std::uint32_t c = 0; c < 3 * triangles_.size(); ++c) vertices.insert(sectors.find(c));
        countRims(number);
        const auto euler = static_cast<std::ptrdiff_t>(vertices.size()) -
                           static_cast<std::ptrdiff_t>((halfEdges + rimEdges) / 2) +
                           static_cast<std::ptrdiff_t>(triangles_.size());
        genus_ = (2 - static_cast<std::ptrdiff_t>(rimCount_) - euler) / 2;
    }

    // Follows each rim of the piece around, turning inside the piece from one rim edge to the next.
    void countRims(const std::unordered_map<TriangleId, std::uint32_t>& number) {
        for (TriangleId t : triangles_)
            for (HalfEdge first = 3 * t; first < 3 * t + 3; ++first) {
                if (number.contains(mesh::triangleOf(edges_.twin(first))) || rimOf_.contains(first)) continue;
                for (HalfEdge h = first; rimOf_.emplace(h, rimCount_).second;) {
                    h = mesh::nextInTriangle(h);
                    while (number.contains(mesh::triangleOf(edges_.twin(h)))) h = mesh::nextInTriangle(edges_.twin(h));
                }
                ++rimCount_;
            }
    }

    // Both ways back to where they meet, and the edge between.
    [[nodiscard]] std::vector<VertexId> loopOver(HalfEdge h, double& length) const {
        const auto wayFrom = [&](VertexId v) {
            std::vector<VertexId> way{v};
            while (v != start_) way.push_back(v = ways_.at(v)->from);
            return way;
        };
        std::vector<VertexId> a = wayFrom(fromVertex(m_, h));
        std::vector<VertexId> b = wayFrom(toVertex(m_, h));
        while (a.size() > 1 && b.size() > 1 && a[a.size() - 2] == b[b.size() - 2]) {
            length -= 2 * lengthOf(a.back(), a[a.size() - 2]);
            a.pop_back();
            b.pop_back();
        }
        std::vector<VertexId> loop = a;
        for (std::size_t i = b.size() - 1; i-- > 0;) loop.push_back(b[i]);
        return loop;
    }

    const Mesh& m_;
    const mesh::Edges& edges_;
    VertexId start_;
    mesh::ShortestWays ways_;
    std::vector<TriangleId> triangles_;
    std::unordered_map<HalfEdge, std::uint32_t> rimOf_;
    std::uint32_t rimCount_ = 0;
    std::ptrdiff_t genus_ = 0;
    bool whole_ = true;
};

class TunnelSearch {
public:
    TunnelSearch(const TunnelGround& ground, double longest)
        : m_(ground.surface),
          edges_(ground.edges),
          corners_(ground.corners),
          chosen_(ground.chosen),
          longest_(longest) {}

    // Vertices a quarter of the length apart, of shells that have a handle at all.
    [[nodiscard]] std::vector<VertexId> seeds() const {
        const mesh::Groups shells = mesh::shellsOf(m_, edges_);
        std::vector<std::ptrdiff_t> euler(shells.count, 0);
        std::vector<std::uint32_t> shellOf(m_.positions.size(), noEdge);
        std::vector<std::uint8_t> open(shells.count, 0);
        for (TriangleId t = 0; t < m_.triangles.size(); ++t) {
            if (shells.of[t] == noEdge) continue;
            ++euler[shells.of[t]];
            for (VertexId v : m_.triangles[t]) {
                if (shellOf[v] != shells.of[t]) ++euler[shells.of[t]];
                shellOf[v] = shells.of[t];
            }
        }
        for (mesh::EdgeId e = 0; e < edges_.count(); ++e) {
            const std::uint32_t shell = shells.of[mesh::triangleOf(edges_.around(e)[0])];
            --euler[shell];
            open[shell] |= edges_.degree(e) != 2;
        }
        const double apart = 0.25 * longest_;
        space::CellGrid grid(apart);
        std::vector<VertexId> seeds;
        std::vector<std::uint8_t> use(m_.positions.size(), 0);
        for (TriangleId t = 0; t < m_.triangles.size(); ++t)
            if (shells.of[t] != noEdge && chosen_[t] && (open[shells.of[t]] || euler[shells.of[t]] < 2))
                for (VertexId v : m_.triangles[t]) use[v] = 1;
        for (VertexId v = 0; v < use.size(); ++v) {
            if (!use[v]) continue;
            bool near = false;
            grid.near(space::around(m_.positions[v], apart),
                      [&](VertexId s) { near = near || (m_.positions[s] - m_.positions[v]).norm() < apart; });
            if (near) continue;
            grid.add(v, m_.positions[v]);
            seeds.push_back(v);
        }
        return seeds;
    }

    // A shortest loop about a handle near the seed; empty where there is none that is short enough.
    [[nodiscard]] std::vector<VertexId> loopNear(VertexId seed, double& length) const {
        const double radius = 0.75 * longest_;
        const Piece piece(m_, edges_, corners_, seed, radius);
        if (!piece.hasHandle()) return {};
        std::vector<VertexId> best = piece.shortestLoop(length);
        // A loop through the seed makes a detour; one through its own vertices less so.
        for (int round = 0; round < 2 && !best.empty(); ++round) {
            const std::vector<VertexId> from = best;
            const std::size_t stride = std::max<std::size_t>(1, from.size() / 8);
            for (std::size_t i = 0; i < from.size(); i += stride) {
                const Piece other(m_, edges_, corners_, from[i], radius);
                if (!other.hasHandle()) continue;
                double shorter = 0;
                std::vector<VertexId> loop = other.shortestLoop(shorter);
                if (!loop.empty() && shorter < length * (1 - tolerance::shorterLoop)) {
                    length = shorter;
                    best = std::move(loop);
                }
            }
        }
        if (length > longest_) return {};
        return best;
    }

private:
    const Mesh& m_;
    const mesh::Edges& edges_;
    const mesh::Corners& corners_;
    const std::vector<std::uint8_t>& chosen_;
    double longest_;
};

}  // namespace

mesh::Outcome<std::vector<Tunnel>> tunnelsOf(const TunnelGround& ground, double longest,
                                             const std::function<bool(const std::vector<VertexId>&)>& wanted,
                                             mesh::Progress& progress) {
    const TunnelSearch search(ground, longest);
    const std::vector<VertexId> seeds = search.seeds();
    const std::vector<Point>& at = ground.surface.positions;
    std::vector<Tunnel> tunnels;
    for (std::size_t i = 0; i < seeds.size(); ++i) {
        if (!progress.report(static_cast<double>(i) / static_cast<double>(seeds.size()))) return mesh::cancelled();
        if (std::any_of(tunnels.begin(), tunnels.end(), [&](const Tunnel& other) {
                return (at[other.loop.front()] - at[seeds[i]]).norm() < 2 * longest;
            }))
            continue;
        Tunnel tunnel;
        tunnel.loop = search.loopNear(seeds[i], tunnel.length);
        if (tunnel.loop.size() >= 3 && wanted(tunnel.loop)) tunnels.push_back(std::move(tunnel));
    }
    return tunnels;
}

}  // namespace zither::measure
