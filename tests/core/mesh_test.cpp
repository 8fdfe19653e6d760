// Edges, groups, vertex joining, picks, against slow code.
#include <algorithm>
#include <atomic>
#include <map>
#include <random>
#include <set>

#include "mesh/edges.h"
#include "mesh/lazy.h"
#include "mesh/memory.h"
#include "mesh/parallel.h"
#include "mesh/vertex_join.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Edges;
using mesh::HalfEdge;

TEST(VertexJoin, EqualsAMapOnGridPoints) {
    rig::Random random(1);
    std::vector<Point> points;
    for (int i = 0; i < 20000; ++i) {
        const auto c = [&] { return static_cast<double>(random.below(12)); };
        const double x = c();
        const double y = c();
        points.emplace_back(x, y, c());
    }
    std::map<std::array<double, 3>, std::uint32_t> first;
    const auto joined = mesh::firstOfEqual(std::span<const Point>(points));
    for (std::uint32_t i = 0; i < points.size(); ++i) {
        const auto expected = first.emplace(std::array{points[i].x(), points[i].y(), points[i].z()}, i).first->second;
        ASSERT_EQ(joined[i], expected);
    }
}

TEST(VertexJoin, NegativeZeroEqualsZeroAndOneUlpDoesNot) {
    const std::vector<Point> points = {Point(0.0, -0.0, 0.0), Point(-0.0, 0.0, -0.0),
                                       Point(std::nextafter(0.0, 1.0), 0, 0), Point(1, 0, 0),
                                       Point(std::nextafter(1.0, 2.0), 0, 0)};
    EXPECT_EQ(mesh::firstOfEqual(std::span<const Point>(points)), (std::vector<mesh::VertexId>{0, 0, 2, 3, 4}));
}

TEST(VertexJoin, NothingForNothing) {
    EXPECT_TRUE(mesh::firstOfEqual(std::span<const Point>()).empty());
}

TEST(VertexJoin, SameForOneThread) {
    rig::Random random(2);
    std::vector<mesh::PointF> points;
    for (int i = 0; i < 100000; ++i) {
        const auto c = [&] { return static_cast<float>(random.below(30)); };
        const float x = c();
        const float y = c();
        points.emplace_back(x, y, c());
    }
    const auto run = [&] { return mesh::firstOfEqual(std::span<const mesh::PointF>(points)); };
    EXPECT_EQ(run(), withOneThread(run));
}

#if !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
// The C library learns from what is freed to keep arrays of that size.
TEST(Memory, LargeArraysGoBackWhenTheyAreFreedWhateverWasFreedBefore) {
    mesh::returnFreedMemory();
    constexpr std::size_t numbers = 1'000'000;
    for (int i = 0; i < 3; ++i) std::vector<double>(numbers, 1.0).shrink_to_fit();
    const std::uint64_t before = mesh::usedMemory();
    std::vector<std::vector<double>> large;
    std::vector<std::vector<double>> small;
    for (int i = 0; i < 20; ++i) {
        large.emplace_back(numbers, 1.0);
        small.emplace_back(100, 1.0);  // above it, where all were in one heap
    }
    EXPECT_GE(mesh::usedMemory(), before + 150'000'000);
    large.clear();
    EXPECT_LE(mesh::usedMemory(), before + 30'000'000);
}
#endif

TEST(Mesh, ValidateNamesWhatIsWrong) {
    Mesh m = unitBox();
    EXPECT_EQ(mesh::validate(m), "");
    m.triangles[3][1] = 99;
    EXPECT_EQ(mesh::validate(m), "triangle 3 uses vertex 99 of 8");
    m = unitBox();
    m.positions[2].x() = std::numeric_limits<double>::quiet_NaN();
    EXPECT_EQ(mesh::validate(m), "vertex 2 is not finite");
    m = unitBox();
    m.regions = {1, 2};
    EXPECT_EQ(mesh::validate(m), "2 regions for 12 triangles");
    m.regions.assign(12, 0);
    EXPECT_EQ(mesh::validate(m), "region 0 of 0");
}

TEST(Mesh, KeepTrianglesKeepsBitsAndRegions) {
    Mesh m = unitBox();
    m.regionNames = {"low", "high"};
    m.regions.assign(12, 0);
    m.regions[7] = 1;
    const Mesh kept = without(m, {0, 1});
    ASSERT_EQ(kept.triangles.size(), 10U);
    EXPECT_EQ(kept.regions[5], 1U);
    for (mesh::TriangleId t = 0; t < 10; ++t)
        for (unsigned k = 0; k < 3; ++k) EXPECT_EQ(kept.corner(t, k), m.corner(t + 2, k));
}

TEST(Mesh, AppendKeepsRegionNamesApart) {
    Mesh a = unitBox();
    Mesh b = unitBox();
    b.regionNames = {"lid"};
    b.regions.assign(12, 0);
    mesh::append(a, b);
    EXPECT_EQ(mesh::validate(a), "");
    EXPECT_EQ(a.regionNames, (std::vector<std::string>{"", "lid"}));
    EXPECT_EQ(a.regionOf(0), 0U);
    EXPECT_EQ(a.regionOf(12), 1U);
}

TEST(Mesh, DropUnusedVertices) {
    Mesh m = unitBox();
    m.positions.insert(m.positions.begin(), Point(7, 7, 7));
    for (auto& t : m.triangles)
        for (auto& v : t) ++v;
    EXPECT_EQ(mesh::dropUnusedVertices(m), 1U);
    EXPECT_EQ(m.positions, unitBox().positions);
    EXPECT_EQ(m.triangles, unitBox().triangles);
}

TEST(Box, EmptyHasNoExtent) {
    const mesh::Box box;
    EXPECT_TRUE(box.empty());
    EXPECT_EQ(box.diagonal(), 0);
    EXPECT_EQ(box.centre(), Point(0, 0, 0));
}

// The slow and obvious edges: a map from vertex pairs to half-edges.
std::map<std::pair<mesh::VertexId, mesh::VertexId>, std::vector<HalfEdge>> slowEdges(const Mesh& m) {
    std::map<std::pair<mesh::VertexId, mesh::VertexId>, std::vector<HalfEdge>> edges;
    for (HalfEdge h = 0; h < 3 * m.triangles.size(); ++h)
        if (!mesh::isCollapsed(m.triangles[h / 3])) edges[std::minmax(fromVertex(m, h), toVertex(m, h))].push_back(h);
    return edges;
}

TEST(Edges, EqualAMapOnUglyMeshes) {
    for (const auto& [name, m] : uglyMeshes()) {
        SCOPED_TRACE(name);
        const Edges edges(m);
        const auto slow = slowEdges(m);
        ASSERT_EQ(edges.count(), slow.size());
        mesh::EdgeId e = 0;
        for (const auto& [ends, around] : slow) {
            const auto fast = edges.around(e);
            EXPECT_EQ(std::vector<HalfEdge>(fast.begin(), fast.end()), around);
            for (HalfEdge h : around) EXPECT_EQ(edges.edgeOf(h), e);
            ++e;
        }
    }
}

TEST(Edges, TwinsOfABoxAreMutual) {
    const Mesh m = unitBox();
    const Edges edges(m);
    for (HalfEdge h = 0; h < 36; ++h) {
        EXPECT_EQ(edges.twin(edges.twin(h)), h);
        EXPECT_FALSE(mesh::runsAlong(m, h, edges.twin(h)));
    }
}

TEST(Shells, AreNumberedByFirstTriangleAndLinkedByAnyDegree) {
    const Mesh m = together(unitBox(), box(Point(3, 0, 0), Point(4, 1, 1)));
    const Edges edges(m);
    const mesh::Groups shells = mesh::shellsOf(m, edges);
    EXPECT_EQ(shells.count, 2U);
    EXPECT_EQ(shells.of[0], 0U);
    EXPECT_EQ(shells.of[12], 1U);
    const Mesh joined = together(unitBox(), box(Point(1, 1, 0), Point(2, 2, 1)));
    EXPECT_EQ(mesh::shellsOf(joined, Edges(joined)).count, 1U);
    EXPECT_EQ(mesh::patchesOf(joined, Edges(joined)).count, 2U);
}

// Against following each corner to the only one that it can lead to, on small random fans: full of forks and of two
// fans at one vertex.
TEST(GoAroundOnce, IsOneRingWithoutForks) {
    std::mt19937 random(5);
    std::size_t rings = 0;
    for (int run = 0; run < 20000; ++run) {
        const std::size_t count = random() % 6;
        std::vector<mesh::VertexId> from(count);
        std::vector<mesh::VertexId> to(count);
        for (std::size_t i = 0; i < count; ++i) from[i] = to[i] = static_cast<mesh::VertexId>(i);
        std::shuffle(to.begin(), to.end(), random);
        if (count > 0 && random() % 4 == 0) to[random() % count] = static_cast<mesh::VertexId>(random() % 6);
        if (count > 0 && random() % 4 == 0) from[random() % count] = static_cast<mesh::VertexId>(random() % 6);
        std::map<mesh::VertexId, mesh::VertexId> leads;
        for (std::size_t i = 0; i < count; ++i) leads.emplace(from[i], to[i]);
        std::set<mesh::VertexId> passed;
        mesh::VertexId at = count > 0 ? from[0] : mesh::VertexId(0);
        while (leads.contains(at) && passed.insert(at).second) at = leads[at];
        const bool ring = count > 0 && leads.size() == count && passed.size() == count && at == from[0];
        rings += ring;
        EXPECT_EQ(mesh::goAroundOnce(
                      count, [&](std::size_t i) { return from[i]; }, [&](std::size_t i) { return to[i]; }),
                  ring);
    }
    EXPECT_GT(rings, 1000U);
}

TEST(Corners, ListEveryTriangleAtAVertex) {
    const Mesh m = gridSoup(3, 80, 3);
    const mesh::Corners corners(m);
    for (mesh::VertexId v = 0; v < m.positions.size(); ++v)
        for (HalfEdge h : corners.at(v)) EXPECT_EQ(fromVertex(m, h), v);
}

TEST(Mesh, TheSameSurfaceMayBeNumberedOtherwiseAndNothingElse) {
    const Mesh m = sphere();
    Mesh other = m;
    std::reverse(other.positions.begin(), other.positions.end());
    for (mesh::Triangle& t : other.triangles)
        for (mesh::VertexId& v : t) v = m.positions.size() - 1 - v;
    EXPECT_TRUE(mesh::isSameSurface(m, m));
    EXPECT_TRUE(mesh::isSameSurface(m, other));
    // One bit of one coordinate, the order of triangles or of corners, a corner that is torn or joined, one missing.
    Mesh bit = other;
    bit.positions[20].x() = std::nextafter(bit.positions[20].x(), 1e9);
    Mesh order = other;
    std::swap(order.triangles[3], order.triangles[4]);
    Mesh turned = other;
    std::rotate(turned.triangles[9].begin(), turned.triangles[9].begin() + 1, turned.triangles[9].end());
    Mesh torn = other;
    torn.positions.push_back(torn.positions[torn.triangles[7][1]]);
    torn.triangles[7][1] = torn.positions.size() - 1;
    Mesh fewer = other;
    fewer.triangles.pop_back();
    for (const Mesh& changed : {bit, order, turned, torn, fewer}) {
        EXPECT_FALSE(mesh::isSameSurface(m, changed));
        EXPECT_FALSE(mesh::isSameSurface(changed, m));
    }
    EXPECT_TRUE(mesh::isSameSurface(Mesh(), Mesh()));
}

TEST(Box, WidenedReachesSoMuchFartherOnEverySide) {
    const mesh::Box wide = mesh::Box{Point(1, 2, 3), Point(4, 6, 8)}.widened(0.5);
    EXPECT_EQ(wide.min, Point(0.5, 1.5, 2.5));
    EXPECT_EQ(wide.max, Point(4.5, 6.5, 8.5));
}

TEST(Traced, SourcesFollowWhatIsKeptAppendedAndMadeOfSomethingMade) {
    const Mesh m = box(Point(0, 0, 0), Point(1, 1, 1));
    mesh::Traced part = mesh::Traced::all(m);
    ASSERT_EQ(part.sourceOf.size(), 12U);
    EXPECT_EQ(part.sourceOf[7], 7U);
    std::vector<std::uint8_t> flags(12, 0);
    flags[3] = flags[8] = 1;
    part.keep(flags);
    EXPECT_EQ(part.sourceOf, (std::vector<mesh::TriangleId>{3, 8}));
    ASSERT_EQ(part.mesh.triangles.size(), 2U);
    for (unsigned k = 0; k < 3; ++k) {
        EXPECT_EQ(part.mesh.corner(0, k), m.corner(3, k));
        EXPECT_EQ(part.mesh.corner(1, k), m.corner(8, k));
    }
    // A patch, which comes of nothing.
    part.append({m, std::vector<mesh::TriangleId>(12, mesh::noIndex)});
    EXPECT_EQ(part.mesh.triangles.size(), 14U);
    std::vector<mesh::TriangleId> before(12);
    for (mesh::TriangleId t = 0; t < 12; ++t) before[t] = 100 + t;
    part.trace(before);
    EXPECT_EQ(part.sourceOf[0], 103U);
    EXPECT_EQ(part.sourceOf[1], 108U);
    EXPECT_EQ(part.sourceOf[2], mesh::TriangleId(mesh::noIndex));
}

TEST(Lazy, MakesItsValueOnceAndAgainOnceForgotten) {
    const mesh::Lazy<std::vector<int>> lazy;
    std::atomic<int> made = 0;
    const auto make = [&] { return std::vector<int>(3, ++made); };
    mesh::parallelFor(64, 1, [&](std::size_t) { EXPECT_EQ(lazy.get(make).at(2), 1); });
    EXPECT_EQ(made, 1);
    lazy.forget();
    EXPECT_EQ(lazy.get(make).at(2), 2);
    // Where it could not be made the next one tries again.
    lazy.forget();
    EXPECT_THROW(lazy.get([]() -> std::vector<int> { throw std::bad_alloc(); }), std::bad_alloc);
    EXPECT_EQ(lazy.get(make).at(2), 3);
    lazy.forget();
    lazy.forget();
}

}  // namespace
}  // namespace zither::tests
