// Each stop is asked for what the stops before it did not have.
#include "project/provenance.h"

#include "measure/mass.h"

namespace zither::project {

namespace {

// A stop where the last one of them stands.
std::shared_ptr<const mesh::Mesh> asItStands(std::span<const PastSurface> stops, std::size_t stop) {
    auto surface = stops[stop].mesh;
    for (const PastSurface& later : stops.subspan(stop + 1))
        if (later.motion) surface = std::make_shared<const mesh::Mesh>(mesh::moved(*surface, *later.motion));
    return surface;
}

}  // namespace

std::vector<std::uint32_t> firstStopWith(const mesh::Mesh& m, std::span<const PastSurface> stops) {
    std::vector<std::uint32_t> first(m.triangles.size(), static_cast<std::uint32_t>(stops.size()));
    // Most come from the import: every later stop is asked for the few that are left.
    mesh::Mesh left = m;
    std::vector<mesh::TriangleId> numberOf(m.triangles.size());
    for (mesh::TriangleId t = 0; t < numberOf.size(); ++t) numberOf[t] = t;
    for (std::uint32_t s = 0; s < stops.size() && !left.triangles.empty(); ++s) {
        const measure::Kept kept = measure::keptOf(*asItStands(stops, s), left);
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

}  // namespace zither::project
