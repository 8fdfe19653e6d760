// Patches against the best of all triangulations, and rims against a slow walk.
#include <cmath>
#include <functional>
#include <map>
#include <numbers>
#include <set>

#include "holes/patches.h"
#include "holes/rims.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using holes::Loop;
using mesh::Triangle;
using mesh::VertexId;

Loop wholeLoop(std::size_t n) {
    Loop loop;
    for (std::size_t i = 0; i < n; ++i) loop.vertices.emplace_back(i);
    loop.rimNormals.assign(n, Point(0, 0, 1));
    return loop;
}

double areaOf(const std::vector<Point>& p, const Triangle& t) {
    return 0.5 * (p[t[1]] - p[t[0]]).cross(p[t[2]] - p[t[0]]).norm();
}

double areaOf(const std::vector<Point>& positions, const holes::Patch& patch) {
    std::vector<Point> all = positions;
    all.insert(all.end(), patch.added.begin(), patch.added.end());
    double area = 0;
    for (const Triangle& t : patch.triangles) area += areaOf(all, t);
    return area;
}

// The least area of all triangulations of the loop from i to j that the test accepts; infinite where there is none.
double leastArea(const std::vector<Point>& p, std::size_t i, std::size_t j,
                 const std::function<bool(std::size_t, std::size_t, std::size_t)>& accept) {
    if (j - i < 2) return 0;
    double least = std::numeric_limits<double>::infinity();
    for (std::size_t k = i + 1; k < j; ++k) {
        if (!accept(i, k, j)) continue;
        least = std::min(least, areaOf(p, {i, k, j}) + leastArea(p, i, k, accept) + leastArea(p, k, j, accept));
    }
    return least;
}

// The rim of a shallow bowl: no fold is sharp, so that area alone decides.
std::vector<Point> shallowRim(rig::Random& random, std::size_t n) {
    std::vector<Point> p;
    for (std::size_t i = 0; i < n; ++i) {
        const double angle =
            2 * std::numbers::pi * (static_cast<double>(i) + 0.3 * random.uniform()) / static_cast<double>(n);
        p.emplace_back(10 * std::cos(angle), 10 * std::sin(angle), 2 * random.uniform());
    }
    return p;
}

TEST(HolesMirror, TautPatchesHaveTheLeastAreaOfAllTriangulations) {
    for (std::uint64_t seed = 0; seed < 200; ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed);
        const std::size_t n = 4 + random.below(6);
        const std::vector<Point> p = shallowRim(random, n);
        // One chord in four is an edge already.
        std::set<std::pair<std::size_t, std::size_t>> edges;
        for (std::size_t i = 0; i < n; ++i)
            for (std::size_t j = i + 2; j < n; ++j)
                if (!(i == 0 && j == n - 1) && random.below(4) == 0) edges.insert({i, j});
        const auto isEdge = [&](VertexId a, VertexId b) {
            return edges.contains({std::min<std::size_t>(a, b), std::max<std::size_t>(a, b)});
        };
        const auto patch = holes::tautPatch(p, wholeLoop(n), {isEdge}, silent());
        ASSERT_TRUE(patch);
        const double least = leastArea(p, 0, n - 1, [&](std::size_t i, std::size_t k, std::size_t j) {
            return !isEdge(i, k) && !isEdge(k, j) && !isEdge(i, j);
        });
        if (std::isinf(least)) {
            EXPECT_TRUE(patch->triangles.empty());
            continue;
        }
        EXPECT_EQ(patch->triangles.size(), n - 2);
        EXPECT_NEAR(areaOf(p, *patch), least, 1e-9 * least);
    }
}

// Every rim edge once and in the loop's direction, every other edge twice and once each way.
void expectClosesRim(const holes::Patch& patch, std::size_t n) {
    std::map<std::pair<std::uint32_t, std::uint32_t>, int> directed;
    for (const Triangle& t : patch.triangles)
        for (unsigned k = 0; k < 3; ++k) ++directed[{t[k], t[(k + 1) % 3]}];
    for (const auto& [edge, count] : directed) {
        EXPECT_EQ(count, 1);
        const bool rim = edge.first < n && edge.second == (edge.first + 1) % n;
        EXPECT_EQ(directed.contains({edge.second, edge.first}), !rim);
    }
    for (std::uint32_t i = 0; i < n; ++i) EXPECT_TRUE(directed.contains({i, static_cast<std::uint32_t>((i + 1) % n)}));
}

TEST(HolesMirror, EveryKindOfPatchClosesItsRim) {
    for (std::uint64_t seed = 0; seed < 100; ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed + 700);
        const std::size_t n = 3 + random.below(30);
        std::vector<Point> p = shallowRim(random, n);
        const Loop loop = wholeLoop(n);
        const auto free = [](VertexId, VertexId) { return false; };
        const auto taut = holes::tautPatch(p, loop, {free}, silent());
        ASSERT_TRUE(taut);
        expectClosesRim(*taut, n);
        expectClosesRim(holes::ruledPatch(p, loop), n);
        expectClosesRim(holes::fanPatch(p, loop), n);
        for (Point& q : p) q.z() = 0;
        const holes::Patch flat = holes::flatPatch(p, std::array{loop}, Point(0, 0, 1));
        double area = 0;
        for (std::size_t i = 0; i < n; ++i) area += 0.5 * p[i].cross(p[(i + 1) % n]).z();
        EXPECT_NEAR(areaOf(p, flat), area, 1e-9 * area);
        if (flat.added.empty()) expectClosesRim(flat, n);
    }
}

TEST(HolesMirror, FlatPatchesCoverThePolygonWithItsIslands) {
    for (std::uint64_t seed = 0; seed < 60; ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed);
        std::vector<Point> p;
        std::vector<Loop> loops;
        double expected = 0;
        // A star around, and stars inside it that run the other way round.
        const auto star = [&](const Point& centre, double radius, bool against) {
            const std::size_t n = 5 + random.below(8);
            Loop loop;
            std::vector<Point> corners;
            for (std::size_t i = 0; i < n; ++i) {
                const double angle =
                    2 * std::numbers::pi * static_cast<double>(against ? n - i : i) / static_cast<double>(n);
                const double r = radius * (0.6 + 0.4 * random.uniform());
                corners.push_back(centre + r * Point(std::cos(angle), std::sin(angle), 0));
            }
            for (std::size_t i = 0; i < n; ++i) {
                loop.vertices.emplace_back(p.size() + i);
                expected += 0.5 * corners[i].cross(corners[(i + 1) % n]).z();
            }
            loop.rimNormals.assign(n, Point(0, 0, 1));
            p.insert(p.end(), corners.begin(), corners.end());
            loops.push_back(loop);
        };
        star(Point(0, 0, 0), 20, false);
        const std::size_t islands = random.below(4);
        for (std::size_t i = 0; i < islands; ++i) {
            const double angle = 2 * std::numbers::pi * static_cast<double>(i) / 4;
            star(Point(5 * std::cos(angle), 5 * std::sin(angle), 0), 2.5, true);
        }
        const holes::Patch flat = holes::flatPatch(p, loops, Point(0, 0, 1));
        EXPECT_NEAR(areaOf(p, flat), expected, 1e-9 * expected);
    }
}

// ---- rims

TEST(HolesMirror, RimsCoverEachOpenEdgeOnce) {
    for (std::uint64_t seed = 0; seed < 120; ++seed) {
        SCOPED_TRACE(seed);
        // A ball with many triangles taken out: holes that touch each other at vertices.
        Mesh m = sphere(10, 14, 9);
        rig::Random random(seed);
        std::vector<std::uint8_t> keep(m.triangles.size());
        for (std::uint8_t& k : keep) k = random.below(4) != 0;
        m = mesh::keepTriangles(m, keep);
        const mesh::Edges edges(m);
        std::size_t notClosed = 0;
        const std::vector<holes::Rim> rims = holes::rimsOf(m, edges, notClosed);
        EXPECT_EQ(notClosed, 0U);
        std::set<std::uint32_t> open;
        for (mesh::EdgeId e = 0; e < edges.count(); ++e)
            if (edges.degree(e) == 1) open.insert(edges.around(e)[0]);
        std::set<std::uint32_t> covered;
        for (const holes::Rim& rim : rims) {
            std::set<std::uint32_t> vertices;
            for (std::size_t i = 0; i < rim.size(); ++i) {
                EXPECT_TRUE(covered.insert(rim[i]).second);
                EXPECT_TRUE(vertices.insert(mesh::fromVertex(m, rim[i])).second);
                EXPECT_EQ(mesh::toVertex(m, rim[i]), mesh::fromVertex(m, rim[(i + 1) % rim.size()]));
            }
        }
        EXPECT_EQ(covered, open);
    }
}

}  // namespace
}  // namespace zither::tests
