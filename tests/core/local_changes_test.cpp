// Changes of an edge or a vertex at a time: what they must not do, against slow checks of the whole.
#include "fit/local_changes.h"

#include <cmath>

#include "fit/fuse.h"
#include "fit/settle.h"
#include "fit/sliver_removal.h"
#include "measure/mass.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using fit::LocalChanges;
using mesh::TriangleId;
using mesh::VertexId;
using Moves = LocalChanges::Moves;

// A closed surface of loose triangles, in 64 bits.
Mesh fromTriangles(const std::vector<std::array<Point, 3>>& triangles) {
    Mesh m = loose(triangles);
    mesh::joinEqualVertices(m);
    return m;
}

// A cube from the origin with each side in cells of one by one, each cell two triangles.
Mesh tiledBox(int side) {
    std::vector<std::array<Point, 3>> triangles;
    for (int axis = 0; axis < 3; ++axis)
        for (const int level : {0, side})
            for (int i = 0; i < side; ++i)
                for (int j = 0; j < side; ++j) {
                    const auto at = [&](int u, int v) {
                        Point p;
                        p[axis] = level;
                        p[(axis + 1) % 3] = i + u;
                        p[(axis + 2) % 3] = j + v;
                        return p;
                    };
                    std::array<std::array<Point, 3>, 2> cell{
                        {{at(0, 0), at(1, 0), at(1, 1)}, {at(0, 0), at(1, 1), at(0, 1)}}};
                    for (auto& t : cell) {
                        if (level == 0) std::swap(t[1], t[2]);
                        triangles.push_back(t);
                    }
                }
    return fromTriangles(triangles);
}

Mesh fused(const Mesh& m) {
    auto r = fit::fuse(m, mesh::Pick(), {}, silent());
    EXPECT_TRUE(r);
    return r ? r.value().mesh : Mesh();
}

Mesh alive(const LocalChanges& surface) {
    return mesh::keepTriangles(surface.mesh(), surface.alive());
}

VertexId vertexAt(const Mesh& m, const Point& p) {
    for (VertexId v = 0; v < m.positions.size(); ++v)
        if (m.positions[v] == p) return v;
    ADD_FAILURE() << "no vertex at " << p.transpose();
    return 0;
}

TriangleId triangleAt(const Mesh& m, const Point& centre) {
    TriangleId best = 0;
    double least = std::numeric_limits<double>::infinity();
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        const double distance = (mesh::centroid(m, t) - centre).norm();
        if (distance >= least) continue;
        least = distance;
        best = t;
    }
    return best;
}

double distanceTo(const Mesh& m, const Point& p) {
    return std::sqrt(space::TriangleTree(m).nearest(p)->distanceSquared);
}

TEST(LocalChanges, InAPlaneAVertexSlidesAsFarAsItLikes) {
    LocalChanges surface(tiledBox(4), {.tolerance = 1e-9});
    const VertexId from = vertexAt(surface.mesh(), Point(2, 2, 4));
    const VertexId onto = vertexAt(surface.mesh(), Point(3, 2, 4));
    // It leaves no fewer slivers than there were: none.
    EXPECT_FALSE(surface.collapse(from, onto, Moves::Surface));
    EXPECT_FALSE(surface.collapse(from, onto, Moves::Vertex)) << "farther than the tolerance";
    LocalChanges wide(tiledBox(4), {.tolerance = 1.5});
    EXPECT_TRUE(wide.collapse(from, onto, Moves::Vertex));
    const check::Survey s = surveyed(alive(wide));
    EXPECT_TRUE(s.solid);
    EXPECT_DOUBLE_EQ(s.mass.volume, 64);
}

// A thin triangle in a plane goes by a slide that is a hundred thousand times longer than the tolerance.
TEST(LocalChanges, CapsGoWhereTheSurfaceStaysWhereItIs) {
    Mesh m = tiledBox(4);
    m.positions[vertexAt(m, Point(2, 2, 4))] = Point(2.5, 1.5 + 1e-7, 4);
    const TriangleId cap = triangleAt(m, Point(2.5, 1.5, 4));
    ASSERT_LT(measure::leastHeight(m, cap), 1e-6);
    ASSERT_TRUE(surveyed(m).solid);
    const auto clean = fit::removeSlivers(m, {.tolerance = 1e-6, .slides = true}, silent());
    ASSERT_TRUE(clean);
    EXPECT_EQ(clean->left, 0U);
    EXPECT_TRUE(surveyed(clean->mesh).solid);
    EXPECT_NEAR(surveyed(clean->mesh).mass.volume, 64, 1e-6);
}

TEST(LocalChanges, OverAnEdgeOfTheBodyNothingSlides) {
    LocalChanges surface(tiledBox(2), {.tolerance = 0.1});
    const Mesh& m = surface.mesh();
    // From a corner to the middle of an edge a half of it would be cut off.
    EXPECT_FALSE(surface.collapse(vertexAt(m, Point(2, 2, 2)), vertexAt(m, Point(1, 2, 2)), Moves::Surface));
    EXPECT_EQ(Bits(alive(surface)), Bits(tiledBox(2)));
}

TEST(LocalChanges, WhatIsFixedOrOpenStays) {
    Mesh m = tiledBox(2);
    std::vector<std::uint8_t> fixed(m.triangles.size(), 0);
    const VertexId middle = vertexAt(m, Point(1, 1, 2));
    for (TriangleId t = 0; t < fixed.size(); ++t)
        if (mesh::hasCorner(m.triangles[t], middle)) {
            fixed[t] = 1;
            break;
        }
    LocalChanges surface(m, {.tolerance = 10, .fixed = fixed});
    EXPECT_FALSE(surface.collapse(middle, vertexAt(m, Point(2, 1, 2)), Moves::Vertex));
    EXPECT_FALSE(surface.moveTo(middle, Point(1.1, 1, 2)));

    const Mesh open = without(m, {triangleAt(m, Point(0.3, 0.6, 2))});
    LocalChanges rim(open, {.tolerance = 10, .moveTouching = true});
    const VertexId corner = vertexAt(open, Point(0, 0, 2));
    EXPECT_FALSE(rim.collapse(corner, vertexAt(open, Point(0, 1, 2)), Moves::Vertex));
    EXPECT_FALSE(rim.moveTo(corner, Point(0.1, 0, 2)));
}

// Three vertices in a ring around a neck: joining two of them would leave two surfaces on one edge.
TEST(LocalChanges, ANeckIsNotPinched) {
    std::vector<std::array<Point, 3>> soup;
    const auto ring = [](double z, double radius, int i) {
        const double at = 2 * M_PI * i / 3;
        return Point(radius * std::cos(at), radius * std::sin(at), z);
    };
    const std::array<std::pair<double, double>, 3> levels{{{-5, 4}, {0, 0.01}, {5, 4}}};
    for (std::size_t level = 0; level + 1 < levels.size(); ++level)
        for (int i = 0; i < 3; ++i) {
            const Point a = ring(levels[level].first, levels[level].second, i);
            const Point b = ring(levels[level].first, levels[level].second, (i + 1) % 3);
            const Point c = ring(levels[level + 1].first, levels[level + 1].second, i);
            const Point d = ring(levels[level + 1].first, levels[level + 1].second, (i + 1) % 3);
            soup.push_back({a, b, c});
            soup.push_back({b, d, c});
        }
    soup.push_back({ring(-5, 4, 0), ring(-5, 4, 2), ring(-5, 4, 1)});
    soup.push_back({ring(5, 4, 0), ring(5, 4, 1), ring(5, 4, 2)});
    const Mesh m = fromTriangles(soup);
    ASSERT_TRUE(surveyed(m).solid);
    for (const bool touching : {false, true}) {
        LocalChanges surface(m, {.tolerance = 0.1, .moveTouching = touching});
        EXPECT_FALSE(surface.collapse(vertexAt(m, ring(0, 0.01, 0)), vertexAt(m, ring(0, 0.01, 1)), Moves::Vertex));
    }
    // What takes it out keeps it a body.
    const auto clean = fit::removeSlivers(m, {.tolerance = 0.1, .slides = true}, silent());
    ASSERT_TRUE(clean);
    EXPECT_TRUE(surveyed(clean->mesh).solid);
    EXPECT_NEAR(surveyed(clean->mesh).mass.volume, surveyed(m).mass.volume, 0.1);
}

// Two boxes with a hair between them: what would close the hair is not done.
TEST(LocalChanges, NothingIsMadeToMeet) {
    Mesh lower = tiledBox(2);
    Mesh m = together(lower, box(Point(0.2, 0.2, 2.001), Point(1.8, 1.8, 3)));
    LocalChanges surface(m, {.tolerance = 0.01});
    EXPECT_FALSE(surface.moveTo(vertexAt(m, Point(1, 1, 2)), Point(1, 1, 2.005)));
    EXPECT_TRUE(surveyed(alive(surface)).solid);
}

TEST(LocalChanges, BordersOfRegionsStayWhereTheyAre) {
    Mesh m = tiledBox(4);
    m.regionNames = {"half", "other"};
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        m.regions.push_back(m.corner(t, 0).x() + m.corner(t, 1).x() + m.corner(t, 2).x() > 6 ? 1 : 0);
    // A cap on the border: it swaps, and what was its own goes to the neighbour.
    m.positions[vertexAt(m, Point(1, 1, 4))] = Point(2 - 1e-7, 1.5, 4);
    ASSERT_TRUE(surveyed(m).solid);
    const auto clean = fit::removeSlivers(m, {.tolerance = 1e-6, .slides = true}, silent());
    ASSERT_TRUE(clean);
    EXPECT_EQ(clean->left, 0U);
    const check::Survey s = surveyed(clean->mesh);
    EXPECT_TRUE(s.solid);
    std::array<double, 2> area{};
    for (TriangleId t = 0; t < clean->mesh.triangles.size(); ++t)
        area[clean->mesh.regions[t]] += 0.5 * mesh::areaVector(clean->mesh, t).norm();
    EXPECT_NEAR(area[0], 48, 1e-5);
    EXPECT_NEAR(area[1], 48, 1e-5);
}

// Whatever is tried, in whatever order: the surface stays solid, and near to all that it was.
TEST(LocalChanges, AnyOrderEndsSoundAndNear) {
    for (std::uint64_t seed = 0; seed < 12; ++seed) {
        rig::Random random(seed);
        const Assembly a = AssemblyMaker(seed).make(seed);
        const auto settled = fit::settle(fused(a.mesh), mesh::Precision::Single, silent());
        ASSERT_TRUE(settled);
        const Mesh& before = settled->mesh;
        if (!surveyed(before).solid || before.triangles.empty()) continue;
        const double tolerance = 0.01 * mesh::boxOf(before).diagonal();
        LocalChanges surface(before, {.tolerance = tolerance, .moveTouching = seed % 2 == 0});
        for (int i = 0; i < 300; ++i) {
            const auto t = static_cast<TriangleId>(random.below(before.triangles.size()));
            if (!surface.alive()[t]) continue;
            const mesh::Triangle corners = surface.mesh().triangles[t];
            const auto k = static_cast<unsigned>(random.below(3));
            const VertexId from = corners[k];
            const VertexId onto = corners[(k + 1) % 3];
            switch (random.below(4)) {
                case 0:
                    (void)surface.collapse(from, onto, Moves::Vertex);
                    break;
                case 1:
                    (void)surface.collapse(from, onto, Moves::Surface);
                    break;
                case 2:
                    (void)surface.swapLongest(t);
                    break;
                default:
                    (void)surface.moveTo(from, surface.mesh().positions[from] +
                                                   tolerance * Point(random.uniform() - 0.5, random.uniform() - 0.5,
                                                                     random.uniform() - 0.5));
            }
        }
        const Mesh after = alive(surface);
        EXPECT_TRUE(surveyed(after).solid) << a.kind << ", seed " << seed;
        const space::TriangleTree tree(after);
        for (const Point& p : before.positions)
            ASSERT_LE(std::sqrt(tree.nearest(p)->distanceSquared), 1.0000001 * tolerance)
                << a.kind << ", seed " << seed;
        EXPECT_LE(surface.farthestMoved(), tolerance);
    }
}

// A fan of caps one above the other, as cuts of nearly coplanar faces leave: no swap helps any of them alone.
TEST(LocalChanges, StacksOfCapsGo) {
    for (const std::size_t caps : {2U, 5U, 12U}) {
        // A box whose top has a diagonal with vertices on it that bend it by a hair; on one side of it each has a
        // triangle with the far corner, on the other they lie in a stack of caps.
        std::vector<Point> line{Point(0, 0, 0)};
        for (std::size_t i = 1; i < caps; ++i) {
            const double x = 10.0 * static_cast<double>(i) / static_cast<double>(caps);
            line.emplace_back(x, 0.2 * x - 4e-8 * x * (10 - x), 0);
        }
        line.emplace_back(10, 2, 0);
        std::vector<std::array<Point, 3>> soup;
        const Mesh whole = box(Point(0, 0, -1), Point(10, 2, 0));
        for (TriangleId t = 0; t < whole.triangles.size(); ++t)
            if (mesh::areaVector(whole, t).z() <= 0)
                soup.push_back({whole.corner(t, 0), whole.corner(t, 1), whole.corner(t, 2)});
        for (std::size_t i = 0; i + 1 < line.size(); ++i) soup.push_back({line[i], Point(10, 0, 0), line[i + 1]});
        for (std::size_t i = 1; i + 1 < line.size(); ++i) soup.push_back({line[0], line[i], line[i + 1]});
        soup.push_back({line[0], line.back(), Point(0, 2, 0)});
        const Mesh m = fromTriangles(soup);
        ASSERT_TRUE(surveyed(m).solid) << caps;
        const auto clean = fit::removeSlivers(m, {.tolerance = 1e-5, .slides = true}, silent());
        ASSERT_TRUE(clean);
        EXPECT_EQ(clean->left, 0U) << caps;
        EXPECT_TRUE(surveyed(clean->mesh).solid) << caps;
        EXPECT_LE(clean->farthestMoved, 1e-5);
        for (const Point& p : line) EXPECT_LE(distanceTo(clean->mesh, p), 1e-5);
    }
}

// Where nothing can be taken out, the triangle is made as wide as it has to be, on the grid of the file.
TEST(LocalChanges, WidensWhereNothingElseHelps) {
    // A needle between two vertices that both are corners of the body.
    const double hair = 4e-7;
    const Point a(0, 0, 0);
    const Point b(hair, 0, 0);
    const Point c(0, 8, 0);
    const Point d(0, 0, 8);
    const Point e(-8, -8, -8);
    const Mesh m = fromTriangles({{a, c, b}, {a, b, d}, {b, c, d}, {a, d, e}, {d, c, e}, {c, a, e}});
    ASSERT_TRUE(surveyed(m).solid);
    const double tolerance = 1e-6;
    const auto clean =
        fit::removeSlivers(m, {.tolerance = tolerance, .widens = true, .precision = mesh::Precision::Single}, silent());
    ASSERT_TRUE(clean);
    EXPECT_EQ(clean->left, 0U);
    EXPECT_TRUE(surveyed(clean->mesh).solid);
    EXPECT_TRUE(mesh::fitsPrecision(clean->mesh, mesh::Precision::Single));
    EXPECT_LE(clean->farthestMoved, tolerance);
}

TEST(LocalChanges, ManySliversEndWithinTheTolerance) {
    for (std::uint64_t seed = 0; seed < 6; ++seed) {
        const Mesh before = fused(AssemblyMaker(seed).make(seed).mesh);
        const double tolerance = 0.003 * mesh::boxOf(before).diagonal();
        const auto clean = fit::removeSlivers(
            before, {.tolerance = tolerance, .moveTouching = true, .slides = true, .widens = true}, silent());
        ASSERT_TRUE(clean);
        EXPECT_TRUE(surveyed(clean->mesh).solid) << seed;
        for (const Point& p : before.positions) ASSERT_LE(distanceTo(clean->mesh, p), 1.0000001 * tolerance) << seed;
        // Triangles say which they were.
        ASSERT_EQ(clean->sourceOf.size(), clean->mesh.triangles.size());
    }
}

}  // namespace
}  // namespace zither::tests
