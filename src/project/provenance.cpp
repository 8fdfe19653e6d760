#include "project/provenance.h"

#include <algorithm>

#include "measure/mass.h"

namespace zither::project {

std::vector<std::uint32_t> firstStopWith(const mesh::Mesh& m,
                                         std::span<const std::shared_ptr<const mesh::Mesh>> stops) {
    std::vector<std::uint32_t> first(m.triangles.size(), static_cast<std::uint32_t>(stops.size()));
    // Most come from the import: every later stop is asked for the few that are left.
    mesh::Mesh left = m;
    std::vector<mesh::TriangleId> numberOf(m.triangles.size());
    for (mesh::TriangleId t = 0; t < numberOf.size(); ++t) numberOf[t] = t;
    for (std::uint32_t s = 0; s < stops.size() && !left.triangles.empty(); ++s) {
        const measure::Kept kept = measure::keptOf(*stops[s], left);
        std::vector<std::uint8_t> keep(left.triangles.size());
        std::vector<mesh::TriangleId> next;
        for (mesh::TriangleId t = 0; t < keep.size(); ++t) {
            keep[t] = kept.in[t] == 0;
            if (keep[t])
                next.push_back(numberOf[t]);
            else
                first[numberOf[t]] = s;
        }
        left = mesh::keepTriangles(left, keep);
        numberOf = std::move(next);
    }
    return first;
}

std::string_view natureOf(std::string_view step) {
    constexpr std::string_view moving[] = {"stitch", "resolve", "settle", "move-vertex"};
    constexpr std::string_view cutting[] = {"fuse",     "subtract",      "intersect", "refine-slivers",
                                            "decimate", "collapse-edge", "swap-edge"};
    if (std::find(std::begin(moving), std::end(moving), step) != std::end(moving)) return "moved";
    if (std::find(std::begin(cutting), std::end(cutting), step) != std::end(cutting)) return "cut";
    return "new";
}

}  // namespace zither::project
