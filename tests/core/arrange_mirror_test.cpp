// Kernels of cutting and parting against slow obvious mirrors, on small integer grids.
#include <Eigen/Geometry>
#include <cmath>
#include <map>
#include <set>

#include "arrange/potentials.h"
#include "fit/fuse.h"
#include "fit/separate.h"
#include "mesh/edges.h"
#include "space/winding.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using arrange::Solid;
using arrange::Windings;
using mesh::HalfEdge;
using mesh::TriangleId;

constexpr int side = 5;  // of the grid, in cells

// A box between grid points, as cells that it fills and as triangles; some are inside out.
struct GridBox {
    std::array<int, 3> low{};
    std::array<int, 3> high{};
    int weight = 1;

    explicit GridBox(rig::Random& random, bool mayBeInsideOut) {
        for (unsigned i = 0; i < 3; ++i) {
            low[i] = static_cast<int>(random.below(side - 1));
            high[i] = low[i] + 1 + static_cast<int>(random.below(static_cast<std::size_t>(side - low[i])));
        }
        if (mayBeInsideOut && random.below(5) == 0) weight = -1;
    }
    [[nodiscard]] Mesh surface() const {
        const Mesh b = box(Point(low[0], low[1], low[2]), Point(high[0], high[1], high[2]));
        return weight > 0 ? b : flipped(b);
    }
    [[nodiscard]] bool fills(int x, int y, int z) const {
        return low[0] <= x && x < high[0] && low[1] <= y && y < high[1] && low[2] <= z && z < high[2];
    }
};

struct Operand {
    std::vector<GridBox> boxes;
    Operand(rig::Random& random, std::size_t count, bool mayBeInsideOut) {
        for (std::size_t i = 0; i < count; ++i) boxes.emplace_back(random, mayBeInsideOut);
    }
    [[nodiscard]] Mesh surface() const {
        std::vector<Mesh> parts;
        for (const GridBox& b : boxes) parts.push_back(b.surface());
        return assembled(parts);
    }
    [[nodiscard]] bool fills(int x, int y, int z) const {
        int winding = 0;
        for (const GridBox& b : boxes) winding += b.fills(x, y, z) ? b.weight : 0;
        return winding > 0;
    }
};

// Volume and area of the cells for which `filled`; area counts faces between a filled and an empty cell.
template <class Filled>
std::pair<int, int> cellsOf(const Filled& filled) {
    int volume = 0;
    int area = 0;
    for (int x = -1; x <= side; ++x)
        for (int y = -1; y <= side; ++y)
            for (int z = -1; z <= side; ++z) {
                const bool here = filled(x, y, z);
                volume += here;
                area += (here != filled(x + 1, y, z)) + (here != filled(x, y + 1, z)) + (here != filled(x, y, z + 1));
            }
    return {volume, area};
}

arrange::Skin skin(const Mesh& m, const arrange::SkinOptions& options = {}) {
    auto result = arrange::skinOf(check::Surveyed(m), options, silent());
    EXPECT_TRUE(result);
    return std::move(result.value());
}

double areaOf(const Mesh& m) {
    double area = 0;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) area += 0.5 * mesh::areaVector(m, t).norm();
    return area;
}

double volumeOf(const Mesh& m) {
    double volume = 0;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) volume += mesh::areaVector(m, t).dot(m.corner(t, 0)) / 6;
    return volume;
}

TEST(ArrangeMirror, TheSkinOfGridBoxesIsThatOfTheirCells) {
    for (std::uint64_t seed = 0; seed < (longMode() ? 3000U : 150U); ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed);
        const Operand a(random, 1 + random.below(6), true);
        const auto [volume, area] = cellsOf([&](int x, int y, int z) { return a.fills(x, y, z); });
        const arrange::Skin s = skin(a.surface());
        EXPECT_NEAR(volumeOf(s.mesh), volume, 1e-6);
        EXPECT_NEAR(areaOf(s.mesh), area, 1e-6);
        for (TriangleId t = 0; t < s.mesh.triangles.size(); ++t) {
            const Point n = mesh::areaVector(s.mesh, t).normalized();
            const Point at = mesh::centroid(s.mesh, t);
            // The grid's planes are a unit apart: half a hair on each side is in the cells there.
            const Point front = at + 1e-4 * n;
            const Point back = at - 1e-4 * n;
            const auto cell = [](double c) { return static_cast<int>(std::floor(c)); };
            EXPECT_FALSE(a.fills(cell(front.x()), cell(front.y()), cell(front.z()))) << t;
            EXPECT_TRUE(a.fills(cell(back.x()), cell(back.y()), cell(back.z()))) << t;
        }
    }
}

// Of closed shells most pieces are buried and left out at once, unless something is inside out. With an open triangle
// beside them all are kept until it is known what is outside.
TEST(ArrangeMirror, LeavingOutWhatIsBuriedChangesNothing) {
    std::size_t turned = 0;
    for (std::uint64_t seed = 0; seed < seedsOf(84, 2800); ++seed) {
        Assembly a = AssemblyMaker(seed).make(seed);
        if (!a.closed) continue;
        SCOPED_TRACE(a.kind + " " + std::to_string(seed));
        rig::Random random(seed);
        if (random.below(4) == 0) {
            ++turned;
            Mesh other =
                moved(a.mesh, Eigen::Affine3d(Eigen::Translation3d(0.3 * mesh::boxOf(a.mesh).extent())), a.wide);
            a.mesh = assembled({a.mesh, flipped(other)});
        }
        const arrange::Skin lean = skin(a.mesh);
        Mesh more = a.mesh;
        const mesh::Box box = mesh::boxOf(a.mesh);
        const Point away = box.max + 0.5 * box.extent();
        const auto v = static_cast<mesh::VertexId>(more.positions.size());
        for (const Point& p : {Point(0, 0, 0), Point(1, 0, 0), Point(0, 1, 0)})
            more.positions.push_back(away + 1e-3 * box.diagonal() * p);
        more.triangles.push_back({v, v + 1, v + 2});
        if (!more.regions.empty()) more.regions.push_back(0);
        const arrange::Skin whole = skin(more);
        EXPECT_EQ(lean.mesh.triangles.size(), whole.mesh.triangles.size() - 1);
        EXPECT_EQ(lean.whole, whole.whole - 1);
        EXPECT_EQ(lean.cut, whole.cut);
        EXPECT_EQ(lean.gone.size(), whole.gone.size());
        EXPECT_EQ(lean.mesh.positions.size(), whole.mesh.positions.size() - 3);
        EXPECT_NEAR(areaOf(lean.mesh), areaOf(whole.mesh) - 0.5e-6 * box.diagonal() * box.diagonal(),
                    1e-9 * areaOf(whole.mesh));
    }
    EXPECT_GT(turned, 1U);
}

TEST(ArrangeMirror, DifferenceAndIntersectionOfGridBoxes) {
    for (std::uint64_t seed = 0; seed < (longMode() ? 2000U : 100U); ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed + 5000);
        const Operand a(random, 1 + random.below(3), false);
        const Operand b(random, 1 + random.below(3), false);
        const Mesh first = a.surface();
        const Mesh second = b.surface();
        Mesh both = first;
        mesh::append(both, second);
        mesh::joinEqualVertices(both);
        for (const Solid solid : {Solid::Union, Solid::Difference, Solid::Intersection}) {
            arrange::SkinOptions options;
            options.solid = solid;
            options.operandOf.assign(both.triangles.size(), 1);
            std::fill_n(options.operandOf.begin(), first.triangles.size(), std::uint8_t{0});
            const auto [volume, area] = cellsOf([&](int x, int y, int z) {
                const bool inA = a.fills(x, y, z);
                const bool inB = b.fills(x, y, z);
                return solid == Solid::Union ? inA || inB : solid == Solid::Difference ? inA && !inB : inA && inB;
            });
            const arrange::Skin s = skin(both, options);
            EXPECT_NEAR(volumeOf(s.mesh), volume, 1e-6);
            EXPECT_NEAR(areaOf(s.mesh), area, 1e-6);
        }
    }
}

// What comes out of fuse is parted where bodies touch: its volume is that of the cells but for a hair.
TEST(ArrangeMirror, FusedGridBoxesAreSolidWithTheVolumeOfTheirCells) {
    for (std::uint64_t seed = 0; seed < (longMode() ? 2000U : 80U); ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed + 9000);
        const Operand a(random, 2 + random.below(6), false);
        const auto [volume, area] = cellsOf([&](int x, int y, int z) { return a.fills(x, y, z); });
        const auto fused = fit::fuse(check::Surveyed(a.surface()), {}, {}, silent());
        ASSERT_TRUE(fused);
        const check::Survey s = surveyed(fused->mesh);
        EXPECT_TRUE(s.solid);
        EXPECT_NEAR(s.mass.volume, volume, 1e-3);
        EXPECT_NEAR(s.mass.area, area, 1e-3);
    }
}

// ---- the order around an edge

TEST(ArrangeMirror, ByAngleIsTheOrderOfTheArcTangents) {
    for (std::uint64_t seed = 0; seed < 300; ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed);
        const auto whole = [&] { return static_cast<double>(random.below(9)) - 4; };
        Mesh m;
        m.positions = {Point(0, 0, 0), Point(whole(), whole(), whole())};
        if (m.positions[1].isZero()) continue;
        const Point axis = m.positions[1];
        const std::size_t count = 3 + random.below(6);
        for (std::uint32_t i = 0; i < count; ++i) {
            const Point apex(whole(), whole(), whole());
            if (axis.cross(apex).isZero()) continue;
            // Triangles on each other have no order.
            const bool taken = std::any_of(m.positions.begin() + 2, m.positions.end(), [&](const Point& other) {
                return axis.cross(apex).cross(axis.cross(other)).isZero() &&
                       axis.cross(apex).dot(axis.cross(other)) > 0;
            });
            if (taken) continue;
            const auto v = static_cast<std::uint32_t>(m.positions.size());
            m.positions.push_back(apex);
            if (random.below(2) == 0)
                m.triangles.push_back({0U, 1U, v});
            else
                m.triangles.push_back({v, 1U, 0U});
        }
        if (m.triangles.size() < 3) continue;
        const mesh::Edges edges(m);
        for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
            if (edges.degree(e) < 3) continue;
            const std::vector<HalfEdge> order = fit::byAngle(m, edges.around(e));
            ASSERT_EQ(std::set<std::uint32_t>(order.begin(), order.end()).size(), edges.degree(e));
            const Point along = axis.normalized();
            const Point x = along.unitOrthogonal();
            const Point y = along.cross(x);
            const auto angle = [&](HalfEdge h) {
                const Point apex = m.positions[mesh::oppositeVertex(m, h)];
                return std::atan2(y.dot(apex), x.dot(apex));
            };
            // Once around, whatever it starts with: the turns from each to the next add up to one turn, or to none
            // where all lie on each other.
            double sum = 0;
            for (std::size_t i = 0; i < order.size(); ++i) {
                double turn = angle(order[(i + 1) % order.size()]) - angle(order[i]);
                if (turn < -1e-9) turn += 2 * M_PI;
                sum += std::max(0.0, turn);
            }
            EXPECT_TRUE(std::abs(sum - 2 * M_PI) < 1e-6 || std::abs(sum) < 1e-6) << sum;
        }
    }
}

// ---- winding numbers relative to each other

TEST(ArrangeMirror, PotentialsAreThoseOfASpanningWalk) {
    for (std::uint64_t seed = 0; seed < 200; ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed);
        constexpr std::uint32_t count = 24;
        std::array<Windings, count> truth{};
        for (Windings& w : truth)
            w = {static_cast<std::int16_t>(random.below(9)), static_cast<std::int16_t>(random.below(9))};
        std::array<std::uint32_t, count> group{};
        for (std::uint32_t i = 0; i < count; ++i) group[i] = i;
        arrange::Potentials potentials(count);
        for (std::size_t links = 0; links < 30; ++links) {
            const auto a = static_cast<std::uint32_t>(random.below(count));
            const auto b = static_cast<std::uint32_t>(random.below(count));
            // value(a) + da = value(b) + db
            potentials.link(a, truth[b], b, truth[a]);
            const std::uint32_t from = group[b];
            for (std::uint32_t& g : group)
                if (g == from) g = group[a];
        }
        for (std::uint32_t a = 0; a < count; ++a)
            for (std::uint32_t b = 0; b < count; ++b) {
                const auto [rootA, offsetA] = potentials.find(a);
                const auto [rootB, offsetB] = potentials.find(b);
                EXPECT_EQ(rootA == rootB, group[a] == group[b]);
                if (rootA == rootB) {
                    EXPECT_EQ(arrange::operator-(offsetA, offsetB), arrange::operator-(truth[a], truth[b]));
                }
            }
    }
}

// ---- what only touches

TEST(ArrangeMirror, TouchingCellsArePartedIntoWhatTheyWere) {
    for (std::uint64_t seed = 0; seed < 120; ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed);
        std::set<std::array<int, 3>> cells;
        for (std::size_t i = 0; i < 3 + random.below(8); ++i)
            cells.insert({static_cast<int>(random.below(3)), static_cast<int>(random.below(3)),
                          static_cast<int>(random.below(3))});
        std::vector<Mesh> parts;
        for (const auto& c : cells) parts.push_back(box(Point(c[0], c[1], c[2]), Point(c[0] + 1, c[1] + 1, c[2] + 1)));
        // The skin of the cells, in which they still share edges and corners.
        Mesh m = skin(assembled(parts)).mesh;
        mesh::joinEqualVertices(m);
        const double volume = volumeOf(m);
        for (const fit::Touching touching : {fit::Touching::Part, fit::Touching::Join}) {
            Mesh now = m;
            for (int round = 0; round < 4; ++round) {
                const fit::Separation s = fit::separateTouching(now, mesh::Edges(now), {.touching = touching});
                if (s.replaced.empty()) break;
                std::vector<std::uint8_t> keep(now.triangles.size(), 1);
                for (const TriangleId t : s.replaced) keep[t] = 0;
                now.positions.insert(now.positions.end(), s.added.begin(), s.added.end());
                std::vector<mesh::Triangle> triangles;
                for (TriangleId t = 0; t < now.triangles.size(); ++t)
                    if (keep[t]) triangles.push_back(now.triangles[t]);
                triangles.insert(triangles.end(), s.replacement.begin(), s.replacement.end());
                now.triangles = std::move(triangles);
            }
            const check::Survey s = surveyed(now);
            EXPECT_EQ(s.counts.nonmanifoldEdges, 0U);
            EXPECT_EQ(s.counts.nonmanifoldVertices, 0U);
            EXPECT_EQ(s.counts.boundaryEdges, 0U);
            EXPECT_EQ(s.counts.misorientedEdges, 0U);
            EXPECT_NEAR(volumeOf(now), volume, 1e-3);
        }
    }
}

}  // namespace
}  // namespace zither::tests
