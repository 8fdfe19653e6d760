// Sheets that become bodies.
#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "enclose/thicken.h"
#include "measure/mass.h"
#include "space/winding.h"
#include "steps/call.h"
#include "steps/step.h"
#include "tests/core/assemblies.h"
#include "tests/core/enclosed.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

TEST(Thicken, BodiesAreClosedAndNowhereInsideOutAndKeepTheirFaces) {
    for (std::uint64_t seed = 0; seed < 30; ++seed) {
        SCOPED_TRACE(seed);
        const Mesh m = gridSoup(seed, 14, 4);
        const mesh::Traced t = enclose::thickened(m, 0.1, mesh::Precision::Single);
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
        const space::WindingTree winding(t.mesh);
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

TEST(Thicken, TheSheetsOwnTrianglesComeFirstAsTheyStood) {
    for (const std::uint32_t n : {1U, 3U, 8U}) {
        Mesh m;
        for (std::uint32_t y = 0; y <= n; ++y)
            for (std::uint32_t x = 0; x <= n; ++x) m.positions.emplace_back(x, y, 0.125 * x * y);
        for (std::uint32_t y = 0; y < n; ++y)
            for (std::uint32_t x = 0; x < n; ++x) {
                const std::uint32_t v = (n + 1) * y + x;
                m.triangles.push_back({v, v + 1, v + n + 2});
                m.triangles.push_back({v, v + n + 2, v + n + 1});
            }
        const mesh::Traced t = enclose::thickened(m, 0.05, mesh::Precision::Single);
        ASSERT_GT(t.mesh.triangles.size(), m.triangles.size());
        for (TriangleId i = 0; i < t.sourceOf.size(); ++i) {
            if (i < m.triangles.size()) {
                EXPECT_EQ(t.sourceOf[i], i);
                EXPECT_EQ(t.mesh.triangles[i], m.triangles[i]);
            } else {
                EXPECT_EQ(t.sourceOf[i], TriangleId(mesh::noIndex));
            }
        }
        // What two prisms have between them is gone: both sides and the rim are left.
        EXPECT_EQ(t.mesh.triangles.size(), 2 * m.triangles.size() + 2 * surveyed(m).counts.boundaryEdges);
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
        enclose::VolumesOptions options;
        options.sheets = enclose::VolumesOptions::Sheets::Thicken;
        options.thickness = 0.1;
        const check::Surveyed s(m);
        const auto result = enclose::fullOrEmpty(s, options, silent());
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
        enclose::thickenSheets(check::Surveyed(m), mesh::Pick(plates), 0.25, mesh::Precision::Single, silent());
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
        enclose::thickenSheets(check::Surveyed(m), mesh::Pick(sheet), 0.25, mesh::Precision::Single, silent());
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
    const auto r = enclose::thickenSheets(check::Surveyed(fin), {}, 0.25, mesh::Precision::Single, silent());
    ASSERT_TRUE(r);
    EXPECT_EQ(r->triangles, 1U);
    EXPECT_TRUE(surveyed(r->mesh).solid);
    EXPECT_NEAR(surveyed(r->mesh).mass.volume, 64 + 0.5 * 4 * 3 * 0.25, 0.05);
    // What is closed stays, with or without a pick.
    const Mesh ball = sphere();
    for (const mesh::Pick& pick : {mesh::Pick(), mesh::Pick({0, 1, 2})}) {
        const auto same = enclose::thickenSheets(check::Surveyed(ball), pick, 0.1, mesh::Precision::Single, silent());
        if (pick.everything()) {
            EXPECT_TRUE(Bits(same->mesh) == Bits(ball));
        } else {
            ASSERT_FALSE(same);
            EXPECT_NE(same.error().message.find("pick whole sheets"), std::string::npos);
        }
    }
}

TEST(Thicken, ToEitherSideOrToBoth) {
    // A bent sheet that meets a box.
    Mesh sheet;
    sheet.positions = {Point(0, 0, 0),  Point(10, 0, 0), Point(10, 10, 0),
                       Point(0, 10, 0), Point(20, 0, 4), Point(20, 10, 4)};
    sheet.triangles = {{0, 1, 2}, {0, 2, 3}, {1, 4, 5}, {1, 5, 2}};
    for (const bool withBox : {false, true}) {
        const Mesh m = withBox ? together(sheet, box(Point(-2, 2, -3), Point(1, 8, 3))) : sheet;
        const auto made = [&](const char* side) {
            const auto done = steps::runStep(*steps::parseStepCall(std::string("thicken thickness=2 side=") + side),
                                             shared(m), mesh::Pick(), silent());
            EXPECT_TRUE(done) << side;
            return done.value().part->mesh();
        };
        const Mesh behind = made("behind");
        const Mesh front = made("front");
        const Mesh both = made("both");
        for (const Mesh* body : {&behind, &front, &both}) {
            const check::Survey survey = surveyed(*body);
            EXPECT_TRUE(survey.solid);
            EXPECT_EQ(survey.counts.shells, 1U);
        }
        if (withBox) continue;
        EXPECT_NEAR(mesh::boxOf(behind).min.z(), -2, 1e-5);
        EXPECT_NEAR(mesh::boxOf(front).min.z(), 0, 1e-5);
        EXPECT_NEAR(mesh::boxOf(both).min.z(), -1, 1e-5);
        const double volume = measure::massOf(both).volume;
        EXPECT_NEAR(volume, 0.5 * (measure::massOf(behind).volume + measure::massOf(front).volume), 0.03 * volume);
    }
}

}  // namespace
}  // namespace zither::tests
