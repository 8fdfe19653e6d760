// Rounding always ends: seams over what touches, patches over what no file can hold, and no needles left behind.
#include <Eigen/Geometry>
#include <random>

#include "arrange/fit.h"
#include "arrange/weld.h"
#include "measure/loss.h"
#include "repair/volumes.h"
#include "tests/core/assemblies.h"

namespace zither::tests {
namespace {

using mesh::TriangleId;

arrange::Welded welded(const Mesh& m, double radius) {
    auto result = arrange::weldTouching(m, radius, {}, silent());
    EXPECT_TRUE(result);
    EXPECT_EQ(mesh::validate(result->mesh), "");
    return std::move(*result);
}

double lostOf(const Mesh& a, const Mesh& b) {
    const check::Surveyed from(a);
    const check::Surveyed to(b);
    auto loss =
        measure::lossBetween({from.tree(), from.shells()}, {to.tree(), to.shells()}, {.facing = true}, silent());
    EXPECT_TRUE(loss);
    return loss->lost;
}

// As files hold it: equal corners are one vertex.
Mesh joined(const Mesh& a, const Mesh& b) {
    Mesh m = together(a, b);
    mesh::joinEqualVertices(m);
    return m;
}

TEST(Weld, WhatDoesNotTouchStaysAsItIs) {
    const Mesh m = sphere();
    const arrange::Welded w = welded(m, 0.01);
    EXPECT_EQ(w.seams, 0U);
    EXPECT_TRUE(Bits(w.mesh) == Bits(m));
}

TEST(Weld, BoxesThatShareAnEdgeOrACornerBecomeOne) {
    const Mesh one = box(Point(0, 0, 0), Point(1, 1, 1));
    for (const Point& low : {Point(1, 1, 0), Point(1, 1, 1)}) {
        const Mesh both = joined(one, box(low, low + Point(1, 1, 1)));
        ASSERT_FALSE(surveyed(both).solid);
        const arrange::Welded w = welded(both, 1e-3);
        const check::Survey s = surveyed(w.mesh);
        EXPECT_GT(w.seams, 0U);
        EXPECT_EQ(s.counts.nonmanifoldEdges + s.counts.nonmanifoldVertices, 0U);
        EXPECT_EQ(s.counts.boundaryEdges + s.counts.misorientedEdges, 0U);
        EXPECT_EQ(s.counts.shells, 1U);
        EXPECT_NEAR(s.mass.volume, 2, 1e-4);
        // What a seam is made of has no source; what it did not cut is whole.
        ASSERT_EQ(w.sourceOf.size(), w.mesh.triangles.size());
        std::size_t ofSeams = 0;
        for (const TriangleId t : w.sourceOf) ofSeams += t == mesh::noIndex;
        EXPECT_GT(ofSeams, 0U);
        EXPECT_EQ(w.givenVertex.size(), w.mesh.positions.size());
    }
}

// Boxes of a grid of which no two neighbours in a row are there: they touch along edges only.
Mesh chequered(int side) {
    std::vector<Mesh> boxes;
    for (int x = 0; x < side; ++x)
        for (int y = 0; y < side; ++y)
            for (int z = 0; z < side; ++z)
                if ((x + y + z) % 2 == 0) boxes.push_back(box(Point(x, y, z), Point(x + 1, y + 1, z + 1)));
    Mesh m = assembled(boxes);
    mesh::joinEqualVertices(m);
    return m;
}

TEST(Weld, AWholeGridOfTouchingBoxesHoldsTogether) {
    const Mesh m = chequered(4);
    const arrange::Welded w = welded(m, 1e-3);
    const check::Survey s = surveyed(w.mesh);
    EXPECT_EQ(s.counts.nonmanifoldEdges + s.counts.nonmanifoldVertices + s.counts.boundaryEdges, 0U);
    // One outside, and the four empty boxes in the middle, which seams close off from each other.
    EXPECT_EQ(s.counts.shells, 5U);
    EXPECT_NEAR(s.mass.volume, 32, 0.01);
}

TEST(Fit, WhatNothingWasMadeOfKeepsItsBits) {
    const Mesh m = sphere();
    const auto fit = arrange::makeFit(m, {}, silent());
    ASSERT_TRUE(fit);
    EXPECT_TRUE(fit->unsound.empty());
    EXPECT_TRUE(Bits(fit->mesh) == Bits(m));
}

TEST(Fit, WhatIsOnlyRoundedKeepsTheCapsThatItCameWith) {
    // A corner a hair above the middle of an edge of a box, and the cap under it.
    Mesh m = box(Point(0, 0, 0), Point(1, 1, 1));
    const mesh::Edges edges(m);
    const auto around = edges.around(edges.edgeOf(0));
    ASSERT_EQ(around.size(), 2U);
    const mesh::VertexId a = mesh::fromVertex(m, around[0]);
    const mesh::VertexId b = mesh::toVertex(m, around[0]);
    const mesh::VertexId c = mesh::oppositeVertex(m, around[0]);
    const Point out = mesh::areaVector(m, mesh::triangleOf(around[0])).normalized() +
                      mesh::areaVector(m, mesh::triangleOf(around[1])).normalized();
    const auto middle = static_cast<mesh::VertexId>(m.positions.size());
    m.positions.push_back(0.5 * (m.positions[a] + m.positions[b]) + 0x1p-30 * out);
    m.triangles[mesh::triangleOf(around[0])] = {a, middle, c};
    m.triangles.push_back({middle, b, c});
    m.triangles.push_back({a, b, middle});
    ASSERT_TRUE(surveyed(m).solid);
    ASSERT_EQ(surveyed(m).counts.needles, 1U);
    const auto fit = arrange::makeFit(m, {.precision = mesh::Precision::Double}, silent());
    ASSERT_TRUE(fit);
    EXPECT_TRUE(Bits(fit->mesh) == Bits(m));
    EXPECT_EQ(fit->swapped + fit->collapsed, 0U);
}

// Plates that lie on each other within less than a file holds, turned at random: films, tips of wedges and zebra.
TEST(Fit, PlatesAHairFromEachOtherEndSolid) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> number(-1, 1);
    for (int round = 0; round < (longMode() ? 200 : 12); ++round) {
        const Eigen::Quaterniond turn(number(random), number(random), number(random), number(random));
        std::vector<Mesh> plates;
        for (int i = 0; i < 3; ++i) {
            Eigen::Affine3d by = Eigen::Affine3d::Identity();
            by.rotate(turn.normalized());
            // A hair off the plane of the one before, and tilted by as little.
            by.translate(Point(0.37 * i, 0.21 * i, (i + 1e-8 * number(random))));
            by.rotate(Eigen::AngleAxisd(3e-8 * number(random), Point::UnitX()));
            plates.push_back(moved(box(Point(0, 0, 0), Point(5, 4, 1)), by, true));
        }
        const Mesh m = assembled(plates);
        repair::VolumesOptions options;
        options.precision = mesh::Precision::Double;
        auto v = repair::fullOrEmpty(check::Surveyed(m), options, silent());
        ASSERT_TRUE(v);
        const check::Survey s = surveyed(v->mesh);
        EXPECT_TRUE(s.solid) << round << ": " << s.counts.selfIntersectingPairs << " crossing, "
                             << s.counts.nonmanifoldEdges << " non-manifold, " << s.counts.boundaryEdges << " open";
        EXPECT_NEAR(s.mass.volume, 60, 0.01) << round;
        EXPECT_LT(lostOf(m, v->mesh), 0.002) << round;
    }
}

TEST(Fit, ChequeredBoxesTurnedAtRandomEndSolid) {
    std::mt19937 random(11);
    std::uniform_real_distribution<double> number(-1, 1);
    for (int round = 0; round < (longMode() ? 50 : 4); ++round) {
        Eigen::Affine3d by = Eigen::Affine3d::Identity();
        by.rotate(Eigen::Quaterniond(number(random), number(random), number(random), number(random)).normalized());
        // Rounded to 32 bits they touch no more exactly: gaps and crossings of a few last places all over.
        const Mesh m = moved(chequered(3), by, false);
        auto v = repair::fullOrEmpty(check::Surveyed(m), {}, silent());
        ASSERT_TRUE(v);
        EXPECT_TRUE(surveyed(v->mesh).solid) << round;
        EXPECT_NEAR(surveyed(v->mesh).mass.volume, 14, 0.01) << round;
        EXPECT_LT(lostOf(m, v->mesh), 0.002) << round;
    }
}

TEST(Fit, CuttingLeavesNoNeedles) {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> number(-1, 1);
    std::vector<Mesh> parts;
    for (int i = 0; i < 5; ++i) {
        Eigen::Affine3d by = Eigen::Affine3d::Identity();
        by.translate(3 * Point(number(random), number(random), number(random)));
        by.rotate(Eigen::Quaterniond(number(random), number(random), number(random), number(random)).normalized());
        parts.push_back(moved(cylinder(2, 6, 48), by, false));
    }
    const Mesh m = assembled(parts);
    auto v = repair::fullOrEmpty(check::Surveyed(m), {}, silent());
    ASSERT_TRUE(v);
    const check::Survey s = surveyed(v->mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_GT(v->cut, 100U);
    EXPECT_EQ(s.counts.needles, 0U);
}

}  // namespace
}  // namespace zither::tests
