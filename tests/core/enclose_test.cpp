// Full and empty: what is kept, closed, turned and thickened, on the ugliest small cases; and the kernels under it.
#include <Eigen/Geometry>
#include <cmath>
#include <numbers>
#include <set>

#include "arrange/pieces.h"
#include "holes/candidates.h"
#include "measure/loss.h"
#include "repair/cells.h"
#include "repair/minimum_cut.h"
#include "repair/thicken.h"
#include "repair/volumes.h"
#include "space/winding.h"
#include "steps/automatic_repair.h"
#include "steps/lost.h"
#include "tests/core/assemblies.h"

namespace zither::tests {
namespace {

using mesh::TriangleId;
using repair::Volumes;
using repair::VolumesOptions;
using Sheets = VolumesOptions::Sheets;

Volumes enclosed(const Mesh& m, VolumesOptions options = {}) {
    if (options.sheets == Sheets::Thicken && options.thickness == 0) options.thickness = 0.05;
    auto result = repair::fullOrEmpty(check::Surveyed(m), options, silent());
    EXPECT_TRUE(result);
    EXPECT_EQ(result->sourceOf.size(), result->mesh.triangles.size());
    EXPECT_EQ(mesh::validate(result->mesh), "");
    return std::move(*result);
}

measure::Loss lossBetween(const Mesh& a, const Mesh& b) {
    const check::Surveyed from(a);
    const check::Surveyed to(b);
    const check::Survey s = surveyed(b);
    auto loss = measure::lossBetween({from.tree(), from.shells()}, {to.tree(), to.shells()},
                                     {.facing = s.watertight && s.mass.volume > 0}, silent());
    EXPECT_TRUE(loss);
    return std::move(*loss);
}

void expectSolid(const Volumes& v, double volume, double within = 1e-3) {
    const check::Survey s = surveyed(v.mesh);
    EXPECT_TRUE(s.solid) << s.counts.boundaryEdges << " open, " << s.counts.nonmanifoldEdges << " non-manifold, "
                         << s.counts.selfIntersectingPairs << " crossing, volume " << s.mass.volume;
    EXPECT_NEAR(s.mass.volume, volume, within);
    EXPECT_TRUE(v.unsound.empty());
}

Mesh boxAt(double x, double y, double z, double size = 2) {
    return box(Point(x, y, z), Point(x + size, y + size, z + size));
}

// A box without its bottom, 10 triangles.
Mesh cup(double size = 4) {
    return without(boxAt(0, 0, 0, size), {0, 1});
}

// ---- full and empty

TEST(Enclose, ASoundPartStaysAsItIs) {
    const Mesh m = sphere();
    const Volumes v = enclosed(m);
    EXPECT_TRUE(Bits(v.mesh) == Bits(m));
    EXPECT_EQ(v.cells, 1U);
    EXPECT_EQ(v.full, 1U);
    EXPECT_TRUE(v.closed.empty() && v.walls.empty() && v.sheets.empty());
}

TEST(Enclose, BoxesThatShareAFaceAnEdgeACorner) {
    expectSolid(enclosed(together(boxAt(0, 0, 0), boxAt(2, 0, 0))), 16);
    expectSolid(enclosed(together(boxAt(0, 0, 0), boxAt(2, 2, 0))), 16);
    expectSolid(enclosed(together(boxAt(0, 0, 0), boxAt(2, 2, 2))), 16);
    // Faces that lie on each other with other diagonals, and only in part.
    expectSolid(enclosed(together(boxAt(0, 0, 0), boxAt(2, 0.5, 0.25))), 16);
    // Into each other, and a hair apart, touching, a hair into each other.
    expectSolid(enclosed(together(boxAt(0, 0, 0), boxAt(1, 1, 1))), 15);
    for (const double hair : {1e-6, -1e-6}) expectSolid(enclosed(together(boxAt(0, 0, 0), boxAt(2 + hair, 0, 0))), 16);
}

TEST(Enclose, CavitiesStayAndBodiesWithinBodiesGo) {
    const Mesh outer = boxAt(0, 0, 0, 4);
    expectSolid(enclosed(together(outer, flipped(boxAt(1, 1, 1)))), 56);
    const Volumes v = enclosed(together(outer, boxAt(1, 1, 1)));
    expectSolid(v, 64);
    EXPECT_EQ(v.walls.size(), 1U);
}

TEST(Enclose, WrittenTwiceOnceEachWayIsOneBody) {
    const Mesh ball = sphere();
    const double volume = surveyed(ball).mass.volume;
    expectSolid(enclosed(together(ball, flipped(ball))), volume);
    // With a hole in one copy, and with one in both.
    expectSolid(enclosed(together(ball, flipped(without(ball, {50, 51, 52})))), volume);
    const Mesh torn = without(ball, {50});
    expectSolid(enclosed(together(torn, flipped(torn))), volume, 0.2);
    // One within the other is a cavity.
    Mesh inner = ball;
    for (Point& p : inner.positions) p = mesh::rounded(mesh::Precision::Single, p / 2);
    const Mesh hollow = together(together(ball, flipped(ball)), together(inner, flipped(inner)));
    expectSolid(enclosed(hollow), volume * 7 / 8, 1);
}

TEST(Enclose, InsideOutIsTurned) {
    const Mesh ball = sphere();
    const Volumes v = enclosed(flipped(ball));
    expectSolid(v, surveyed(ball).mass.volume);
    EXPECT_EQ(v.turned, ball.triangles.size());
    // One body inside out beside one that is not.
    expectSolid(enclosed(together(boxAt(0, 0, 0), flipped(boxAt(5, 0, 0)))), 16);
    // Single triangles, and half of them.
    Mesh some = ball;
    for (TriangleId t = 0; t < 20; ++t) std::swap(some.triangles[t][1], some.triangles[t][2]);
    expectSolid(enclosed(some), surveyed(ball).mass.volume);
}

TEST(Enclose, StairsOfTouchingBoxes) {
    std::vector<Mesh> steps;
    for (int i = 0; i < 12; ++i) steps.push_back(box(Point(i, 0, 0), Point(i + 1, 3, 1 + 0.5 * i)));
    const Mesh stairs = assembled(steps);
    const Volumes v = enclosed(stairs);
    double volume = 0;
    for (int i = 0; i < 12; ++i) volume += 3 * (1 + 0.5 * i);
    expectSolid(v, volume);
    EXPECT_LT(lossBetween(stairs, v.mesh).lost, 0.002);
}

TEST(Enclose, FinsStayAsSheetsOrBecomeBodies) {
    // A fin that stands on a box, and one that hangs into it.
    Mesh fin = boxAt(0, 0, 0, 4);
    const auto v = static_cast<std::uint32_t>(fin.positions.size());
    fin.positions.insert(fin.positions.end(), {Point(1, 2, 4), Point(3, 2, 4), Point(2, 2, 6)});
    fin.triangles.push_back({v, v + 1, v + 2});
    const Volumes kept = enclosed(fin);
    ASSERT_EQ(kept.sheets.size(), 1U);
    EXPECT_NEAR(kept.sheets[0].area, 2, 1e-6);
    EXPECT_LT(lossBetween(fin, kept.mesh).lost, 0.002);
    const Volumes thick = enclosed(fin, {.sheets = Sheets::Thicken});
    const check::Survey s = surveyed(thick.mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_NEAR(s.mass.volume, 64 + 2 * 0.05, 0.02);
    EXPECT_LT(lossBetween(fin, thick.mesh).lost, 0.002);
    expectSolid(enclosed(fin, {.sheets = Sheets::Drop}), 64);
    Mesh inward = fin;
    inward.positions.back() = Point(2, 2, 2);
    const Volumes wall = enclosed(inward);
    expectSolid(wall, 64);
}

TEST(Enclose, HolesWithBodiesThroughThem) {
    // A box stuck through the open side of another.
    const Mesh m = together(cup(), box(Point(1, 1, -1), Point(2, 2, 1)));
    const Volumes v = enclosed(m, {.closeMeant = true});
    expectSolid(v, 65);
    EXPECT_EQ(v.closed.size(), 1U);
    EXPECT_GT(v.told.closing.triangles.size(), 0U);
}

TEST(Enclose, OpeningsLikelyMeantStayOpenAndAreListed) {
    const Mesh m = cup();
    const Volumes ask = enclosed(m);
    EXPECT_EQ(ask.open.size(), 1U);
    EXPECT_EQ(ask.open[0].why, "large against the part");
    EXPECT_TRUE(ask.closed.empty());
    EXPECT_EQ(surveyed(ask.mesh).counts.boundaryEdges, 4U);
    EXPECT_TRUE(ask.walls.empty());
    // What is seen through it is no hidden wall.
    const Mesh vane = together(m, box(Point(1, 1, 1), Point(2, 2, 2)));
    EXPECT_LT(lossBetween(vane, enclosed(vane).mesh).lost, 0.002);
    expectSolid(enclosed(m, {.closeMeant = true}), 64);
}

// What reaches into an open body through its side, and can hardly be seen through the opening, is a wall: it goes, and
// nothing crosses any more. A rib can be seen: it stays, as a sheet.
TEST(Enclose, OfWhatIsInsideAnOpenBodyOnlyWhatCanBeSeenStays) {
    const Mesh pin = box(Point(3.9, 1.9, 3.7), Point(4.1, 2.1, 3.8));
    const Volumes pinned = enclosed(together(cup(), pin));
    const check::Survey s = surveyed(pinned.mesh);
    EXPECT_EQ(s.counts.selfIntersectingPairs, 0U);
    EXPECT_EQ(s.counts.boundaryEdges, 4U);
    EXPECT_EQ(s.counts.shells, 1U);
    EXPECT_GT(pinned.walls.size(), 0U);
    EXPECT_TRUE(pinned.sheets.empty());

    Mesh rib;
    rib.positions = {Point(0.5, 2, 1), Point(3.5, 2, 1), Point(3.5, 2, 3.5), Point(0.5, 2, 3.5)};
    rib.triangles = {{0, 1, 2}, {0, 2, 3}};
    const Mesh ribbed = together(cup(), rib);
    const Volumes kept = enclosed(ribbed);
    EXPECT_EQ(kept.sheets.size(), 1U);
    EXPECT_EQ(measure::keptOf(ribbed, kept.mesh).share, 1);
}

// A body that covers a recess of an open one leaves a pocket behind it: it fills, as a shell of its own would face the
// wrong way. A cavity that nothing cuts stays.
TEST(Enclose, APocketInAnOpenBodyFills) {
    Mesh m = without(boxAt(0, 0, 0, 20), {0, 1, 8, 9});  // without its bottom and the side at x = 0
    const auto quad = [&m](const Point& a, const Point& b, const Point& c, const Point& d) {
        const std::size_t v = m.positions.size();
        m.positions.insert(m.positions.end(), {a, b, c, d});
        m.triangles.push_back({v, v + 1, v + 2});
        m.triangles.push_back({v, v + 2, v + 3});
    };
    // The side, around a recess from 9.8 to 10.2 that is 0.5 deep; turns are those seen from low x.
    const std::array<std::array<double, 2>, 4> outer{{{0, 0}, {0, 20}, {20, 20}, {20, 0}}};
    const std::array<std::array<double, 2>, 4> inner{{{9.8, 9.8}, {9.8, 10.2}, {10.2, 10.2}, {10.2, 9.8}}};
    const auto at = [](double x, const std::array<double, 2>& p) { return Point(x, p[1], p[0]); };
    for (std::size_t k = 0; k < 4; ++k) {
        const std::size_t n = (k + 1) % 4;
        quad(at(0, outer[k]), at(0, inner[k]), at(0, inner[n]), at(0, outer[n]));
        quad(at(0, inner[k]), at(0.5, inner[k]), at(0.5, inner[n]), at(0, inner[n]));
    }
    quad(at(0.5, inner[0]), at(0.5, inner[3]), at(0.5, inner[2]), at(0.5, inner[1]));
    mesh::joinEqualVertices(m);
    ASSERT_EQ(surveyed(m).counts.boundaryEdges, 4U);
    const Mesh covered = together(m, box(Point(-1, 9.7, 9.7), Point(0.1, 10.3, 10.3)));
    const check::Survey s = surveyed(enclosed(covered).mesh);
    EXPECT_EQ(s.counts.inwardShells, 0U);
    EXPECT_EQ(s.counts.selfIntersectingPairs, 0U);
    EXPECT_EQ(s.counts.shells, 1U);
    const Mesh hollow = together(cup(20), flipped(boxAt(9, 9, 9)));
    EXPECT_EQ(measure::keptOf(hollow, enclosed(hollow).mesh).share, 1);
}

// A surface that is unsound in 32 bits whatever is done is left neither worse nor undone for that.
TEST(Enclose, ARepairForAFileOf32BitsIsJudgedByWhatRoundingMakes) {
    const auto leaf = [](const Point& corner, double side) {
        Mesh m;
        for (int y = 0; y <= 4; ++y)
            for (int x = 0; x <= 4; ++x) m.positions.push_back(corner + side * Point(x, y, 0.1 * x * y));
        for (std::uint32_t y = 0; y < 4; ++y)
            for (std::uint32_t x = 0; x < 4; ++x) {
                const std::uint32_t v = 5 * y + x;
                m.triangles.push_back({v, v + 1, v + 6});
                m.triangles.push_back({v, v + 6, v + 5});
            }
        return m;
    };
    // Corners that are one in 32 bits.
    const Mesh leaves = together(leaf(Point(100, 100, 100), 1), leaf(Point(100 - 1e-9, 100 - 1e-9, 100), -1));
    const Mesh boxes = together(boxAt(110, 100, 100), boxAt(111, 101.5, 100.5));
    const check::SurveyedPtr part = shared(together(leaves, boxes));
    const check::Counts given = surveyed(part->mesh()).counts;
    EXPECT_EQ(given.nonmanifoldVertices, 0U);
    EXPECT_GT(given.selfIntersectingPairs, 0U);
    const auto repaired = steps::repairAutomatically(part, {.narrow = true}, silent());
    ASSERT_TRUE(repaired);
    ASSERT_FALSE(repaired->steps.empty());
    Mesh written = repaired->steps.back().part->mesh();
    for (Point& p : written.positions) p = mesh::rounded(mesh::Precision::Single, p);
    mesh::joinEqualVertices(written);
    EXPECT_EQ(surveyed(written).counts.selfIntersectingPairs, 0U);
    EXPECT_EQ(surveyed(written).counts.nonmanifoldVertices, 1U);
}

TEST(Enclose, SheetsBecomeBodiesBehindTheirFaces) {
    Mesh sheet;
    for (int y = 0; y <= 4; ++y)
        for (int x = 0; x <= 4; ++x) sheet.positions.emplace_back(x, y, 0.2 * std::sin(x));
    for (Point& p : sheet.positions) p = mesh::rounded(mesh::Precision::Single, p);
    for (std::uint32_t y = 0; y < 4; ++y)
        for (std::uint32_t x = 0; x < 4; ++x) {
            const std::uint32_t v = 5 * y + x;
            sheet.triangles.push_back({v, v + 1, v + 6});
            sheet.triangles.push_back({v, v + 6, v + 5});
        }
    const Volumes kept = enclosed(sheet);
    EXPECT_TRUE(Bits(kept.mesh) == Bits(sheet));
    const Volumes thick = enclosed(sheet, {.sheets = Sheets::Thicken, .thickness = 0.1});
    const check::Survey s = surveyed(thick.mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_NEAR(s.mass.volume, 0.1 * surveyed(sheet).mass.area, 0.05);
    // Its own faces stay bit for bit.
    EXPECT_EQ(measure::keptOf(sheet, thick.mesh).share, 1);
    EXPECT_LT(lossBetween(sheet, thick.mesh).lost, 0.002);
}

TEST(Enclose, SheetsThroughEachOtherAndThroughABody) {
    const auto square = [](const Point& centre, const Point& u, const Point& v) {
        Mesh m;
        m.positions = {centre - u - v, centre + u - v, centre + u + v, centre - u + v};
        m.triangles = {{0, 1, 2}, {0, 2, 3}};
        return m;
    };
    const Mesh cross = together(square(Point(0, 0, 0), Point(2, 0, 0), Point(0, 2, 0)),
                                square(Point(0.3, 0.1, 0), Point(0, 1.5, 0), Point(0, 0, 1.5)));
    const Volumes thick = enclosed(cross, {.sheets = Sheets::Thicken, .thickness = 0.004});
    EXPECT_TRUE(surveyed(thick.mesh).solid);
    EXPECT_LT(lossBetween(cross, thick.mesh).lost, 0.002);
    const Mesh through = together(boxAt(-1, -1, -1), square(Point(0, 0, 0.25), Point(3, 0, 0), Point(0, 3, 0)));
    const Volumes both = enclosed(through, {.sheets = Sheets::Thicken, .thickness = 0.004});
    EXPECT_TRUE(surveyed(both.mesh).solid);
    EXPECT_LT(lossBetween(through, both.mesh).lost, 0.002);
}

TEST(Enclose, AMoebiusStripComesApartWhereItTurns) {
    Mesh strip;
    constexpr int n = 40;
    for (int i = 0; i < n; ++i) {
        const double turn = 2 * M_PI * i / n;
        const Point along(std::cos(turn), std::sin(turn), 0);
        for (const double side : {-0.3, 0.3})
            strip.positions.push_back(
                mesh::rounded(mesh::Precision::Single,
                              2 * along + side * (std::cos(turn / 2) * along + std::sin(turn / 2) * Point::UnitZ())));
    }
    for (std::uint32_t i = 0; i < n; ++i) {
        const std::uint32_t a = 2 * i;
        const std::uint32_t b = 2 * i + 1;
        const bool last = i + 1 == n;
        const std::uint32_t c = last ? 1 : a + 2;
        const std::uint32_t d = last ? 0 : b + 2;
        strip.triangles.push_back({a, c, b});
        strip.triangles.push_back({b, c, d});
    }
    EXPECT_TRUE(Bits(enclosed(strip).mesh) == Bits(strip));
    const Volumes thick = enclosed(strip, {.sheets = Sheets::Thicken, .thickness = 0.05});
    EXPECT_TRUE(surveyed(thick.mesh).solid);
    EXPECT_LT(lossBetween(strip, thick.mesh).lost, 0.002);
}

TEST(Enclose, AThousandUglyOnesInOneFile) {
    std::vector<Mesh> parts;
    double volume = 0;
    for (int i = 0; i < 1000; ++i) {
        const double x = 10 * (i % 32);
        const double y = 10 * (i / 32);
        if (i % 3 == 0) {
            parts.push_back(together(boxAt(x, y, 0), boxAt(x + 1, y + 1, 1)));
            volume += 15;
        } else if (i % 3 == 1) {
            parts.push_back(flipped(boxAt(x, y, 0)));
            volume += 8;
        } else {
            parts.push_back(together(boxAt(x, y, 0, 4), flipped(boxAt(x + 1, y + 1, 1))));
            volume += 56;
        }
    }
    expectSolid(enclosed(assembled(parts)), volume, 0.5);
}

TEST(Enclose, UglyMeshesAndSoupsComeThrough) {
    for (const auto& [name, m] : uglyMeshes()) {
        if (name.ends_with("soup")) continue;
        SCOPED_TRACE(name);
        for (const Sheets sheets : {Sheets::Keep, Sheets::Drop, Sheets::Thicken})
            static_cast<void>(enclosed(m, {.closeMeant = true, .sheets = sheets}));
        EXPECT_LT(lossBetween(m, enclosed(m).mesh).lost, 0.002);
    }
    for (std::uint64_t seed = 0; seed < (longMode() ? 300U : 12U); ++seed) {
        SCOPED_TRACE(seed);
        static_cast<void>(enclosed(gridSoup(seed, 5 + seed, 4)));
    }
}

// Grid boxes: what is full is the cells that any of them fills, whatever their direction.
TEST(Enclose, GridBoxesOfAnyDirectionAreTheirUnion) {
    for (std::uint64_t seed = 0; seed < (longMode() ? 1000U : 60U); ++seed) {
        SCOPED_TRACE(seed);
        rig::Random random(seed);
        constexpr int side = 5;
        std::vector<Mesh> parts;
        std::set<std::array<int, 3>> filled;
        for (std::size_t i = 0; i < 1 + random.below(4); ++i) {
            std::array<int, 3> low{};
            std::array<int, 3> high{};
            for (unsigned k = 0; k < 3; ++k) {
                low[k] = static_cast<int>(random.below(side - 1));
                high[k] = low[k] + 1 + static_cast<int>(random.below(static_cast<std::size_t>(side - low[k])));
            }
            parts.push_back(box(Point(low[0], low[1], low[2]), Point(high[0], high[1], high[2])));
            for (int x = low[0]; x < high[0]; ++x)
                for (int y = low[1]; y < high[1]; ++y)
                    for (int z = low[2]; z < high[2]; ++z) filled.insert({x, y, z});
        }
        expectSolid(enclosed(assembled(parts)), static_cast<double>(filled.size()), 1e-2);
    }
}

TEST(Enclose, CancelledAtAnyTick) {
    const Mesh m = together(cup(), boxAt(1, 1, -1));
    int ticks = 0;
    for (int tick = 1;; ++tick) {
        CancelAtTick progress(tick);
        const auto v = repair::fullOrEmpty(check::Surveyed(m), {}, progress);
        if (v) break;
        EXPECT_TRUE(v.error().cancelled());
        ++ticks;
    }
    EXPECT_GT(ticks, 5);
}

TEST(Enclose, OneThreadGivesTheSame) {
    const Mesh m = AssemblyMaker(3).make(1).mesh;
    const auto run = [&] { return Bits(enclosed(m).mesh); };
    EXPECT_TRUE(run() == withOneThread(run));
}

// ---- pieces and cells

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
        auto cells = repair::cellsOf(*pieces, m, silent());
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
        std::vector<repair::CutNode> nodes(n);
        for (auto& node : nodes) node = {static_cast<double>(random.below(10)), static_cast<double>(random.below(10))};
        std::vector<repair::CutEdge> edges;
        for (std::uint32_t a = 0; a < n; ++a)
            for (std::uint32_t b = a + 1; b < n; ++b)
                if (random.below(2) == 0)
                    edges.push_back({a, b, static_cast<double>(random.below(6)), static_cast<double>(random.below(6))});
        const auto cost = [&](const auto& full) {
            double sum = 0;
            for (std::size_t i = 0; i < n; ++i) sum += full(i) ? nodes[i].full : nodes[i].empty;
            for (const auto& e : edges)
                if (full(e.a) != full(e.b)) sum += full(e.a) ? e.aFull : e.bFull;
            return sum;
        };
        double least = std::numeric_limits<double>::infinity();
        for (std::size_t bits = 0; bits < (std::size_t{1} << n); ++bits)
            least = std::min(least, cost([&](std::size_t i) { return ((bits >> i) & 1) != 0; }));
        const std::vector<std::uint8_t> full = repair::minimumCut(nodes, edges);
        EXPECT_NEAR(cost([&](std::size_t i) { return full[i] != 0; }), least, 1e-9);
    }
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

// ---- thickened sheets

TEST(Thicken, BodiesAreClosedAndNowhereInsideOutAndKeepTheirFaces) {
    for (std::uint64_t seed = 0; seed < 30; ++seed) {
        SCOPED_TRACE(seed);
        const Mesh m = gridSoup(seed, 14, 4);
        const repair::Thickened t = repair::thickened(m, 0.1, mesh::Precision::Single);
        // Every directed edge has as many against it: closed, whatever crosses.
        std::map<std::pair<std::uint32_t, std::uint32_t>, int> balance;
        for (const mesh::Triangle& v : t.mesh.triangles)
            for (unsigned k = 0; k < 3; ++k) {
                ++balance[{v[k], v[(k + 1) % 3]}];
                --balance[{v[(k + 1) % 3], v[k]}];
            }
        for (const auto& [edge, count] : balance) EXPECT_EQ(count, 0);
        for (TriangleId i = 0; i < t.sourceOf.size(); ++i)
            EXPECT_TRUE(t.sourceOf[i] == mesh::noIndex ||
                        mesh::sameCorners(t.mesh.triangles[i], m.triangles[t.sourceOf[i]]));
        std::vector<TriangleId> all;
        for (TriangleId i = 0; i < t.mesh.triangles.size(); ++i) all.push_back(i);
        const space::WindingTree winding(t.mesh, all, std::vector<int>(all.size(), 1));
        constexpr double everything = 1e9;  // no group counts as far
        rig::Random random(seed);
        for (int i = 0; i < 200; ++i) {
            const Point p = Point(random.uniform(), random.uniform(), random.uniform()) * 6 - Point::Constant(1);
            const double w = winding.at(p, everything);
            EXPECT_NEAR(w, std::round(w), 1e-6);
            EXPECT_GT(w, -0.5);
        }
        // Every face that came in lies in a body or on its skin.
        for (TriangleId i = 0; i < m.triangles.size(); ++i)
            EXPECT_TRUE(mesh::areaVector(m, i).isZero() || winding.at(mesh::centroid(m, i), everything) > 0.4);
    }
}

TEST(Thicken, AFoldSharperThanItIsThickHollowsNothingOut) {
    // A strip that turns back on itself within a tenth of its thickness.
    Mesh m;
    for (int i = 0; i < 12; ++i) {
        const double turn = std::numbers::pi * i / 11;
        for (const double y : {0.0, 1.0}) m.positions.emplace_back(0.01 * std::sin(turn), y, 0.01 * std::cos(turn));
        if (i == 0) continue;
        const mesh::VertexId a = 2 * static_cast<std::uint32_t>(i) - 2;
        m.triangles.push_back({a, a + 1, a + 2});
        m.triangles.push_back({a + 2, a + 1, a + 3});
    }
    for (const bool turned : {false, true}) {
        if (turned)
            for (mesh::Triangle& t : m.triangles) std::swap(t[1], t[2]);
        repair::VolumesOptions options;
        options.sheets = repair::VolumesOptions::Sheets::Thicken;
        options.thickness = 0.1;
        const check::Surveyed s(m);
        const auto result = repair::fullOrEmpty(s, options, silent());
        ASSERT_TRUE(result);
        EXPECT_TRUE(result->unsound.empty());
        EXPECT_TRUE(surveyed(result->mesh).solid);
        EXPECT_EQ(lossBetween(m, result->mesh).lost, 0);
    }
}

// ---- lost and added

// ---- the step

TEST(ThickenStep, SheetsBecomeOneWithWhatTheyMeetAndKeepTheirFaces) {
    // A plate through a box, one beside it, and an open box that nobody picks.
    Mesh through;
    through.positions = {Point(-2, 1, 1), Point(6, 1, 1), Point(6, 3, 1), Point(-2, 3, 1)};
    through.triangles = {{0, 1, 2}, {0, 2, 3}};
    Mesh beside = through;
    for (Point& p : beside.positions) p += Point(0, 0, 10);
    Mesh open = without(boxAt(20, 0, 0, 4), {0, 1});
    const Mesh m = assembled({boxAt(0, 0, 0, 4), through, beside, open});
    std::vector<TriangleId> plates;
    for (TriangleId t = 12; t < 16; ++t) plates.push_back(t);
    const auto r =
        repair::thickenSheets(check::Surveyed(m), mesh::Pick(plates), 0.25, mesh::Precision::Single, silent());
    ASSERT_TRUE(r);
    EXPECT_EQ(r->sheets, 2U);
    EXPECT_EQ(r->triangles, 4U);
    EXPECT_TRUE(r->besideOpen);
    const check::Survey s = surveyed(r->mesh);
    EXPECT_EQ(s.counts.boundaryEdges, 4U);  // of the open box
    EXPECT_EQ(s.counts.selfIntersectingPairs + s.counts.nonmanifoldEdges + s.counts.nonmanifoldVertices, 0U);
    EXPECT_EQ(s.counts.shells, 3U);
    // 64 of the box, what reaches out of it on both sides, and the plate beside it.
    std::vector<std::uint8_t> closed(r->mesh.triangles.size(), 0);
    for (TriangleId t = 0; t < closed.size(); ++t) closed[t] = mesh::centroid(r->mesh, t).x() < 10;
    const Mesh bodies = mesh::keepTriangles(r->mesh, closed);
    EXPECT_TRUE(surveyed(bodies).solid);
    EXPECT_NEAR(surveyed(bodies).mass.volume, 64 + 4 * 2 * 0.25 + 8 * 2 * 0.25, 1e-3);
    // The plate that nothing crosses keeps its faces, the open box all of it.
    const measure::Kept kept = measure::keptOf(m, r->mesh);
    for (const TriangleId t : {14U, 15U, 16U, 20U, 25U}) EXPECT_TRUE(kept.of[t]) << t;
}

TEST(ThickenStep, WhatIsWrittenTwiceIsOneSheetAndABodyInsideOutTakesNothingAway) {
    Mesh m;
    m.positions = {Point(0, 0, 0), Point(4, 0, 0), Point(4, 4, 0), Point(0, 4, 0)};
    m.triangles = {{0, 1, 2}, {0, 2, 3}, {0, 2, 1}, {0, 3, 2}};
    const std::vector<mesh::TriangleId> sheet = {0, 1, 2, 3};
    // Around its middle, inside out: made one with it, it would hollow it out.
    Mesh inward = boxAt(1, 1, -1, 2);
    for (mesh::Triangle& t : inward.triangles) std::swap(t[1], t[2]);
    mesh::append(m, inward);
    const auto r =
        repair::thickenSheets(check::Surveyed(m), mesh::Pick(sheet), 0.25, mesh::Precision::Single, silent());
    ASSERT_TRUE(r);
    EXPECT_EQ(r->sheets, 1U);
    double sum = 0;
    const check::Survey s = surveyed(r->mesh);
    for (const check::Shell& shell : s.shells) sum += std::abs(shell.volume);
    EXPECT_EQ(s.counts.boundaryEdges, 0U);
    EXPECT_NEAR(sum, 4 * 4 * 0.25 + 8, 1e-3);
}

TEST(ThickenStep, WithoutAPickEveryPieceThatEndsSomewhere) {
    Mesh fin = boxAt(0, 0, 0, 4);
    const auto v = static_cast<std::uint32_t>(fin.positions.size());
    // It hangs on an edge of the box, which has three triangles.
    fin.positions.insert(fin.positions.end(), {Point(0, 0, 7)});
    mesh::VertexId a = mesh::noIndex;
    mesh::VertexId b = mesh::noIndex;
    for (mesh::VertexId i = 0; i < v; ++i) {
        if (fin.positions[i] == Point(0, 0, 4)) a = i;
        if (fin.positions[i] == Point(4, 0, 4)) b = i;
    }
    fin.triangles.push_back({a, b, v});
    if (!fin.regions.empty()) fin.regions.push_back(0);
    const auto r = repair::thickenSheets(check::Surveyed(fin), {}, 0.25, mesh::Precision::Single, silent());
    ASSERT_TRUE(r);
    EXPECT_EQ(r->triangles, 1U);
    EXPECT_TRUE(surveyed(r->mesh).solid);
    EXPECT_NEAR(surveyed(r->mesh).mass.volume, 64 + 0.5 * 4 * 3 * 0.25, 0.05);
    // What is closed stays, with or without a pick.
    const Mesh ball = sphere();
    for (const mesh::Pick& pick : {mesh::Pick(), mesh::Pick({0, 1, 2})}) {
        const auto same = repair::thickenSheets(check::Surveyed(ball), pick, 0.1, mesh::Precision::Single, silent());
        if (pick.everything()) {
            EXPECT_TRUE(Bits(same->mesh) == Bits(ball));
        } else {
            ASSERT_FALSE(same);
            EXPECT_NE(same.error().message.find("pick whole sheets"), std::string::npos);
        }
    }
}

TEST(Loss, NothingIsLostOfASurfaceInItself) {
    for (const Mesh& m : {sphere(), unitBox(), without(sphere(), {3, 4})}) {
        const measure::Loss loss = lossBetween(m, m);
        EXPECT_EQ(loss.lost, 0);
        EXPECT_EQ(loss.added, 0);
        EXPECT_TRUE(loss.pieces.empty());
        EXPECT_GE(loss.points, 40'000U);
    }
}

TEST(Loss, APieceThatIsGoneIsFoundWithItsShare) {
    const Mesh both = together(boxAt(0, 0, 0, 4), boxAt(10, 0, 0, 2));
    const measure::Loss loss = lossBetween(both, boxAt(0, 0, 0, 4));
    EXPECT_NEAR(loss.lost, 24.0 / 120, 0.005);
    ASSERT_EQ(loss.pieces.size(), 1U);
    EXPECT_FALSE(loss.pieces[0].speck);
    EXPECT_NEAR(loss.pieces[0].area, 24, 1e-9);
    ASSERT_EQ(loss.lostPlaces.size(), 1U);
    EXPECT_NEAR(loss.lostPlaces[0].area, 24, 0.5);
    EXPECT_NEAR(lossBetween(boxAt(0, 0, 0, 4), both).added, 24.0 / 120, 0.005);
}

TEST(Loss, WhatIsHiddenIsNotSeen) {
    const Mesh outer = boxAt(0, 0, 0, 4);
    EXPECT_EQ(lossBetween(together(outer, boxAt(1, 1, 1)), outer).lost, 0);
    // Through an opening it is, unless the opening is closed on the user's word.
    const Mesh open = together(cup(), boxAt(1, 1, 1));
    EXPECT_GT(lossBetween(open, outer).lost, 0.05);
    Mesh lid;
    lid.positions = outer.positions;
    lid.triangles = {outer.triangles[0], outer.triangles[1]};
    const measure::ToldTrees closing(measure::Told{.closing = lid});
    const check::Surveyed from(open);
    const check::Surveyed to(outer);
    const auto loss = measure::lossBetween({from.tree(), from.shells()}, {to.tree(), to.shells()},
                                           {.facing = true, .told = &closing}, silent());
    EXPECT_LT(loss->lost, 0.001);
}

TEST(Loss, TheSideThatIsSeenMustBeFaced) {
    const Mesh ball = sphere();
    EXPECT_GT(lossBetween(flipped(ball), ball).lost, -1);
    // A body turned inside out shows its back: as a solid the other way round it stands for what was seen.
    EXPECT_EQ(lossBetween(flipped(ball), ball).lost, 0);
    // Specks are told apart.
    Mesh speck = ball;
    for (Point& p : speck.positions) p = 0.005 * p + Point(20, 0, 0);
    const measure::Loss loss = lossBetween(together(ball, speck), ball);
    ASSERT_EQ(loss.pieces.size(), 1U);
    EXPECT_TRUE(loss.pieces[0].speck);
    EXPECT_NEAR(loss.lost, loss.lostListed, 1e-12);
    EXPECT_TRUE(steps::losesNothing(loss));
}

TEST(Loss, OneThreadGivesTheSame) {
    const Mesh a = sphere();
    const Mesh b = sphere(10, 12, 6);
    const auto run = [&] {
        const measure::Loss loss = lossBetween(a, b);
        return std::pair{loss.lost, loss.added};
    };
    EXPECT_EQ(run(), withOneThread(run));
}

}  // namespace
}  // namespace zither::tests
