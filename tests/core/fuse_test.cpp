// Random assemblies fused, settled, written and read back.
#include <fmt/format.h>

#include <map>

#include "arrange/skin.h"
#include "demo/rig.h"
#include "fit/fuse.h"
#include "fit/sliver_removal.h"
#include "io/surface_file.h"
#include "measure/deviation.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using fit::FuseOptions;
using fit::FuseResult;
using mesh::Precision;

FuseResult fused(const Mesh& m) {
    auto result = fit::fuse(m, mesh::Pick(), {.precision = mesh::precisionOf(m)}, silent());
    EXPECT_TRUE(result);
    return std::move(result.value());
}

// The result as a file holds it.
Mesh readBack(const Mesh& m, bool wide) {
    const TemporaryFolder folder;
    const auto file = folder / (wide ? "out.obj" : "out.stl");
    EXPECT_TRUE(io::writeSurface(m, file, {*io::formatForWriting(file)}, silent()));
    auto read = io::readSurface(file, silent());
    EXPECT_TRUE(read);
    return std::move(read.value().mesh);
}

// Empty, or what is wrong with the file.
std::string faultOf(const Assembly& a, const Mesh& out) {
    const check::Survey s = surveyed(out);
    if (a.closed && !s.solid && !out.triangles.empty())
        return fmt::format(
            "not solid: {} open, {} non-manifold edges, {} vertices, {} misoriented, {} degenerate, {} "
            "duplicate, {} crossing pairs, volume {}",
            s.counts.boundaryEdges, s.counts.nonmanifoldEdges, s.counts.nonmanifoldVertices, s.counts.misorientedEdges,
            s.counts.degenerateTriangles, s.counts.duplicateTriangles, s.counts.selfIntersectingPairs, s.mass.volume);
    if (!a.closed) return s.counts.selfIntersectingPairs == 0 ? "" : "the open result crosses itself";
    rig::Random random(99);
    const mesh::Box box = mesh::boxOf(a.mesh);
    // What rounding and pulling apart may move.
    const double within =
        a.wide ? 1e-7 : 1e-5 * std::max(1.0, box.max.cwiseAbs().cwiseMax(box.min.cwiseAbs()).maxCoeff());
    for (int ray = 0; ray < 12; ++ray) {
        const Point at = box.centre() + 0.3 * box.diagonal() * random.uniform() * random.direction();
        const Point direction = random.direction();
        const auto before = insideAlong(a.mesh, at, direction);
        const auto after = insideAlong(out, at, direction);
        if (!before || !after) continue;
        // Only stretches that are no mere grazes count.
        const auto length = [&](const auto& stretches) {
            double sum = 0;
            for (const auto& [from, to] : stretches) sum += to - from;
            return sum;
        };
        const double difference = std::abs(length(*before) - length(*after));
        const double tolerance = within * 100 * static_cast<double>(2 + before->size() + after->size());
        if (difference > tolerance)
            return fmt::format("a line is inside for {} instead of {}", length(*after), length(*before));
    }
    return {};
}

TEST(Fuse, TwoBoxesBecomeOneSkin) {
    const Mesh m = assembled({box(Point(0, 0, 0), Point(2, 2, 2)), box(Point(1, 1, 1), Point(3, 3, 3))});
    const FuseResult r = fused(m);
    const check::Survey s = surveyed(r.mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_EQ(s.counts.shells, 1U);
    EXPECT_NEAR(s.mass.volume, 15, 1e-12);
    EXPECT_EQ(r.shellsIn, 2U);
    EXPECT_TRUE(r.gone.empty());
    EXPECT_EQ(r.kept, 12U);  // the triangles of the six faces that the other box does not reach
}

TEST(Fuse, AShellInsideAnotherGoes) {
    const FuseResult r = fused(together(box(Point(0, 0, 0), Point(4, 4, 4)), box(Point(1, 1, 1), Point(2, 3, 2))));
    ASSERT_EQ(r.gone.size(), 1U);
    EXPECT_EQ(r.gone[0].triangles, 12U);
    EXPECT_NEAR(r.gone[0].box.diagonal(), std::sqrt(6), 1e-12);
    EXPECT_EQ(r.mesh.triangles.size(), 12U);
    EXPECT_EQ(r.kept, 12U);
}

TEST(Fuse, ACavityStays) {
    const Mesh m = together(box(Point(0, 0, 0), Point(4, 4, 4)), flipped(box(Point(1, 1, 1), Point(2, 3, 2))));
    const FuseResult r = fused(m);
    EXPECT_TRUE(r.gone.empty());
    EXPECT_EQ(r.inwardShells, 1U);
    EXPECT_NEAR(surveyed(r.mesh).mass.volume, 62, 1e-12);
}

TEST(Fuse, WhatDoesNotCrossIsUntouched) {
    const Mesh m = together(sphere(), box(Point(20, 0, 0), Point(21, 1, 1)));
    const FuseResult r = fused(m);
    EXPECT_EQ(r.mesh.triangles, m.triangles);
    EXPECT_EQ(r.mesh.positions, m.positions);
    EXPECT_EQ(r.kept, m.triangles.size());
}

TEST(Fuse, RegionsStayOnThePieces) {
    Mesh a = box(Point(0, 0, 0), Point(2, 2, 2));
    a.regions.assign(12, 0);
    a.regionNames = {"base"};
    Mesh b = box(Point(1, 1, 1), Point(3, 3, 3));
    b.regions.assign(12, 0);
    b.regionNames = {"boss"};
    const FuseResult r = fused(assembled({a, b}));
    ASSERT_EQ(r.mesh.regionNames, (std::vector<std::string>{"base", "boss"}));
    std::array<double, 2> area{};
    for (mesh::TriangleId t = 0; t < r.mesh.triangles.size(); ++t)
        area[r.mesh.regions[t]] += mesh::areaVector(r.mesh, t).norm() / 2;
    EXPECT_NEAR(area[0], 21, 1e-12);
    EXPECT_NEAR(area[1], 21, 1e-12);
}

TEST(Fuse, APickIsFusedAlone) {
    const Mesh crossing = assembled({box(Point(0, 0, 0), Point(2, 2, 2)), box(Point(1, 1, 1), Point(3, 3, 3))});
    const Mesh m = together(crossing, crossing.triangles.empty()
                                          ? crossing
                                          : moved(crossing, Eigen::Affine3d(Eigen::Translation3d(10, 0, 0)), false));
    std::vector<mesh::TriangleId> first(24);
    for (mesh::TriangleId t = 0; t < 24; ++t) first[t] = t;
    const auto r = fit::fuse(m, mesh::Pick(first), {}, silent());
    ASSERT_TRUE(r);
    const check::Survey s = surveyed(r->mesh);
    EXPECT_EQ(s.counts.shells, 3U);
    EXPECT_GT(s.counts.selfIntersectingPairs, 0U);
}

TEST(Fuse, SubtractAndIntersect) {
    const Mesh a = box(Point(0, 0, 0), Point(2, 2, 2));
    const Mesh b = box(Point(1, 1, 1), Point(3, 3, 3));
    const auto volume = [&](arrange::Solid solid) {
        const auto r = fit::fuse(a, {}, {.with = &b, .solid = solid}, silent());
        EXPECT_TRUE(r);
        const check::Survey s = surveyed(r.value().mesh);
        EXPECT_TRUE(s.solid);
        return s.mass.volume;
    };
    EXPECT_NEAR(volume(arrange::Solid::Union), 15, 1e-12);
    EXPECT_NEAR(volume(arrange::Solid::Difference), 7, 1e-12);
    EXPECT_NEAR(volume(arrange::Solid::Intersection), 1, 1e-12);
}

TEST(Fuse, SubtractingItselfLeavesNothing) {
    const Mesh a = sphere();
    const auto r = fit::fuse(a, {}, {.with = &a, .solid = arrange::Solid::Difference}, silent());
    ASSERT_TRUE(r);
    EXPECT_TRUE(r->mesh.triangles.empty());
    EXPECT_EQ(fit::fuse(a, {}, {.with = &a, .solid = arrange::Solid::Intersection}, silent())->mesh.triangles.size(),
              a.triangles.size());
}

TEST(Fuse, TouchingBodiesArePulledApart) {
    const Mesh edge = assembled({box(Point(0, 0, 0), Point(1, 1, 1)), box(Point(1, 1, 0), Point(2, 2, 1))});
    const Mesh corner = assembled({box(Point(0, 0, 0), Point(1, 1, 1)), box(Point(1, 1, 1), Point(2, 2, 2))});
    for (const Mesh& m : {edge, corner}) {
        const FuseResult r = fused(m);
        EXPECT_TRUE(surveyed(r.mesh).solid);
        EXPECT_GT(r.separated, 0U);
        EXPECT_NEAR(surveyed(r.mesh).mass.volume, 2, 1e-5);
    }
}

TEST(Fuse, OneThreadGivesTheSame) {
    const Assembly a = AssemblyMaker(5).make(8);
    const FuseResult many = fused(a.mesh);
    const FuseResult one = withOneThread([&] { return fused(a.mesh); });
    EXPECT_EQ(many.mesh.triangles, one.mesh.triangles);
    EXPECT_EQ(many.mesh.positions, one.mesh.positions);
}

TEST(Fuse, CancelledAtAnyTick) {
    const Assembly a = AssemblyMaker(3).make(2);
    bool through = false;
    for (int tick = 1; tick < 500 && !through; ++tick) {
        CancelAtTick progress(tick);
        const auto r = fit::fuse(a.mesh, mesh::Pick(), {}, progress);
        through = r.has_value();
        if (!through) {
            EXPECT_TRUE(r.error().cancelled());
        }
    }
    EXPECT_TRUE(through);
}

// ---- slivers

std::size_t narrow(const Mesh& m, double width) {
    std::size_t count = 0;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) {
        double longest = 0;
        for (unsigned k = 0; k < 3; ++k)
            longest = std::max(longest, (m.corner(t, (k + 1) % 3) - m.corner(t, k)).norm());
        count += mesh::areaVector(m, t).norm() < width * longest;
    }
    return count;
}

TEST(Slivers, GoWithinTheToleranceAndHarmNothing) {
    for (std::uint64_t seed : {0, 2, 3, 4, 8}) {
        const Assembly a = AssemblyMaker(seed).make(seed);
        const Mesh before = fused(a.mesh).mesh;
        const double tolerance = 0.02;
        const auto r = fit::removeSlivers(before, {.tolerance = tolerance}, silent());
        ASSERT_TRUE(r);
        const check::Survey s = surveyed(r->mesh);
        EXPECT_TRUE(s.solid) << a.kind;
        EXPECT_LT(narrow(r->mesh, tolerance), std::max<std::size_t>(1, narrow(before, tolerance))) << a.kind;
        EXPECT_LE(r->farthestMoved, tolerance);
        const auto deviation = compare(before, r->mesh, silent());
        EXPECT_LE(deviation->aToB.max, 2 * tolerance) << a.kind;
        EXPECT_LE(deviation->bToA.found, r->farthestMoved + 1e-9) << a.kind;
    }
}

TEST(Slivers, ManyCutsStayWithinTheToleranceOfWhatWasCut) {
    // Struts that meet at small angles: folds along the cuts, over which a corner that slides pulls the surface.
    const Mesh lattice = fromSoup(*rig::largeSurface("lattice", 20'000));
    const double tolerance = 1e-5 * mesh::boxOf(lattice).diagonal();
    const auto r = fit::fuse(lattice, mesh::Pick(), {.slivers = tolerance}, silent());
    ASSERT_TRUE(r);
    EXPECT_TRUE(surveyed(r->mesh).solid);
    EXPECT_GT(r->sliversRemoved, 200U);
    EXPECT_LE(r->farthestMoved, tolerance);
    // Rounding adds a little to it.
    EXPECT_LE(compare(lattice, r->mesh, silent())->bToA.found, tolerance + 2 * r->farthestRounded);
}

TEST(Slivers, WhatMustStayStays) {
    const Mesh before = fused(AssemblyMaker(8).make(8).mesh).mesh;
    const auto r = fit::removeSlivers(before,
                                      {.tolerance = 1e9,
                                       .movable = std::vector<std::uint8_t>(before.positions.size(), 0),
                                       .fixed = std::vector<std::uint8_t>(before.triangles.size(), 1)},
                                      silent());
    ASSERT_TRUE(r);
    EXPECT_EQ(r->mesh.triangles, before.triangles);
    EXPECT_EQ(r->mesh.positions, before.positions);
}

TEST(Slivers, OpenSurfacesKeepTheirRims) {
    const Mesh open = without(sphere(), {3, 4, 5, 90});
    const auto r = fit::removeSlivers(open, {.tolerance = 2.0}, silent());
    ASSERT_TRUE(r);
    EXPECT_EQ(surveyed(r->mesh).counts.boundaryEdges, surveyed(open).counts.boundaryEdges);
    EXPECT_EQ(surveyed(r->mesh).counts.selfIntersectingPairs, 0U);
}

// ---- settling

TEST(Settle, RoundsAndSaysHowFar) {
    Mesh m = sphere();
    for (Point& p : m.positions) p *= 1.0 / 3;
    const auto r = fit::settle(m, Precision::Single, silent());
    ASSERT_TRUE(r);
    EXPECT_TRUE(mesh::fitsPrecision(r->mesh, Precision::Single));
    EXPECT_FALSE(mesh::fitsPrecision(m, Precision::Single));
    EXPECT_TRUE(surveyed(r->mesh).solid);
    EXPECT_GT(r->rounded, 100U);
    EXPECT_LT(r->farthestMoved, 1e-6);
    EXPECT_EQ(r->mesh.triangles.size(), m.triangles.size());
}

// Walls thinner than the precision, at an offset that leaves a handful of units to a wall.
TEST(Settle, MendsWhatRoundingBreaks) {
    for (std::uint64_t seed = 0; seed < 30; ++seed) {
        AssemblyMaker maker(seed);
        const Assembly a = maker.make(5);  // 64 bits at 1e6: a thousand units a side in 32 bits
        const auto wide = fit::fuse(a.mesh, mesh::Pick(), {.precision = Precision::Double}, silent());
        ASSERT_TRUE(wide);
        const auto r = fit::settle(wide->mesh, Precision::Single, silent());
        ASSERT_TRUE(r);
        EXPECT_EQ(r->unsound.empty(), surveyed(r->mesh).solid || r->mesh.triangles.empty()) << seed;
    }
}

TEST(Settle, LeavesASettledSurfaceAlone) {
    const Mesh m = sphere();
    const auto r = fit::settle(m, Precision::Single, silent());
    EXPECT_EQ(r->mesh.triangles, m.triangles);
    EXPECT_EQ(r->mesh.positions, m.positions);
    EXPECT_EQ(r->rounded + r->recut + r->separated + r->joined, 0U);
}

// 200 assemblies, or 10 000 in the long mode: what is read back is solid and encloses what the input's winding number
// says.
TEST(Fuse, Assemblies) {
    const std::uint64_t count = longMode() ? 10000 : 200;
    const char* only = std::getenv("ZITHER_SEED");
    std::map<std::string, int> faults;
    int failed = 0;
    for (std::uint64_t seed = only ? std::strtoull(only, nullptr, 10) : 0;
         seed < (only ? std::strtoull(only, nullptr, 10) + 1 : count); ++seed) {
        const Assembly a = AssemblyMaker(seed).make(seed);
        const auto r = fit::fuse(a.mesh, mesh::Pick(),
                                 {.precision = a.wide ? Precision::Double : Precision::Single,
                                  .slivers = seed / 14 % 2 == 0 ? 0 : 1e-5 * mesh::boxOf(a.mesh).diagonal()},
                                 silent());
        ASSERT_TRUE(r);
        const std::string fault = r->mesh.triangles.empty()
                                      ? (a.kind == "an inside-out operand" ? "" : "nothing is left")
                                      : faultOf(a, readBack(r->mesh, a.wide));
        if (fault.empty()) continue;
        ++failed;
        ++faults[a.kind];
        if (failed <= 30)
            ADD_FAILURE() << "seed " << seed << ", " << a.kind << ": " << fault << "; unsound " << r->unsound.size();
    }
    for (const auto& [kind, n] : faults) std::printf("%s: %d failed\n", kind.c_str(), n);
    EXPECT_EQ(failed, 0) << "of " << count;
}

// Boxes on a small grid, a third of them inside out: faces lie on each other in layers that face both ways.
TEST(Skin, EveryPieceLiesInAndFacesAsTheTriangleThatItIsSaidToComeFrom) {
    rig::Random random(8);
    std::size_t pieces = 0;
    for (int round = 0; round < 400; ++round) {
        std::vector<Mesh> boxes;
        for (std::uint64_t n = 2 + random.below(5); n > 0; --n) {
            Point low, high;
            for (int k = 0; k < 3; ++k) {
                low[k] = static_cast<double>(random.below(3));
                high[k] = low[k] + 1 + static_cast<double>(random.below(2));
            }
            const Mesh one = box(low, high);
            boxes.push_back(random.below(3) == 0 ? flipped(one) : one);
        }
        const Mesh m = assembled(boxes);
        const auto skin = arrange::skinOf(check::Surveyed(m), {}, silent());
        ASSERT_TRUE(skin);
        for (mesh::TriangleId t = 0; t < skin->mesh.triangles.size(); ++t) {
            const mesh::TriangleId from = skin->sourceOf[t];
            const Point facing = mesh::areaVector(m, from).normalized();
            ASSERT_GT(facing.dot(mesh::areaVector(skin->mesh, t).normalized()), 0.999) << round << " " << t;
            for (unsigned k = 0; k < 3; ++k)
                ASSERT_NEAR(facing.dot(skin->mesh.corner(t, k) - m.corner(from, 0)), 0, 1e-12) << round << " " << t;
            pieces += t >= skin->whole;
        }
    }
    EXPECT_GT(pieces, 4000U);
}

}  // namespace
}  // namespace zither::tests
