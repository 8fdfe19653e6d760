// Turns: a cutting around what is marked, patches in it, what they meet marked for the next turn.
#include "fit/spots.h"

#include <algorithm>
#include <limits>
#include <map>

#include "check/crossing_pairs.h"
#include "check/surveyed.h"
#include "check/tied_vertices.h"
#include "fit/fit_tolerances.h"
#include "holes/fill.h"
#include "measure/stray.h"
#include "mesh/disjoint_sets.h"
#include "mesh/edges.h"
#include "mesh/parallel.h"
#include "mesh/pick.h"
#include "space/triangle_tree.h"

namespace zither::fit {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

// Part of the surface, with the numbers that its vertices and triangles have in the whole; those of patches
// beyond the end or noIndex.
struct Cutting {
    Mesh mesh;
    std::vector<VertexId> vertexOf;
    std::vector<TriangleId> triangleOf;
};

class Patching {
public:
    Patching(const Mesh& m, std::vector<std::uint8_t> marked, double tolerance)
        : given_(m), tolerance_(tolerance), tree_(m), m_(m), marked_(std::move(marked)), alive_(m.triangles.size(), 1) {
        for (TriangleId t = 0; t < alive_.size(); ++t) {
            out_.sourceOf.push_back(t);
            area_ += 0.5 * mesh::areaVector(m, t).norm();
        }
    }

    mesh::Outcome<Spots> run(mesh::Progress& progress) {
        constexpr int mostTurns = 12;
        constexpr int mostRings = 3;
        int rings = 0;
        std::size_t fewest = std::numeric_limits<std::size_t>::max();
        for (int turn = 0; turn < mostTurns && anyMarked(); ++turn) {
            auto met = patch(progress);
            if (!met) return mesh::errorOf(met);
            // Where that gained little, the rims themselves are in the way.
            if (10 * *met > 9 * fewest && ++rings > mostRings) break;
            fewest = std::min(fewest, *met);
            for (int ring = 0; ring < rings; ++ring) grow(cutting(), marked_);
            if (!progress.report(static_cast<double>(turn + 1) / mostTurns)) return mesh::cancelled();
        }
        out_.mesh = mesh::keepTriangles(m_, alive_);
        leave(marked_);
        std::size_t kept = 0;
        for (TriangleId t = 0; t < alive_.size(); ++t) {
            if (!alive_[t]) continue;
            if (left_[t]) out_.left.push_back(kept);
            out_.sourceOf[kept++] = out_.sourceOf[t];
        }
        out_.sourceOf.resize(kept);
        return std::move(out_);
    }

private:
    [[nodiscard]] bool anyMarked() const { return std::find(marked_.begin(), marked_.end(), 1) != marked_.end(); }

    void leave(const std::vector<std::uint8_t>& marked) {
        left_.resize(marked.size(), 0);
        for (TriangleId t = 0; t < marked.size(); ++t) left_[t] |= marked[t];
    }

    // Vertices of marked triangles that hang together.
    [[nodiscard]] mesh::DisjointSets spots() const {
        mesh::DisjointSets together(m_.positions.size());
        for (TriangleId t = 0; t < marked_.size(); ++t)
            if (marked_[t])
                for (const unsigned k : {1U, 2U}) together.join(m_.triangles[t][0], m_.triangles[t][k]);
        return together;
    }

    // All that lies in the boxes around spots, and a little farther than what is compared.
    [[nodiscard]] Cutting cutting() const {
        mesh::DisjointSets together = spots();
        std::map<std::uint32_t, mesh::Box> boxes;
        for (TriangleId t = 0; t < marked_.size(); ++t)
            if (marked_[t]) boxes[together.find(m_.triangles[t][0])].add(mesh::boxOf(m_, t));
        std::vector<std::uint8_t> inside(m_.triangles.size(), 0);
        for (auto& [root, box] : boxes) {
            box = box.widened(1.1 * tolerance_);
            tree_.overlapping(box, [&](TriangleId t) { inside[t] = alive_[t]; });
            for (auto t = static_cast<TriangleId>(given_.triangles.size()); t < inside.size(); ++t)
                if (alive_[t] && box.overlaps(mesh::boxOf(m_, t))) inside[t] = 1;
        }
        Cutting part{mesh::keepTriangles(m_, inside), {}, {}};
        const std::vector<std::uint8_t> used = mesh::cornersOf(m_, inside);
        for (VertexId v = 0; v < used.size(); ++v)
            if (used[v]) part.vertexOf.push_back(v);
        for (TriangleId t = 0; t < inside.size(); ++t)
            if (inside[t]) part.triangleOf.push_back(t);
        return part;
    }

    // The flags, one for each triangle of the whole, of those that are in the cutting.
    [[nodiscard]] static std::vector<std::uint8_t> within(const Cutting& part, const std::vector<std::uint8_t>& flags) {
        std::vector<std::uint8_t> inside;
        for (const TriangleId t : part.triangleOf) inside.push_back(flags[t]);
        return inside;
    }

    // What is flagged grows by a ring of the cutting.
    static void grow(const Cutting& part, std::vector<std::uint8_t>& flags) {
        std::vector<std::uint8_t> inside = within(part, flags);
        mesh::growByRing(part.mesh, inside);
        for (TriangleId t = 0; t < inside.size(); ++t) flags[part.triangleOf[t]] = inside[t];
    }

    // Marked triangles replaced by patches. How many triangles meet others then: these are marked now.
    mesh::Outcome<std::size_t> patch(mesh::Progress& progress) {
        constexpr int mostRings = 5;
        for (int ring = 0; anyMarked(); ++ring) {
            const Cutting before = cutting();
            std::vector<holes::FilledHole> filled;
            auto after = closed(before, filled, progress);
            if (!after) return mesh::errorOf(after);
            const std::vector<VertexId> open = openAfter(before, *after);
            if (!open.empty() || spareStrays(before, *after)) {
                if (ring == mostRings || !growAt(before, open)) {
                    leave(marked_);
                    marked_.assign(marked_.size(), 0);
                }
                continue;
            }
            return take(before, *after, filled, progress);
        }
        return 0;
    }

    mesh::Outcome<Cutting> closed(const Cutting& before, std::vector<holes::FilledHole>& filled,
                                  mesh::Progress& progress) const {
        const std::vector<std::uint8_t> marks = within(before, marked_);
        mesh::PartOfProgress still(progress, 0, 0);
        auto cut = holes::cutOut(before.mesh, marks, {.way = holes::FillWay::Taut, .bends = false}, still);
        if (!cut) return mesh::errorOf(cut);
        filled = std::move(cut->filled);
        Cutting after;
        std::vector<std::uint8_t> stays;
        stays.reserve(marks.size());
        for (const std::uint8_t gone : marks) stays.push_back(!gone);
        const std::vector<std::uint8_t> used = mesh::cornersOf(before.mesh, stays);
        for (TriangleId t = 0; t < stays.size(); ++t)
            if (stays[t]) after.triangleOf.push_back(before.triangleOf[t]);
        for (VertexId v = 0; v < used.size(); ++v)
            if (used[v]) after.vertexOf.push_back(before.vertexOf[v]);
        after.mesh = std::move(cut->mesh);
        // Some patches have vertices of their own.
        for (std::size_t made = 0; after.vertexOf.size() < after.mesh.positions.size(); ++made)
            after.vertexOf.push_back(m_.positions.size() + made);
        after.triangleOf.resize(after.mesh.triangles.size(), mesh::noIndex);
        return after;
    }

    // Vertices (of the whole) at edges of an odd number of triangles that were none, or had an even number, before.
    [[nodiscard]] static std::vector<VertexId> openAfter(const Cutting& before, const Cutting& after) {
        const auto odd = [](const Cutting& part) {
            std::vector<std::pair<VertexId, VertexId>> list;
            const mesh::Edges edges(part.mesh);
            for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
                if (edges.degree(e) % 2 == 0) continue;
                const mesh::HalfEdge h = edges.around(e).front();
                list.push_back(std::minmax(
                    {part.vertexOf[mesh::fromVertex(part.mesh, h)], part.vertexOf[mesh::toVertex(part.mesh, h)]}));
            }
            std::sort(list.begin(), list.end());
            return list;
        };
        const auto was = odd(before);
        std::vector<VertexId> open;
        for (const auto& edge : odd(after)) {
            if (std::binary_search(was.begin(), was.end(), edge)) continue;
            open.push_back(edge.first);
            open.push_back(edge.second);
        }
        return open;
    }

    // Spots that reach one of the vertices grow by a ring. Whether any did, or there was nothing to grow for.
    bool growAt(const Cutting& part, const std::vector<VertexId>& open) {
        if (open.empty()) return true;
        mesh::DisjointSets together = spots();
        std::vector<std::uint8_t> grows(m_.positions.size(), 0);
        for (const VertexId v : open)
            if (v < grows.size()) grows[together.find(v)] = 1;
        std::vector<std::uint8_t> more(marked_.size(), 0);
        for (TriangleId t = 0; t < marked_.size(); ++t)
            more[t] = marked_[t] && grows[together.find(m_.triangles[t][0])];
        grow(part, more);
        bool grown = false;
        for (TriangleId t = 0; t < marked_.size(); ++t) {
            grown |= more[t] && !marked_[t];
            marked_[t] |= more[t];
        }
        return grown;
    }

    // Of each triangle that is asked about, how much of it does not lie near the other surface; of others 0.
    template <class Asked>
    [[nodiscard]] std::vector<double> strayAreas(const Mesh& m, const Asked& asked, const Mesh& other) const {
        const space::TriangleTree tree(other);
        std::vector<double> areas(m.triangles.size(), 0);
        mesh::parallelFor(areas.size(), 64, [&](std::size_t i) {
            const auto t = static_cast<TriangleId>(i);
            if (asked(t)) areas[i] = measure::strayArea(m, t, tree, tolerance_, true);
        });
        return areas;
    }

    // Unmarks spots whose patches do not lie near what they replace, or the other way round: what can be seen would be
    // lost, or something added. Whether there was such.
    bool spareStrays(const Cutting& before, const Cutting& after) {
        mesh::DisjointSets together = spots();
        const std::vector<std::uint8_t> beside = mesh::cornersOf(m_, marked_);
        std::map<std::uint32_t, double> stray;  // of each spot: area
        const std::vector<double> lost = strayAreas(
            before.mesh, [&](TriangleId t) { return marked_[before.triangleOf[t]] != 0; }, after.mesh);
        for (TriangleId t = 0; t < lost.size(); ++t)
            if (marked_[before.triangleOf[t]]) stray[together.find(m_.triangles[before.triangleOf[t]][0])] += lost[t];
        const std::vector<double> added = strayAreas(
            after.mesh, [&](TriangleId t) { return after.triangleOf[t] == mesh::noIndex; }, before.mesh);
        for (TriangleId t = 0; t < added.size(); ++t) {
            if (after.triangleOf[t] != mesh::noIndex) continue;
            for (const VertexId v : after.mesh.triangles[t]) {
                if (after.vertexOf[v] >= beside.size() || !beside[after.vertexOf[v]]) continue;
                stray[together.find(after.vertexOf[v])] += added[t];
                break;
            }
        }
        // The least first, as long as all together are little enough.
        std::vector<double> areas;
        areas.reserve(stray.size());
        for (const auto& [root, area] : stray) areas.push_back(area);
        std::sort(areas.begin(), areas.end());
        double sum = strays_;
        double allowed = 0;
        for (const double area : areas) {
            if (sum + area > tolerance::straySum * area_ || area > tolerance::strayShare * area_) break;
            sum += area;
            allowed = area;
        }
        std::vector<std::uint8_t> spared(marked_.size(), 0);
        for (TriangleId t = 0; t < marked_.size(); ++t) {
            if (!marked_[t] || stray[together.find(m_.triangles[t][0])] <= allowed) continue;
            marked_[t] = 0;
            spared[t] = 1;
        }
        leave(spared);
        if (std::find(spared.begin(), spared.end(), 1) != spared.end()) return true;
        strays_ = sum;
        return false;
    }

    mesh::Outcome<std::size_t> take(const Cutting& before, const Cutting& after,
                                    const std::vector<holes::FilledHole>& filled, mesh::Progress& progress) {
        for (const TriangleId t : before.triangleOf)
            if (marked_[t]) alive_[t] = 0;
        marked_.assign(marked_.size(), 0);
        for (VertexId v = 0; v < after.vertexOf.size(); ++v)
            if (after.vertexOf[v] == m_.positions.size()) m_.positions.push_back(after.mesh.positions[v]);
        std::vector<TriangleId> whole = after.triangleOf;
        std::vector<std::uint8_t> fresh(whole.size(), 0);
        std::vector<std::uint8_t> flat(whole.size(), 0);
        for (TriangleId t = 0; t < whole.size(); ++t) {
            if (whole[t] != mesh::noIndex) continue;
            const mesh::Triangle& v = after.mesh.triangles[t];
            whole[t] = static_cast<TriangleId>(m_.triangles.size());
            m_.triangles.push_back({after.vertexOf[v[0]], after.vertexOf[v[1]], after.vertexOf[v[2]]});
            if (!m_.regions.empty()) m_.regions.push_back(after.mesh.regions[t]);
            out_.sourceOf.push_back(mesh::noIndex);
            alive_.push_back(1);
            fresh[t] = 1;
            flat[t] = check::isDegenerate(after.mesh, t);
            marked_.push_back(flat[t]);
        }
        for (const holes::FilledHole& hole : filled) {
            out_.patched.push_back(hole.position);
            out_.largestPatch = std::max(out_.largestPatch, hole.size);
        }
        mesh::PartOfProgress still(progress, 0, 0);
        auto pairs = check::crossingPairs(space::TriangleTree(after.mesh), still, {.suspects = fresh, .leftOut = flat});
        if (!pairs) return mesh::errorOf(pairs);
        for (const auto& [a, b] : *pairs) marked_[whole[a]] = marked_[whole[b]] = 1;
        markTouching(after.mesh, fresh, whole);
        return static_cast<std::size_t>(std::count(marked_.begin(), marked_.end(), 1));
    }

    // Where a patch makes the surface touch itself.
    void markTouching(const Mesh& m, const std::vector<std::uint8_t>& fresh, const std::vector<TriangleId>& whole) {
        const std::vector<std::uint8_t> ofPatch = mesh::cornersOf(m, fresh);
        const check::Surveyed surveyed(m);
        const mesh::Edges& edges = surveyed.edges();
        for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
            if (edges.degree(e) < 3) continue;
            const mesh::HalfEdge h = edges.around(e).front();
            const VertexId a = mesh::fromVertex(m, h);
            const VertexId b = mesh::toVertex(m, h);
            if (!ofPatch[a] || !ofPatch[b]) continue;
            for (const mesh::HalfEdge other : edges.around(e)) marked_[whole[mesh::triangleOf(other)]] = 1;
        }
        std::vector<std::uint8_t> touches(m.positions.size(), 0);
        for (const VertexId v : check::tiedVertices(surveyed)) touches[v] = ofPatch[v];
        for (TriangleId t = 0; t < whole.size(); ++t)
            for (const VertexId v : m.triangles[t])
                if (touches[v]) marked_[whole[t]] = 1;
    }

    const Mesh& given_;
    double tolerance_;
    double area_ = 0;
    double strays_ = 0;         // area of what patches lost and added so far
    space::TriangleTree tree_;  // of what came in
    Mesh m_;                    // triangles are only added
    std::vector<std::uint8_t> marked_;
    std::vector<std::uint8_t> alive_;
    std::vector<std::uint8_t> left_;  // it was marked, and stayed
    Spots out_;
};

}  // namespace

mesh::Outcome<Spots> patchSpots(const Mesh& m, std::vector<std::uint8_t> marked, double tolerance,
                                mesh::Progress& progress) {
    return Patching(m, std::move(marked), tolerance).run(progress);
}

}  // namespace zither::fit
