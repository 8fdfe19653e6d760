// A surface whose triangles know what they came from.
#include "mesh/traced.h"

#include <numeric>
#include <utility>

namespace zither::mesh {

Traced Traced::all(Mesh m) {
    Traced traced{std::move(m), {}};
    traced.sourceOf.resize(traced.mesh.triangles.size());
    std::iota(traced.sourceOf.begin(), traced.sourceOf.end(), 0U);
    return traced;
}

void Traced::keep(const std::vector<std::uint8_t>& flags) {
    std::size_t kept = 0;
    for (TriangleId t = 0; t < flags.size(); ++t)
        if (flags[t]) sourceOf[kept++] = sourceOf[t];
    sourceOf.resize(kept);
    mesh = keepTriangles(mesh, flags);
    givenVertex.clear();
}

void Traced::append(const Traced& other) {
    appendPart(mesh, other.mesh);
    sourceOf.insert(sourceOf.end(), other.sourceOf.begin(), other.sourceOf.end());
    givenVertex.clear();
}

void Traced::trace(std::span<const TriangleId> before) {
    for (TriangleId& t : sourceOf)
        if (t != noIndex) t = before[t];
}

void Traced::becomes(Traced&& next) {
    next.trace(sourceOf);
    mesh = std::move(next.mesh);
    sourceOf = std::move(next.sourceOf);
    givenVertex.clear();
}

}  // namespace zither::mesh
