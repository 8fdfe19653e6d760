// Full told from empty for a mesh, and what came of it: for tests of the decision and of what is made of it.
#pragma once

#include <string>

#include "measure/loss.h"
#include "enclose/volumes.h"
#include "tests/core/assemblies.h"

namespace zither::tests {

using mesh::TriangleId;
using enclose::Volumes;
using enclose::VolumesOptions;
using Sheets = VolumesOptions::Sheets;

inline Volumes enclosed(const Mesh& m, VolumesOptions options = {}) {
    if (options.sheets == Sheets::Thicken && options.thickness == 0) options.thickness = 0.05;
    auto result = enclose::fullOrEmpty(check::Surveyed(m), options, silent());
    EXPECT_TRUE(result);
    EXPECT_EQ(result.value().sourceOf.size(), result.value().mesh.triangles.size());
    EXPECT_EQ(mesh::validate(result.value().mesh), "");
    return std::move(result.value());
}

inline measure::Loss lossBetween(const Mesh& a, const Mesh& b) {
    const check::Surveyed from(a);
    const check::Surveyed to(b);
    const check::Survey s = surveyed(b);
    auto loss = measure::lossBetween({{from.tree(), from.shells()}, from.rays()}, {to.tree(), to.shells()},
                                     {.facing = s.watertight && s.mass.volume > 0}, silent());
    EXPECT_TRUE(loss);
    return std::move(loss.value());
}

inline void expectSolid(const Volumes& v, double volume, double within = 1e-3) {
    const check::Survey s = surveyed(v.mesh);
    EXPECT_TRUE(s.solid) << s.counts.boundaryEdges << " open, " << s.counts.nonmanifoldEdges << " non-manifold, "
                         << s.counts.selfIntersectingPairs << " crossing, volume " << s.mass.volume;
    EXPECT_NEAR(s.mass.volume, volume, within);
    EXPECT_TRUE(v.unsound.empty());
}

inline Mesh boxAt(double x, double y, double z, double size = 2) {
    return box(Point(x, y, z), Point(x + size, y + size, z + size));
}

// A box without its bottom, 10 triangles.
inline Mesh cup(double size = 4) {
    return without(boxAt(0, 0, 0, size), {0, 1});
}

}  // namespace zither::tests
