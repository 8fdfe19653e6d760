// Patches on trial: each is put behind the surface and tested exactly against it, against the patches placed before it,
// and against itself.
#pragma once

#include <memory>
#include <set>
#include <span>
#include <unordered_set>
#include <vector>

#include "check/surveyed.h"
#include "holes/patches.h"
#include "holes/rims.h"
#include "mesh/edges.h"
#include "mesh/mesh.h"
#include "mesh/precision.h"
#include "space/triangle_tree.h"

namespace zither::holes {

// Keeps a reference to the surface, which must outlive it. One thread at a time.
class PatchTrials {
public:
    // `precision`: of the coordinates of new vertices.
    PatchTrials(const check::Surveyed& s, mesh::Precision precision);

    struct Trial {
        bool possible = false;              // fits the rims without a degenerate triangle or a non-manifold edge
        std::set<mesh::Triangle> crossing;  // its triangles (sorted corners) that cross something
    };
    // `flat`: the patch is a triangulation of its view and cannot cross itself.
    [[nodiscard]] Trial test(const Patch& patch, std::span<const Rim* const> rims, bool flat);
    // Puts it into the surface for good.
    void place(const Patch& patch, std::span<const Rim* const> rims);

    // An edge of the surface, or of a patch that was placed.
    [[nodiscard]] bool isEdge(mesh::VertexId a, mesh::VertexId b) const;
    // The surface with the patches placed; nothing can be tried afterwards.
    [[nodiscard]] mesh::Mesh take() { return std::move(result_); }

private:
    struct Placed {
        mesh::Box box;
        std::unique_ptr<space::TriangleTree> tree;
    };

    void attach(const Patch& patch, mesh::TriangleId beside);
    void detach();
    [[nodiscard]] bool fits(std::span<const Rim* const> rims) const;
    void findCrossings(Trial& trial, bool flat) const;

    const mesh::Mesh& mesh_;
    const mesh::Corners& corners_;
    const space::TriangleTree& tree_;
    mesh::Precision precision_;
    mesh::Mesh result_;
    std::unordered_set<std::uint64_t> added_;  // edges of the patches
    std::vector<Placed> placed_;
    std::size_t firstTriangle_ = 0;  // of the patch on trial
    std::size_t firstVertex_ = 0;
};

}  // namespace zither::holes
