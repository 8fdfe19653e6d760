// The patch is put behind the surface, tested against trees, and taken away again.
#include "holes/patch_trials.h"

#include <algorithm>
#include <atomic>

#include "check/crossing_pairs.h"
#include "mesh/parallel.h"

namespace zither::holes {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

PatchTrials::PatchTrials(const check::Surveyed& s, mesh::Precision precision)
    : mesh_(s.mesh()), corners_(s.corners()), tree_(s.tree()), precision_(precision), result_(s.mesh()) {}

bool PatchTrials::isEdge(VertexId a, VertexId b) const {
    return mesh::linked(mesh_, corners_, a, b) || added_.contains(a < b ? mesh::pairKey(a, b) : mesh::pairKey(b, a));
}

// Puts the patch behind the mesh, in the region of the triangle `beside` it.
void PatchTrials::attach(const Patch& patch, TriangleId beside) {
    firstTriangle_ = result_.triangles.size();
    firstVertex_ = result_.positions.size();
    for (const Point& p : patch.added) result_.positions.push_back(mesh::rounded(precision_, p));
    const std::size_t shift = firstVertex_ - mesh_.positions.size();
    for (mesh::Triangle t : patch.triangles) {
        for (VertexId& v : t)
            if (v >= mesh_.positions.size()) v = v + shift;
        result_.triangles.push_back(t);
    }
    if (!result_.regions.empty()) result_.regions.resize(result_.triangles.size(), mesh_.regionOf(beside));
}

void PatchTrials::detach() {
    result_.triangles.resize(firstTriangle_);
    result_.positions.resize(firstVertex_);
    if (!result_.regions.empty()) result_.regions.resize(firstTriangle_);
}

PatchTrials::Trial PatchTrials::test(const Patch& patch, std::span<const Rim* const> rims, bool flat) {
    attach(patch, mesh::triangleOf(rims.front()->front()));
    Trial trial;
    trial.possible = !patch.triangles.empty() && fits(rims);
    if (trial.possible) findCrossings(trial, flat);
    detach();
    return trial;
}

void PatchTrials::place(const Patch& patch, std::span<const Rim* const> rims) {
    attach(patch, mesh::triangleOf(rims.front()->front()));
    Placed placed;
    std::vector<TriangleId> own;
    for (std::size_t i = firstTriangle_; i < result_.triangles.size(); ++i) {
        const auto t = static_cast<TriangleId>(i);
        own.push_back(t);
        placed.box.add(mesh::boxOf(result_, t));
        for (unsigned k = 0; k < 3; ++k) {
            const auto [a, b] = std::minmax({result_.triangles[t][k], result_.triangles[t][(k + 1) % 3]});
            added_.insert(mesh::pairKey(a, b));
        }
    }
    placed.tree = std::make_unique<space::TriangleTree>(result_, std::move(own));
    placed_.push_back(std::move(placed));
}

// No triangle is degenerate, and inner edges are new ones with two triangles each.
bool PatchTrials::fits(std::span<const Rim* const> rims) const {
    const Mesh& m = result_;
    std::vector<std::uint64_t> rim;
    for (const Rim* r : rims)
        for (HalfEdge h : *r) rim.push_back(mesh::pairKey(toVertex(mesh_, h), fromVertex(mesh_, h)));
    std::vector<std::uint64_t> directed;
    for (std::size_t t = firstTriangle_; t < m.triangles.size(); ++t) {
        if (check::isDegenerate(m, static_cast<TriangleId>(t))) return false;
        for (unsigned k = 0; k < 3; ++k)
            directed.push_back(mesh::pairKey(m.triangles[t][k], m.triangles[t][(k + 1) % 3]));
    }
    std::sort(rim.begin(), rim.end());
    std::sort(directed.begin(), directed.end());
    if (std::adjacent_find(directed.begin(), directed.end()) != directed.end()) return false;
    if (!std::includes(directed.begin(), directed.end(), rim.begin(), rim.end())) return false;
    return std::all_of(directed.begin(), directed.end(), [&](std::uint64_t key) {
        const auto a = static_cast<VertexId>(key >> 32);
        const auto b = static_cast<VertexId>(key);
        if (std::binary_search(rim.begin(), rim.end(), key)) return true;
        if (!std::binary_search(directed.begin(), directed.end(), mesh::pairKey(b, a))) return false;
        return a >= mesh_.positions.size() || b >= mesh_.positions.size() || !isEdge(a, b);
    });
}

void PatchTrials::findCrossings(Trial& trial, bool flat) const {
    const Mesh& m = result_;
    const std::size_t count = m.triangles.size() - firstTriangle_;
    std::vector<TriangleId> own(count);
    for (std::size_t i = 0; i < count; ++i) own[i] = static_cast<TriangleId>(firstTriangle_ + i);
    const space::TriangleTree ownTree(m, flat ? std::vector<TriangleId>() : own);
    std::vector<std::uint8_t> crosses(count, 0);
    std::atomic<bool> doubled = false;
    const auto meets = [&](TriangleId a, TriangleId b) {
        if (check::isDegenerate(m, b)) return false;
        if (mesh::sameCorners(m.triangles[a], m.triangles[b])) {
            doubled = true;
            return true;
        }
        return check::trianglesIntersect(m, a, b);
    };
    mesh::parallelFor(count, 64, [&](std::size_t i) {
        const TriangleId t = own[i];
        const mesh::Box b = mesh::boxOf(m, t);
        bool found = false;
        const auto visit = [&](TriangleId o) { found = found || (o != t && meets(t, o)); };
        tree_.overlapping(b, visit);
        ownTree.overlapping(b, visit);
        for (const Placed& p : placed_)
            if (!found && p.box.overlaps(b)) p.tree->overlapping(b, visit);
        crosses[i] = found;
    });
    for (std::size_t i = 0; i < count; ++i)
        if (crosses[i]) trial.crossing.insert(mesh::sortedCorners(m.triangles[own[i]]));
    if (doubled) trial.possible = false;
}

}  // namespace zither::holes
