// What the decision stands on: pieces, cells, the minimum cut and candidate patches, against slow mirrors.
#include <Eigen/Geometry>
#include <cmath>
#include <set>

#include "arrange/pieces.h"
#include "enclose/cells.h"
#include "enclose/minimum_cut.h"
#include "holes/candidates.h"
#include "tests/core/assemblies.h"
#include "tests/core/enclosed.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

TEST(Pieces, CoverTheSurfaceAndMeetInWholeEdges) {
    for (std::uint64_t seed = 0; seed < 40; ++seed) {
        SCOPED_TRACE(seed);
        const Mesh m = gridSoup(seed, 12, 4);
        auto p = arrange::piecesOf(check::Surveyed(m), {}, silent());
        ASSERT_TRUE(p);
        // Settled to doubles nothing crosses any more: pieces share edges and corners, and nothing else.
        double area = 0;
        for (TriangleId t = 0; t < p->mesh.triangles.size(); ++t) area += 0.5 * mesh::areaVector(p->mesh, t).norm();
        EXPECT_LE(area, surveyed(m).mass.area * (1 + 1e-12));
        std::set<mesh::Triangle> corners;
        for (const mesh::Triangle& t : p->mesh.triangles) EXPECT_TRUE(corners.insert(mesh::sortedCorners(t)).second);
        for (TriangleId t = 0; t < p->whole; ++t)
            for (unsigned k = 0; k < 3; ++k) EXPECT_EQ(p->mesh.corner(t, k), m.corner(p->sourceOf[t], k));
        // Every piece lies in the plane of its triangle.
        for (TriangleId t = 0; t < p->mesh.triangles.size(); ++t) {
            const Point n = mesh::areaVector(m, p->sourceOf[t]).normalized();
            EXPECT_NEAR(n.dot(mesh::centroid(p->mesh, t) - m.corner(p->sourceOf[t], 0)), 0, 1e-9);
        }
    }
}

TEST(Cells, OfGridBoxesAreTheConnectedRegionsOfSpace) {
    for (std::uint64_t seed = 0; seed < 60; ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed + 40);
        constexpr int side = 6;
        std::vector<Mesh> parts;
        std::vector<std::array<std::array<int, 3>, 2>> boxes;
        for (std::size_t i = 0; i < 1 + random.below(5); ++i) {
            std::array<std::array<int, 3>, 2> b{};
            for (unsigned k = 0; k < 3; ++k) {
                b[0][k] = static_cast<int>(random.below(side - 1));
                b[1][k] = b[0][k] + 1 + static_cast<int>(random.below(static_cast<std::size_t>(side - b[0][k])));
            }
            boxes.push_back(b);
            parts.push_back(box(Point(b[0][0], b[0][1], b[0][2]), Point(b[1][0], b[1][1], b[1][2])));
        }
        const Mesh m = assembled(parts);
        auto pieces = arrange::piecesOf(check::Surveyed(m), {}, silent());
        ASSERT_TRUE(pieces);
        auto cells = enclose::cellsOf(*pieces, m, silent());
        ASSERT_TRUE(cells);
        // The slow way: unit cells flooded through faces that no box has.
        const auto wall = [&](std::array<int, 3> c, unsigned axis) {
            // Between c and its neighbour up the axis.
            return std::any_of(boxes.begin(), boxes.end(), [&](const auto& b) {
                bool over = b[0][axis] == c[axis] + 1 || b[1][axis] == c[axis] + 1;
                for (unsigned k = 0; k < 3; ++k)
                    if (k != axis) over = over && b[0][k] <= c[k] && c[k] < b[1][k];
                return over;
            });
        };
        std::set<std::array<int, 3>> seen;
        std::size_t regions = 0;
        for (int x = -1; x <= side; ++x)
            for (int y = -1; y <= side; ++y)
                for (int z = -1; z <= side; ++z) {
                    if (!seen.insert({x, y, z}).second) continue;
                    ++regions;
                    std::vector<std::array<int, 3>> open{{x, y, z}};
                    while (!open.empty()) {
                        const auto c = open.back();
                        open.pop_back();
                        for (unsigned axis = 0; axis < 3; ++axis)
                            for (const int step : {-1, 1}) {
                                auto next = c;
                                next[axis] += step;
                                if (next[axis] < -1 || next[axis] > side) continue;
                                if (wall(step > 0 ? c : next, axis) || !seen.insert(next).second) continue;
                                open.push_back(next);
                            }
                    }
                }
        EXPECT_EQ(cells->count, regions);
    }
}

TEST(MinimumCut, IsTheBestOfAllLabellings) {
    for (std::uint64_t seed = 0; seed < 200; ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed);
        const std::size_t n = 1 + random.below(9);
        std::vector<enclose::CutNode> nodes(n);
        for (auto& node : nodes) node = {static_cast<double>(random.below(10)), static_cast<double>(random.below(10))};
        std::vector<enclose::CutEdge> edges;
        for (std::uint32_t a = 0; a < n; ++a)
            for (std::uint32_t b = a + 1; b < n; ++b)
                if (random.below(2) == 0)
                    edges.push_back({a, b, static_cast<double>(random.below(6)), static_cast<double>(random.below(6))});
        const auto cost = [&](const std::vector<std::uint8_t>& full) {
            double sum = 0;
            for (std::size_t i = 0; i < n; ++i) sum += full[i] != 0 ? nodes[i].full : nodes[i].empty;
            for (const enclose::CutEdge& e : edges)
                if (full[e.a] != full[e.b]) sum += full[e.a] != 0 ? e.aFull : e.bFull;
            return sum;
        };
        // The least cost, and of labellings that cost as much the fewest that are full.
        std::pair<double, std::ptrdiff_t> least{std::numeric_limits<double>::infinity(), 0};
        const auto worth = [&](const std::vector<std::uint8_t>& full) {
            return std::pair(cost(full), std::count(full.begin(), full.end(), 1));
        };
        for (std::size_t bits = 0; bits < (std::size_t{1} << n); ++bits) {
            std::vector<std::uint8_t> full(n);
            for (std::size_t i = 0; i < n; ++i) full[i] = static_cast<std::uint8_t>((bits >> i) & 1);
            least = std::min(least, worth(full));
        }
        // Whole numbers, so that sums are exact.
        EXPECT_EQ(worth(enclose::minimumCut(nodes, edges)), least);
    }
}

TEST(MinimumCut, WhereNothingCostsAnythingAllIsEmpty) {
    EXPECT_EQ(enclose::minimumCut({{}, {}, {}}, {{0, 1, 0, 0}}), std::vector<std::uint8_t>(3, 0));
}

// ---- patches for every rim

TEST(Candidates, OneForEachRimHoweverTrianglesFace) {
    Mesh m = without(sphere(), {10, 11, 60, 61, 62});
    for (TriangleId t = 0; t < m.triangles.size(); t = t + 2) std::swap(m.triangles[t][1], m.triangles[t][2]);
    const check::Surveyed s(m);
    auto found = holes::candidatePatches(s, mesh::Precision::Single, silent());
    ASSERT_TRUE(found);
    // Rims that touch at a vertex come apart there.
    EXPECT_GE(found->size(), surveyed(m).counts.holes);
    Mesh closed = m;
    for (const auto& c : *found) {
        EXPECT_TRUE(c.patch.added.empty());
        closed.triangles.insert(closed.triangles.end(), c.patch.triangles.begin(), c.patch.triangles.end());
    }
    EXPECT_EQ(surveyed(closed).counts.boundaryEdges, 0U);
}

TEST(Candidates, OpeningsThatShareAWallAreToldApart) {
    // A flat channel, open all around, with two walls across it that end in its openings.
    Mesh m;
    for (const double z : {0.0, 0.2})
        for (const double y : {0.0, 1.0})
            for (const double x : {0.0, 1.0, 2.0, 3.0}) m.positions.emplace_back(x, y, z);
    const auto at = [](unsigned x, unsigned y, unsigned z) { return mesh::VertexId(8 * z + 4 * y + x); };
    const auto quad = [&](mesh::VertexId a, mesh::VertexId b, mesh::VertexId c, mesh::VertexId d) {
        m.triangles.push_back({a, b, c});
        m.triangles.push_back({a, c, d});
    };
    for (unsigned x = 0; x < 3; ++x) {
        quad(at(x, 0, 1), at(x + 1, 0, 1), at(x + 1, 1, 1), at(x, 1, 1));
        quad(at(x, 0, 0), at(x, 1, 0), at(x + 1, 1, 0), at(x + 1, 0, 0));
    }
    for (const unsigned x : {1U, 2U}) quad(at(x, 0, 0), at(x, 1, 0), at(x, 1, 1), at(x, 0, 1));
    const check::Surveyed s(m);
    auto found = holes::candidatePatches(s, mesh::Precision::Single, silent());
    ASSERT_TRUE(found);
    // The front and the back of the middle, and what goes around each end.
    EXPECT_EQ(found->size(), 4U);
    const Volumes v = enclosed(m, {.closeMeant = true});
    EXPECT_TRUE(surveyed(v.mesh).solid);
    EXPECT_EQ(v.closed.size(), 4U);
    EXPECT_EQ(v.walls.size(), 2U);
    EXPECT_NEAR(surveyed(v.mesh).mass.volume, 0.6, 1e-6);
}

}  // namespace
}  // namespace zither::tests
