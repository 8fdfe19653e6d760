// Full and empty: what is kept, closed, turned and thickened, on the ugliest small cases.
#include <Eigen/Geometry>
#include <cmath>
#include <set>

#include "measure/mass.h"
#include "steps/automatic_repair.h"
#include "steps/lost.h"
#include "tests/core/assemblies.h"
#include "tests/core/enclosed.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

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

TEST(Enclose, AFilmThatRoundingLeavesBesideABodyGoesAndOneByItselfStays) {
    const Mesh body = box(Point(0, 0, 0), Point(10, 10, 10));
    for (const double film : {1e-6, 1e-7})
        expectSolid(enclosed(together(body, box(Point(2, 2, 10 + film), Point(8, 8, 10 + 2 * film)))), 1000);
    for (const double film : {1e-6, 1e-7, 1e-8}) {
        const Volumes v = enclosed(together(body, box(Point(20, 0, 0), Point(30, 10, film))));
        EXPECT_EQ(surveyed(v.mesh).counts.shells, 2U) << film;
    }
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

// A bar through a ball, two of its sides written twice and some triangles turned: its ends are full all the same.
TEST(Enclose, WhatTheSurfaceEnclosesIsFullWhateverItsFacesSay) {
    for (unsigned turned = 0; turned < 12; ++turned) {
        SCOPED_TRACE(turned);
        Mesh bar = box(Point(-8, -1, -1), Point(8, 1, 1));
        bar.triangles.push_back(bar.triangles[4]);
        bar.triangles.push_back(bar.triangles[7]);
        std::swap(bar.triangles[turned][1], bar.triangles[turned][2]);
        std::swap(bar.triangles[(5 * turned + 3) % 12][1], bar.triangles[(5 * turned + 3) % 12][2]);
        const Mesh m = assembled({sphere(4, 16, 10), bar});
        const Volumes v = enclosed(m, {.sheets = Sheets::Thicken});
        const Volumes sound = enclosed(assembled({sphere(4, 16, 10), box(Point(-8, -1, -1), Point(8, 1, 1))}));
        EXPECT_TRUE(surveyed(v.mesh).solid);
        EXPECT_NEAR(surveyed(v.mesh).mass.volume, surveyed(sound.mesh).mass.volume, 0.5);
    }
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
        const auto v = enclose::fullOrEmpty(check::Surveyed(m), {}, progress);
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

// A triangle of the second ball that has a corner which its patch brings, in place of one that the first ball's brings.
TEST(Enclose, PatchesWithVerticesOfTheirOwnStandWhereTheyBelong) {
    Mesh ball = sphere(10, 48, 24);
    std::erase_if(ball.triangles, [&](const mesh::Triangle& t) {
        return std::all_of(t.begin(), t.end(), [&](mesh::VertexId v) { return ball.positions[v].z() > 7; });
    });
    mesh::dropUnusedVertices(ball);
    Mesh other = ball;
    for (Point& p : other.positions) p.x() += 100;
    const Volumes one = enclosed(ball, {.closeMeant = true});
    ASSERT_GT(one.mesh.positions.size(), ball.positions.size());
    const double volume = surveyed(one.mesh).mass.volume;
    expectSolid(enclosed(together(ball, other), {.closeMeant = true}), 2 * volume, 1e-3 * volume);
}

// Narrower than what may be lost unseen, but no shred of a skin: it stands by itself.
TEST(Enclose, ANarrowSheetByItselfIsListedAsOne) {
    Mesh strip;
    strip.positions = {Point(20, 0, 0), Point(20, 8, 0), Point(20.001, 8, 0), Point(20.001, 0, 0)};
    strip.triangles = {{0, 1, 2}, {0, 2, 3}};
    const Volumes v = enclosed(together(boxAt(0, 0, 0, 10), strip));
    EXPECT_EQ(v.sheets.size(), 1U);
    EXPECT_TRUE(v.shreds.empty());
    EXPECT_EQ(v.mesh.triangles.size(), 14U);
}

}  // namespace
}  // namespace zither::tests
