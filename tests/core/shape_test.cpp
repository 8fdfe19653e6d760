// Decimation and its bound.
#include "measure/deviation.h"
#include "measure/mass.h"
#include "shape/decimate.h"
#include "shape/quadric.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;
using shape::decimate;

TEST(Decimate, ReachesItsTargetAndStaysSolid) {
    const Mesh m = sphere(10, 120, 80);
    const auto r = decimate(m, Pick(), {.targetTriangles = 1000}, silent());
    ASSERT_TRUE(r);
    EXPECT_TRUE(r->reachedTarget);
    EXPECT_LE(r->mesh.triangles.size(), 1000U);
    EXPECT_GE(r->mesh.triangles.size(), 998U);
    EXPECT_EQ(r->removed, m.triangles.size() - r->mesh.triangles.size());
    const auto s = surveyed(r->mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_NEAR(s.mass.volume, surveyed(m).mass.volume, 0.01 * s.mass.volume);
}

TEST(Decimate, AFlatPlateLosesItsInnerVerticesOnly) {
    const Mesh m = uglyMeshes()[5].second;
    const auto r = decimate(m, Pick(), {.targetTriangles = 2}, silent());
    EXPECT_EQ(r->mesh.triangles.size(), 2U);
    EXPECT_DOUBLE_EQ(measure::massOf(r->mesh).area, 16);
}

TEST(Decimate, ABoxCannotLoseACornerWithinItsDeviation) {
    Mesh m = unitBox();
    const auto r = decimate(m, Pick(), {.targetTriangles = 0, .maxDeviation = 0.01}, silent());
    EXPECT_EQ(r->mesh.triangles.size(), 12U);
    EXPECT_FALSE(r->reachedTarget);
}

TEST(Decimate, KeepsTheDeviationItPromises) {
    const Mesh m = sphere(10, 100, 60);
    for (double limit : {0.02, 0.1, 0.5}) {
        const auto r = decimate(m, Pick(), {.targetTriangles = 0, .maxDeviation = limit}, silent());
        EXPECT_LE(r->measuredDeviation, limit);
        const auto c = compare(m, r->mesh, silent());
        EXPECT_LE(std::max(c->aToB.found, c->bToA.found), limit);
        EXPECT_LT(r->mesh.triangles.size(), m.triangles.size() / 2);
        EXPECT_TRUE(surveyed(r->mesh).watertight);
    }
}

TEST(Decimate, BordersOfRegionsStayOnTheirLine) {
    Mesh m = sphere(10, 80, 41);
    m.regionNames = {"south", "north"};
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) m.regions.push_back(mesh::centroid(m, t).z() > 0);
    const auto r = decimate(m, Pick(), {.targetTriangles = 600}, silent());
    const mesh::Edges edges(r->mesh);
    std::size_t border = 0;
    for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
        const auto around = edges.around(e);
        if (around.size() != 2 ||
            r->mesh.regionOf(mesh::triangleOf(around[0])) == r->mesh.regionOf(mesh::triangleOf(around[1])))
            continue;
        ++border;
        EXPECT_NEAR(r->mesh.positions[fromVertex(r->mesh, around[0])].z(), 0, 0.05);
    }
    EXPECT_GT(border, 5U);
}

TEST(Decimate, LockedBordersKeepTheirBits) {
    const Mesh sphereMesh = sphere(10, 60, 40);
    std::vector<std::uint8_t> keep(sphereMesh.triangles.size());
    for (mesh::TriangleId t = 0; t < keep.size(); ++t) keep[t] = mesh::centroid(sphereMesh, t).z() < 2;
    const Mesh m = mesh::keepTriangles(sphereMesh, keep);
    const auto rim = surveyed(m).counts.boundaryEdges;
    const auto locked = decimate(m, Pick(), {.targetTriangles = 300, .lockBorders = true}, silent());
    EXPECT_EQ(surveyed(locked->mesh).counts.boundaryEdges, rim);
    const auto free = decimate(m, Pick(), {.targetTriangles = 300}, silent());
    EXPECT_LT(surveyed(free->mesh).counts.boundaryEdges, rim);
    EXPECT_EQ(surveyed(free->mesh).counts.holes, 1U);
}

TEST(Decimate, TouchesOnlyThePick) {
    const Mesh m = sphere(10, 60, 40);
    std::vector<mesh::TriangleId> north;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        if (mesh::centroid(m, t).z() > 0) north.push_back(t);
    const auto r = decimate(m, Pick(north), {.targetTriangles = m.triangles.size() * 6 / 10}, silent());
    EXPECT_TRUE(surveyed(r->mesh).solid);
    const auto kept = measure::keptOf(m, r->mesh);
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t)
        if (mesh::centroid(m, t).z() < -1) {
            EXPECT_TRUE(kept.of[t]);
        }
}

TEST(Decimate, NeverMakesNonManifoldOrMisorientedOnAnyMesh) {
    for (std::uint64_t seed = 0; seed < 80; ++seed) {
        const Mesh m = gridSoup(seed, 60, 3 + static_cast<int>(seed % 3));
        const auto before = surveyed(m);
        const auto r = decimate(m, Pick(), {.targetTriangles = 20}, silent());
        ASSERT_TRUE(r);
        EXPECT_EQ(mesh::validate(r->mesh), "");
        const auto after = surveyed(r->mesh);
        EXPECT_LE(after.counts.nonmanifoldEdges, before.counts.nonmanifoldEdges) << seed;
        EXPECT_LE(after.counts.nonmanifoldVertices, before.counts.nonmanifoldVertices) << seed;
        EXPECT_LE(after.counts.misorientedEdges, before.counts.misorientedEdges) << seed;
        EXPECT_LE(after.counts.collapsedTriangles, before.counts.collapsedTriangles) << seed;
    }
}

TEST(Decimate, CrumpledSurfacesStayManifold) {
    rig::Random random(77);
    for (int round = 0; round < 12; ++round) {
        Mesh m = sphere(10, 40, 30);
        for (Point& p : m.positions) p += (round + 1) * 0.12 * random.direction();
        const auto r = decimate(m, Pick(), {.targetTriangles = 60}, silent());
        const auto s = surveyed(r->mesh);
        EXPECT_TRUE(s.watertight) << round;
        EXPECT_EQ(s.counts.nonmanifoldVertices, 0U) << round;
        EXPECT_EQ(s.counts.degenerateTriangles, 0U) << round;
    }
}

TEST(Decimate, FarFromTheOriginLosesNoDigits) {
    Mesh near = sphere(10, 60, 40);
    Mesh far = near;
    for (Point& p : far.positions) p += Point::Constant(1e6);
    const auto a = decimate(near, Pick(), {.targetTriangles = 500}, silent());
    const auto b = decimate(far, Pick(), {.targetTriangles = 500}, silent());
    EXPECT_NEAR(measure::massOf(a->mesh).volume, measure::massOf(b->mesh).volume, 2);
}

TEST(Decimate, NothingToDoChangesNothing) {
    const Mesh m = sphere();
    const auto r = decimate(m, Pick(), {.targetTriangles = 100000}, silent());
    EXPECT_EQ(r->mesh.triangles, m.triangles);
    EXPECT_EQ(r->mesh.positions, m.positions);
}

// Some of the pieces that a large surface is taken apart into tell how far the others go: here they tell them wrong,
// whichever they are, as half of the surface is flat and has nearly everything to give.
TEST(Decimate, ReachesTheCountWhereDetailIsUneven) {
    constexpr std::uint32_t side = 420;
    rig::Random random(5);
    Mesh m;
    for (std::uint32_t y = 0; y <= side; ++y)
        for (std::uint32_t x = 0; x <= side; ++x)
            m.positions.emplace_back(x, y, (x / 60 + y / 60) % 2 == 0 ? 0.0 : random.uniform());
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            const mesh::VertexId v = y * (side + 1) + x;
            m.triangles.push_back({v, v + 1, v + side + 2});
            m.triangles.push_back({v, v + side + 2, v + side + 1});
        }
    std::vector<std::size_t> counts{150'000};
    if (!sanitized) counts.insert(counts.end(), {300'000, 20'000});
    for (const std::size_t count : counts) {
        const auto run = [&] { return shape::decimate(m, {}, {.targetTriangles = count}, silent())->mesh; };
        const Mesh lighter = run();
        EXPECT_LE(lighter.triangles.size(), count);
        EXPECT_GE(lighter.triangles.size(), count - 2);
        if (!sanitized) {
            EXPECT_EQ(Bits(lighter), Bits(withOneThread(run)));
        }
    }
}

// A body large enough to be taken apart, and two open skins as scans are, of which something must be held fast: others
// must not give for it until nothing is left of them.
TEST(Decimate, ALongWayIsAsGoodAsItsSteps) {
    rig::Random random(4);
    const auto wavy = [&](double radius, std::size_t around, double noise) {
        Mesh m = sphere(radius, around, around / 2);
        for (Point& p : m.positions) {
            const Point n = p.normalized();
            p *= 1 + 0.02 * std::sin(9 * n.x()) * std::sin(8 * n.y()) * std::cos(7 * n.z());
            p += noise * random.uniform() * random.direction();
        }
        return m;
    };
    const auto scan = [&](double radius) {
        const Mesh m = wavy(radius, 340, 0.02);
        std::vector<std::uint8_t> keep(m.triangles.size());
        for (mesh::TriangleId t = 0; t < keep.size(); ++t) {
            const Point at = mesh::centroid(m, t);
            keep[t] = at.z() > -3 * std::sin(at.x());
        }
        return mesh::keepTriangles(m, keep);
    };
    std::vector<std::pair<double, Mesh>> cases = {{0.02, together(scan(10), scan(9.7))}};
    if (!sanitized) cases.emplace_back(0.005, wavy(10, 400, 0));
    for (const auto& [share, m] : cases) {
        const auto countAt = [all = static_cast<double>(m.triangles.size())](double part) {
            return static_cast<std::size_t>(part * all);
        };
        const auto to = [&](const Mesh& from, double part) {
            return decimate(from, Pick(), {.targetTriangles = countAt(part)}, silent())->mesh;
        };
        const Mesh atOnce = to(m, share);
        EXPECT_NEAR(static_cast<double>(atOnce.triangles.size()), static_cast<double>(countAt(share)), 1);
        const auto direct = compare(m, atOnce, silent());
        const auto stepwise = compare(m, to(to(to(m, 0.3), 0.1), share), silent());
        EXPECT_LT(direct->mean, 1.3 * stepwise->mean);
        EXPECT_LT(std::max(direct->aToB.max, direct->bToA.max), 1.5 * std::max(stepwise->aToB.max, stepwise->bToA.max));
    }
}

TEST(Decimate, SameForOneThread) {
    const Mesh m = sphere(10, 100, 70);
    const auto run = [&] { return Bits(decimate(m, Pick(), {.targetTriangles = 2000}, silent())->mesh); };
    EXPECT_EQ(run(), withOneThread(run));
}

TEST(Quadric, MinimumOfThreePlanesIsTheirPoint) {
    shape::Quadric q;
    const Point corner(1, 2, 3);
    for (int k = 0; k < 3; ++k) q.addPlane(Point::Unit(k), corner, 1);
    ASSERT_TRUE(q.minimum());
    EXPECT_NEAR((*q.minimum() - corner).norm(), 0, 1e-12);
    EXPECT_NEAR(q.at(corner + Point(0, 0, 2)), 4, 1e-12);
    shape::Quadric flat;
    flat.addPlane(Point::UnitZ(), corner, 1);
    EXPECT_FALSE(flat.minimum());
}

}  // namespace
}  // namespace zither::tests
