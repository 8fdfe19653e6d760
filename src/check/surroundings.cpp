#include "check/surroundings.h"

#include "mesh/parallel.h"

namespace zither::check {

Surroundings::Surroundings(const Mesh& m)
    : mesh(m), edges(m), shells(mesh::shellsOf(m, edges)), degenerate(m.triangles.size(), 0) {
    mesh::parallelFor(m.triangles.size(), 4096, [&](std::size_t i) {
        const auto t = static_cast<TriangleId>(i);
        degenerate[t] = isDegenerate(m, t);
    });
}

}  // namespace zither::check
