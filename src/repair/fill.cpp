// Finds the rims of holes, takes them apart into simple loops, and closes those that are small enough.
#include <Eigen/Geometry>
#include <algorithm>
#include <ranges>
#include <set>

#include "mesh/edges.h"
#include "repair/loop_triangulation.h"
#include "repair/repair.h"

namespace zither::repair {
namespace {

using mesh::HalfEdge;
using mesh::noEdge;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

// One simple loop of boundary half-edges: each vertex once, in the direction of the surface's own triangles.
using Rim = std::vector<HalfEdge>;

class RimFinder {
public:
    RimFinder(const Mesh& m, const mesh::Edges& edges) : mesh_(m), edges_(edges), out_(m.positions.size()) {
        for (HalfEdge h = 0; h < 3 * m.triangles.size(); ++h)
            if (isOpen(h)) out_[fromVertex(m, h)].push_back(h);
    }

    // Walks along the rim and cuts off a loop whenever a vertex is met again: rims that touch themselves at a vertex
    // come apart there. Walks that end nowhere (neighbours that face opposite ways) are counted in `notClosed`.
    std::vector<Rim> run(std::size_t& notClosed) {
        std::vector<Rim> rims;
        std::vector<std::uint32_t> placeInWalk(mesh_.positions.size(), noEdge);
        for (HalfEdge start = 0; start < 3 * mesh_.triangles.size(); ++start) {
            if (!isOpen(start) || used_.contains(start)) continue;
            Rim walk;
            for (HalfEdge h = start; h != noEdge; h = nextAt(toVertex(mesh_, h))) {
                used_.insert(h);
                placeInWalk[fromVertex(mesh_, h)] = static_cast<std::uint32_t>(walk.size());
                walk.push_back(h);
                const std::uint32_t met = placeInWalk[toVertex(mesh_, h)];
                if (met == noEdge) continue;
                rims.emplace_back(walk.begin() + met, walk.end());
                for (HalfEdge cut : rims.back()) placeInWalk[fromVertex(mesh_, cut)] = noEdge;
                walk.resize(met);
                if (walk.empty()) break;
            }
            for (HalfEdge left : walk) placeInWalk[fromVertex(mesh_, left)] = noEdge;
            notClosed += !walk.empty();
        }
        return rims;
    }

private:
    [[nodiscard]] bool isOpen(HalfEdge h) const {
        return edges_.edgeOf(h) != noEdge && edges_.degree(edges_.edgeOf(h)) == 1;
    }

    HalfEdge nextAt(VertexId v) {
        for (HalfEdge h : out_[v])
            if (!used_.contains(h)) return h;
        return noEdge;
    }

    const Mesh& mesh_;
    const mesh::Edges& edges_;
    std::vector<std::vector<HalfEdge>> out_;
    std::set<HalfEdge> used_;
};

// Edges of the mesh and of the fills so far.
class EdgeLookup {
public:
    EdgeLookup(const Mesh& m, const mesh::Corners& corners) : mesh_(m), corners_(corners) {}

    [[nodiscard]] bool contains(VertexId a, VertexId b) const {
        const auto at = corners_.at(a);
        const bool inMesh = std::any_of(
            at.begin(), at.end(), [&](HalfEdge h) { return toVertex(mesh_, h) == b || oppositeVertex(mesh_, h) == b; });
        return inMesh || added_.contains(std::minmax(a, b));
    }
    void add(const mesh::Triangle& t) {
        for (unsigned k = 0; k < 3; ++k) added_.insert(std::minmax(t[k], t[(k + 1) % 3]));
    }

private:
    const Mesh& mesh_;
    const mesh::Corners& corners_;
    std::set<std::pair<VertexId, VertexId>> added_;
};

// The rim from the hole's side: new triangles run along it against the surface's own.
Loop loopOf(const Mesh& m, const Rim& rim) {
    Loop loop;
    for (HalfEdge h : rim | std::views::reverse) {
        loop.vertices.push_back(toVertex(m, h));
        const Point n = mesh::areaVector(m, mesh::triangleOf(h));
        loop.rimNormals.push_back(n.norm() > 0 ? Point(n.normalized()) : Point(Point::Zero()));
    }
    return loop;
}

Opening openingOf(const Mesh& m, const Rim& rim) {
    mesh::Box box;
    for (HalfEdge h : rim) box.add(m.positions[fromVertex(m, h)]);
    return {box.centre(), box.diagonal(), rim.size()};
}

class Filling {
public:
    Filling(const Mesh& m, const Pick& pick, const FillOptions& options)
        : mesh_(m), edges_(m), corners_(m), lookup_(m, corners_), chosen_(pick.mask(m)), options_(options) {
        result_.mesh = m;
    }

    Outcome<FillResult> run(Progress& progress) {
        const std::vector<Rim> rims = RimFinder(mesh_, edges_).run(result_.notClosed);
        for (std::size_t i = 0; i < rims.size(); ++i) {
            mesh::PartOfProgress share(progress, static_cast<double>(i) / static_cast<double>(rims.size()),
                                       static_cast<double>(i + 1) / static_cast<double>(rims.size()));
            if (!share.report(0)) return mesh::cancelled();
            if (!std::any_of(rims[i].begin(), rims[i].end(),
                             [&](HalfEdge h) { return chosen_[mesh::triangleOf(h)] != 0; }))
                continue;
            const Opening opening = openingOf(mesh_, rims[i]);
            if (opening.size > options_.maxSize) {
                result_.left.push_back(opening);
                continue;
            }
            if (!close(rims[i], share)) return mesh::cancelled();
            result_.largestFilled = std::max(result_.largestFilled, opening.size);
            ++result_.filled;
        }
        std::sort(result_.left.begin(), result_.left.end(),
                  [](const auto& a, const auto& b) { return a.size > b.size; });
        return std::move(result_);
    }

private:
    // False where cancelled.
    bool close(const Rim& rim, Progress& progress) {
        const Loop loop = loopOf(mesh_, rim);
        const auto isEdge = [&](VertexId a, VertexId b) { return lookup_.contains(a, b); };
        // Two open edges over the same two vertices would be one edge; a simple loop has at least three.
        auto triangles = triangulateLoop(mesh_.positions, loop, isEdge, progress);
        if (!triangles) return false;
        const bool exists = triangles->size() == 1 && triangleExists(triangles->front());
        if (triangles->empty() || exists) *triangles = fanAboutCentre(loop);
        const std::uint32_t region = mesh_.regionOf(mesh::triangleOf(rim.front()));
        for (const mesh::Triangle& t : *triangles) {
            result_.mesh.triangles.push_back(t);
            if (!mesh_.regions.empty()) result_.mesh.regions.push_back(region);
            lookup_.add(t);
        }
        result_.added += triangles->size();
        return true;
    }

    // A lone triangle's rim is a loop of three: closing it with the same three vertices would make a duplicate.
    [[nodiscard]] bool triangleExists(const mesh::Triangle& t) const {
        const auto at = corners_.at(t[0]);
        return std::any_of(at.begin(), at.end(), [&](HalfEdge h) {
            const mesh::Triangle& other = mesh_.triangles[mesh::triangleOf(h)];
            return std::is_permutation(other.begin(), other.end(), t.begin());
        });
    }

    // Where every chord exists already, a new vertex in the middle makes edges that cannot.
    std::vector<mesh::Triangle> fanAboutCentre(const Loop& loop) {
        Point centre = Point::Zero();
        for (VertexId v : loop.vertices) centre += mesh_.positions[v];
        const auto middle = static_cast<VertexId>(result_.mesh.positions.size());
        result_.mesh.positions.push_back(centre / static_cast<double>(loop.vertices.size()));
        std::vector<mesh::Triangle> fan;
        for (std::size_t i = 0; i < loop.vertices.size(); ++i)
            fan.push_back({loop.vertices[i], loop.vertices[(i + 1) % loop.vertices.size()], middle});
        return fan;
    }

    const Mesh& mesh_;
    mesh::Edges edges_;
    mesh::Corners corners_;
    EdgeLookup lookup_;
    std::vector<std::uint8_t> chosen_;
    FillOptions options_;
    FillResult result_;
};

}  // namespace

Outcome<FillResult> fill(const Mesh& m, const Pick& pick, const FillOptions& options, Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    return Filling(m, pick, options).run(progress);
}

}  // namespace zither::repair
