// Swaps of edges in flat places, and decimation that minds the shape of triangles.
#include "shape/edge_swaps.h"

#include <numeric>

#include "measure/mass.h"
#include "shape/decimate.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;
using mesh::Triangle;
using mesh::TriangleId;

double smallest(const Mesh& m) {
    double least = 180;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) least = std::min(least, measure::smallestAngleDeg(m, t));
    return least;
}

std::size_t badAngles(const Mesh& m) {
    std::size_t count = 0;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) count += measure::smallestAngleDeg(m, t) < 10;
    return count;
}

// All may be swapped, as if all had changed.
std::size_t swapAll(Mesh& m, double flat) {
    const std::vector<std::uint8_t> may(m.triangles.size(), 1);
    std::vector<std::uint8_t> changed = may;
    std::vector<float> none;
    return shape::swapForShape(m, may, changed, none, {flat, 0});
}

// A flat grid of n by n squares, each split along a random diagonal; corners within it moved a little.
Mesh shakenPlate(rig::Random& random, int n, double height) {
    Mesh m;
    for (int y = 0; y <= n; ++y)
        for (int x = 0; x <= n; ++x) {
            const bool inner = x > 0 && y > 0 && x < n && y < n;
            const double dx = inner ? random.between(-0.3, 0.3) : 0;
            m.positions.emplace_back(x + dx, y + (inner ? random.between(-0.3, 0.3) : 0),
                                     random.between(-height, height));
        }
    const auto at = [&](int x, int y) { return mesh::VertexId(y * (n + 1) + x); };
    for (int y = 0; y < n; ++y)
        for (int x = 0; x < n; ++x) {
            if (random.below(2) == 0) {
                m.triangles.push_back({at(x, y), at(x + 1, y), at(x + 1, y + 1)});
                m.triangles.push_back({at(x, y), at(x + 1, y + 1), at(x, y + 1)});
            } else {
                m.triangles.push_back({at(x, y), at(x + 1, y), at(x, y + 1)});
                m.triangles.push_back({at(x + 1, y), at(x + 1, y + 1), at(x, y + 1)});
            }
        }
    return m;
}

TEST(EdgeSwaps, TheSineIsThatOfTheSmallestAngle) {
    rig::Random random(81);
    for (int i = 0; i < 200; ++i) {
        Mesh m;
        for (int k = 0; k < 3; ++k)
            m.positions.emplace_back(random.between(0, 1), random.between(0, 1), random.between(0, 1));
        m.triangles = {{0, 1, 2}};
        const double sine = std::sin(measure::smallestAngleDeg(m, 0) / 180 * 3.14159265358979323846);
        EXPECT_NEAR(shape::smallestSineSquared(m.positions[0], m.positions[1], m.positions[2]), sine * sine, 1e-12);
    }
    EXPECT_EQ(shape::smallestSineSquared(Point(0, 0, 0), Point(1, 0, 0), Point(1, 0, 0)), 0);
}

TEST(EdgeSwaps, AfterwardsNoEdgeOfAPlateWouldBeBetterSwapped) {
    rig::Random random(82);
    for (int i = 0; i < 20; ++i) {
        Mesh m = shakenPlate(random, 8, 0);
        const Mesh before = m;
        const double area = measure::massOf(m).area;
        EXPECT_GT(swapAll(m, 1e-9), 0U);
        EXPECT_NEAR(measure::massOf(m).area, area, 1e-9);
        EXPECT_GE(smallest(m), smallest(before));
        const check::Survey s = surveyed(m);
        EXPECT_EQ(s.counts.nonmanifoldEdges, 0U);
        EXPECT_EQ(s.counts.misorientedEdges, 0U);
        EXPECT_EQ(s.counts.selfIntersectingTriangles, 0U);
        EXPECT_EQ(s.counts.boundaryEdges, 32U);
        EXPECT_EQ(swapAll(m, 1e-9), 0U);
    }
}

TEST(EdgeSwaps, OnlyWhereItIsFlatWithinOneRegionAndWhereItMay) {
    rig::Random random(83);
    Mesh bumpy = shakenPlate(random, 8, 0.2);
    const Mesh before = bumpy;
    swapAll(bumpy, 1e-9);
    EXPECT_EQ(bumpy.triangles, before.triangles);
    Mesh regions = shakenPlate(random, 8, 0);
    regions.regionNames = {"a", "b"};
    for (TriangleId t = 0; t < regions.triangles.size(); ++t) regions.regions.push_back(t % 2);
    const Mesh given = regions;
    swapAll(regions, 1e-9);
    EXPECT_EQ(regions.triangles, given.triangles);
    // Nothing has changed, or nothing may.
    Mesh plate = shakenPlate(random, 8, 0);
    const Mesh kept = plate;
    std::vector<std::uint8_t> all(plate.triangles.size(), 1);
    std::vector<std::uint8_t> none(plate.triangles.size(), 0);
    std::vector<float> reach;
    EXPECT_EQ(shape::swapForShape(plate, all, none, reach, {1e-9, 0}), 0U);
    EXPECT_EQ(shape::swapForShape(plate, none, all, reach, {1e-9, 0}), 0U);
    // A reach that is at its limit.
    reach.assign(plate.triangles.size(), 0.5F);
    EXPECT_EQ(shape::swapForShape(plate, all, all, reach, {1e-9, 0.5}), 0U);
    EXPECT_EQ(plate.triangles, kept.triangles);
    EXPECT_GT(shape::swapForShape(plate, all, all, reach, {0.25, 1}), 0U);
    for (const float r : reach) EXPECT_LE(r, 1);
    EXPECT_GT(*std::max_element(reach.begin(), reach.end()), 0.74F);
}

TEST(EdgeSwaps, NoEdgeComesTwice) {
    // A flat tent of four triangles over two: the swap of the upper diagonal is the lower one.
    Mesh m;
    m.positions = {Point(0, 0, 0), Point(4, -1, 0), Point(8, 0, 0), Point(4, 1, 0)};
    m.triangles = {{0, 1, 2}, {0, 2, 3}, {1, 0, 3}, {2, 1, 3}};
    const Mesh before = m;
    EXPECT_EQ(swapAll(m, 1e-9), 0U);
    EXPECT_EQ(m.triangles, before.triangles);
    m.triangles.resize(2);
    EXPECT_EQ(swapAll(m, 1e-9), 1U);
    EXPECT_GT(smallest(m), 1.9 * smallest(before));
}

TEST(EdgeSwaps, UglyMeshesComeThrough) {
    for (const auto& [name, m] : uglyMeshes()) {
        Mesh swapped = m;
        swapAll(swapped, 1e-6);
        EXPECT_EQ(swapped.triangles.size(), m.triangles.size()) << name;
        const check::Survey before = surveyed(m);
        const check::Survey after = surveyed(swapped);
        EXPECT_LE(after.counts.nonmanifoldEdges, before.counts.nonmanifoldEdges) << name;
        EXPECT_LE(after.counts.misorientedEdges, before.counts.misorientedEdges) << name;
    }
}

// A box whose sides are grids, in 32 bits.
Mesh griddedBox(int n) {
    rig::Soup soup;
    for (int axis = 0; axis < 3; ++axis)
        for (const double side : {0.0, 1.0})
            for (int i = 0; i < n; ++i)
                for (int k = 0; k < n; ++k) {
                    const auto at = [&](int a, int b) {
                        Point p;
                        p[axis] = 10 * side;
                        p[(axis + 1) % 3] = 10.0 * a / n;
                        p[(axis + 2) % 3] = 10.0 * b / n;
                        return p;
                    };
                    const std::array<Point, 4> q = {at(i, k), at(i + 1, k), at(i + 1, k + 1), at(i, k + 1)};
                    if (side == 1) {
                        soup.add(q[0], q[1], q[2]);
                        soup.add(q[0], q[2], q[3]);
                    } else {
                        soup.add(q[0], q[2], q[1]);
                        soup.add(q[0], q[3], q[2]);
                    }
                }
    return fromSoup(soup);
}

TEST(Decimate, FlatSidesKeepNoBadAngle) {
    const Mesh m = griddedBox(24);
    ASSERT_TRUE(surveyed(m).solid);
    for (const std::size_t target : {m.triangles.size() / 2, m.triangles.size() / 10, m.triangles.size() / 50}) {
        const auto r = shape::decimate(m, Pick(), {.targetTriangles = target}, silent());
        ASSERT_TRUE(r);
        EXPECT_TRUE(r->reachedTarget);
        EXPECT_EQ(badAngles(r->mesh), 0U) << target;
        EXPECT_TRUE(surveyed(r->mesh).solid);
        EXPECT_NEAR(measure::massOf(r->mesh).volume, 1000, 1e-3);
    }
}

TEST(Decimate, ShapeGoesBeforeClosenessWherePreferred) {
    // Seen from its rims a drum is all needles: nothing but its height lies between them.
    const Mesh m = fromSoup(rig::sphere(Point(0, 0, 0), 10, 200, 12));
    const auto close = shape::decimate(m, Pick(), {.targetTriangles = 600}, silent());
    const auto shapely = shape::decimate(m, Pick(), {.targetTriangles = 600, .preferShape = true}, silent());
    ASSERT_TRUE(close && shapely);
    EXPECT_EQ(close->mesh.triangles.size(), shapely->mesh.triangles.size());
    EXPECT_TRUE(surveyed(shapely->mesh).solid);
    EXPECT_LE(badAngles(shapely->mesh), badAngles(close->mesh));
    EXPECT_GT(smallest(shapely->mesh), 10);
}

}  // namespace
}  // namespace zither::tests
