// Regions that a pick grows into, against what anyone sees on a box, a ball and a folded sheet.
#include "mesh/pick_growth.h"

#include <algorithm>
#include <set>

#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;
using mesh::TriangleId;

Pick one(std::uint32_t t) {
    return Pick({TriangleId(t)});
}

TEST(PickGrowth, AFaceOfABoxIsFlatAndEndsAtItsCreases) {
    const Mesh m = box(Point(0, 0, 0), Point(4, 3, 2));
    const mesh::Edges edges(m);
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t) {
        const Pick flat = mesh::flatAround(m, edges, one(t), 5);
        EXPECT_EQ(flat.triangles().size(), 2U);
        EXPECT_EQ(mesh::smoothAround(m, edges, one(t), 25).triangles(), flat.triangles());
        // Steeper than its edges all of it is smooth.
        EXPECT_EQ(mesh::smoothAround(m, edges, one(t), 91).triangles().size(), 12U);
    }
}

TEST(PickGrowth, ABallIsSmoothAllOverAndFlatNearThePick) {
    const Mesh m = sphere(10, 48, 24);
    const mesh::Edges edges(m);
    EXPECT_EQ(mesh::smoothAround(m, edges, one(0), 25).triangles().size(), m.triangles.size());
    const Pick cap = mesh::flatAround(m, edges, one(0), 20);
    EXPECT_GT(cap.triangles().size(), 4U);
    EXPECT_LT(cap.triangles().size(), m.triangles.size() / 4);
    // Each of them faces where the first does.
    const Point first = mesh::areaVector(m, 0).normalized();
    for (const TriangleId t : cap.triangles())
        EXPECT_GT(mesh::areaVector(m, t).normalized().dot(first), std::cos(20.001 * 3.14159265358979 / 180));
    EXPECT_TRUE(std::is_sorted(cap.triangles().begin(), cap.triangles().end()));
}

TEST(PickGrowth, BordersAndEdgesOfThreeTrianglesEndIt) {
    // Two strips that hang together by an edge of three triangles.
    Mesh m = loose({{Point(0, 0, 0), Point(1, 0, 0), Point(0, 1, 0)},
                    {Point(1, 0, 0), Point(1, 1, 0), Point(0, 1, 0)},
                    {Point(1, 0, 0), Point(0, 1, 0), Point(1, 1, 1)}});
    mesh::joinEqualVertices(m);
    const mesh::Edges edges(m);
    EXPECT_EQ(mesh::smoothAround(m, edges, one(0), 180).triangles().size(), 1U);
    EXPECT_EQ(mesh::flatAround(m, edges, one(0), 180).triangles().size(), 1U);
}

TEST(PickGrowth, WhatIsPickedStaysAndTheRestIsTheRest) {
    for (const auto& [name, m] : uglyMeshes()) {
        SCOPED_TRACE(name);
        if (m.triangles.empty()) continue;
        const mesh::Edges edges(m);
        const Pick seed = one(0);
        for (const Pick& grown : {mesh::flatAround(m, edges, seed, 10), mesh::smoothAround(m, edges, seed, 30)}) {
            EXPECT_TRUE(std::find(grown.triangles().begin(), grown.triangles().end(), TriangleId(0)) !=
                        grown.triangles().end());
            const Pick rest = mesh::inverted(m, grown);
            EXPECT_EQ(rest.triangles().size() + grown.triangles().size(), m.triangles.size());
        }
    }
    const Mesh m = unitBox();
    EXPECT_TRUE(mesh::flatAround(m, mesh::Edges(m), Pick(), 5).everything());
    EXPECT_TRUE(mesh::inverted(m, Pick()).everything());
}

}  // namespace
}  // namespace zither::tests
