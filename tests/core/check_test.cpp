// Counts against slow counting, crossings against rationals, shells and findings.
#include <boost/multiprecision/cpp_int.hpp>
#include <map>
#include <mutex>
#include <nlohmann/json.hpp>
#include <set>

#include "check/catalogue.h"
#include "check/crossing_pairs.h"
#include "check/worse.h"
#include "demo/rig.h"
#include "io/surface_file.h"
#include "repair/orient.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using check::Counts;
using check::DefectClass;
using mesh::TriangleId;
using Rational = boost::multiprecision::cpp_rational;

// ---- an all-pairs check over rational numbers, by clipping: slow and obvious

using RPoint = std::array<Rational, 3>;
RPoint rational(const Point& p) {
    return {Rational(p.x()), Rational(p.y()), Rational(p.z())};
}
RPoint minus(const RPoint& a, const RPoint& b) {
    return {a[0] - b[0], a[1] - b[1], a[2] - b[2]};
}
RPoint cross(const RPoint& a, const RPoint& b) {
    return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
}
Rational dot(const RPoint& a, const RPoint& b) {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

// The part of a convex polygon (or segment, or point) where n . (x - o) >= 0.
std::vector<RPoint> clipped(const std::vector<RPoint>& polygon, const RPoint& n, const RPoint& o) {
    std::vector<RPoint> result;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        const RPoint& a = polygon[i];
        const RPoint& b = polygon[(i + 1) % polygon.size()];
        const Rational ha = dot(n, minus(a, o));
        const Rational hb = dot(n, minus(b, o));
        if (ha >= 0) result.push_back(a);
        if ((ha > 0 && hb < 0) || (ha < 0 && hb > 0)) {
            const Rational t = ha / (ha - hb);
            RPoint p;
            for (int k = 0; k < 3; ++k) p[k] = a[k] + t * (b[k] - a[k]);
            result.push_back(p);
        }
    }
    return result;
}

RPoint negative(RPoint p) {
    for (auto& c : p) c = -c;
    return p;
}

// Corners of the intersection of the two triangles.
std::vector<RPoint> intersection(const Mesh& m, TriangleId ta, TriangleId tb) {
    std::vector<RPoint> a;
    std::vector<RPoint> b;
    for (unsigned k = 0; k < 3; ++k) {
        a.push_back(rational(m.corner(ta, k)));
        b.push_back(rational(m.corner(tb, k)));
    }
    const RPoint normal = cross(minus(b[1], b[0]), minus(b[2], b[0]));
    a = clipped(clipped(a, normal, b[0]), negative(normal), b[0]);
    for (unsigned k = 0; k < 3; ++k) a = clipped(a, cross(normal, minus(b[(k + 1) % 3], b[k])), b[k]);
    return a;
}

bool slowIntersect(const Mesh& m, TriangleId ta, TriangleId tb) {
    std::vector<RPoint> shared;
    for (auto v : m.triangles[ta])
        for (auto w : m.triangles[tb])
            if (v == w) shared.push_back(rational(m.positions[v]));
    for (const RPoint& p : intersection(m, ta, tb)) {
        if (std::find(shared.begin(), shared.end(), p) != shared.end()) continue;
        if (shared.size() < 2) return true;
        // On the shared edge?
        const RPoint c = cross(minus(shared[1], shared[0]), minus(p, shared[0]));
        const Rational along = dot(minus(shared[1], shared[0]), minus(p, shared[0]));
        if (c[0] != 0 || c[1] != 0 || c[2] != 0 || along < 0 ||
            along > dot(minus(shared[1], shared[0]), minus(shared[1], shared[0])))
            return true;
    }
    return false;
}

std::vector<check::TrianglePair> slowPairs(const Mesh& m) {
    const std::vector<std::uint8_t> degenerate = check::Surveyed(m).degenerate();
    std::vector<check::TrianglePair> pairs;
    for (TriangleId a = 0; a < m.triangles.size(); ++a)
        for (TriangleId b = a + 1; b < m.triangles.size(); ++b) {
            if (degenerate[a] || degenerate[b]) continue;
            if (std::is_permutation(m.triangles[a].begin(), m.triangles[a].end(), m.triangles[b].begin())) continue;
            if (slowIntersect(m, a, b)) pairs.emplace_back(a, b);
        }
    return pairs;
}

TEST(SelfIntersections, EqualTheSlowCheckOnIntegerGrids) {
    const int rounds = longMode() ? 4000 : 120;
    for (int seed = 0; seed < rounds; ++seed) {
        const Mesh m = gridSoup(static_cast<std::uint64_t>(1000 + seed), 14, 3 + seed % 3);
        ASSERT_EQ(surveyed(m).crossingPairs, slowPairs(m)) << "seed " << seed;
    }
}

TEST(SelfIntersections, EqualTheSlowCheckOnRandomTriangles) {
    rig::Random random(41);
    for (int round = 0; round < (longMode() ? 500 : 25); ++round) {
        rig::Soup soup;
        const double offset = round % 3 == 0 ? 1e6 : 0;
        for (int i = 0; i < 16; ++i)
            soup.add(random.direction() + Point::Constant(offset), random.direction() + Point::Constant(offset),
                     random.direction() + Point::Constant(offset));
        const Mesh m = fromSoup(soup);
        ASSERT_EQ(surveyed(m).crossingPairs, slowPairs(m)) << "round " << round;
    }
}

TEST(SelfIntersections, ContactCountsAndAGapOfOneUlpDoesNot) {
    const auto pairsOf = [](double z) {
        Mesh m;
        m.positions = {Point(0, 0, 0), Point(4, 0, 0), Point(0, 4, 0), Point(1, 1, z), Point(2, 1, 3), Point(1, 2, 3)};
        m.triangles = {{0, 1, 2}, {3, 4, 5}};
        return surveyed(m).counts.selfIntersectingPairs;
    };
    EXPECT_EQ(pairsOf(0), 1U);
    EXPECT_EQ(pairsOf(std::numeric_limits<double>::denorm_min()), 0U);
    EXPECT_EQ(pairsOf(-1), 1U);
}

TEST(SelfIntersections, FoldOverAtASharedEdge) {
    Mesh m;
    m.positions = {Point(0, 0, 0), Point(2, 0, 0), Point(1, 1, 0), Point(1, 2, 0)};
    m.triangles = {{0, 1, 2}, {1, 0, 3}};
    EXPECT_EQ(surveyed(m).counts.selfIntersectingPairs, 1U);
    m.positions[3].z() = 1e-300;
    EXPECT_EQ(surveyed(m).counts.selfIntersectingPairs, 0U);
    m.positions[3] = Point(1, -2, 0);
    EXPECT_EQ(surveyed(m).counts.selfIntersectingPairs, 0U);
}

TEST(SelfIntersections, SameForOneThreadAndCancellable) {
    const Mesh m = gridSoup(42, 3000, 30);
    const auto run = [&] { return SurveyBits(surveyed(m)); };
    EXPECT_EQ(run(), withOneThread(run));
    CancelAtTick progress(2);
    EXPECT_TRUE(check::crossingPairs(space::TriangleTree(m), progress).error().cancelled());
}

TEST(CrossingPairs, OfSuspectsAreThoseOfAllWithAnyOfThem) {
    const Mesh m = gridSoup(77, 600, 8);
    std::vector<std::uint8_t> flat(m.triangles.size(), 0);
    for (mesh::TriangleId t = 0; t < flat.size(); ++t) flat[t] = check::isDegenerate(m, t);
    const space::TriangleTree tree(m);
    const auto all = check::crossingPairs(tree, silent(), {.leftOut = flat});
    ASSERT_TRUE(all);
    // Few enough to look around each, and so many that all leaves are searched.
    for (const std::size_t oneIn : {600, 50, 3}) {
        std::vector<std::uint8_t> suspects(m.triangles.size(), 0);
        for (std::size_t t = 0; t < suspects.size(); t += oneIn) suspects[t] = 1;
        std::set<check::TrianglePair> expected;
        for (const auto& pair : *all)
            if (suspects[pair.first] || suspects[pair.second]) expected.insert(pair);
        const auto found = check::crossingPairs(tree, silent(), {.suspects = suspects, .leftOut = flat});
        ASSERT_TRUE(found);
        EXPECT_EQ(found->size(), expected.size()) << oneIn;
        EXPECT_EQ(std::set<check::TrianglePair>(found->begin(), found->end()), expected) << oneIn;
    }
}

// ---- the counts of definitions.md

void expectSlowCounts(const Mesh& m, const Counts& counts) {
    const auto slow = rig::slowCounts(soupOf(m));
    for (const check::CountKey& key : check::countKeys)
        if (slow.contains(std::string(key.key))) {
            EXPECT_EQ(counts.*key.member, slow[std::string(key.key)].get<std::uint64_t>()) << key.key;
        }
}

TEST(Survey, EqualsSlowCountingOnGridSoups) {
    for (std::uint64_t seed = 0; seed < 150; ++seed) {
        SCOPED_TRACE(seed);
        const Mesh m = gridSoup(seed, 5 + seed, 3);
        expectSlowCounts(m, surveyed(m).counts);
    }
}

TEST(Survey, EqualsSlowCountingOnUglyMeshes) {
    for (auto [name, m] : uglyMeshes()) {
        SCOPED_TRACE(name);
        if (name == "unused") m.positions.pop_back();
        if (name == "tiny" || name == "huge") continue;  // beyond 32 bits, which the slow counter rounds to
        expectSlowCounts(m, surveyed(m).counts);
    }
}

TEST(Survey, SameForOneThread) {
    const Mesh m = gridSoup(43, 2000, 12);
    const auto run = [&] { return SurveyBits(surveyed(m)); };
    EXPECT_EQ(run(), withOneThread(run));
}

TEST(Survey, ABoxIsSolid) {
    const check::Survey s = surveyed(unitBox());
    EXPECT_TRUE(s.watertight);
    EXPECT_TRUE(s.solid);
    EXPECT_DOUBLE_EQ(s.mass.volume, 1);
    EXPECT_DOUBLE_EQ(s.mass.area, 6);
    EXPECT_DOUBLE_EQ(s.edgeLength.max, std::sqrt(2.0));
    EXPECT_NEAR(s.smallestAngleDeg, 45, 1e-12);
}

TEST(Survey, InsideOutIsWatertightButNotSolid) {
    const check::Survey s = surveyed(flipped(unitBox()));
    EXPECT_TRUE(s.watertight);
    EXPECT_FALSE(s.solid);
    EXPECT_EQ(s.counts.inwardShells, 1U);
}

TEST(Survey, EmptyMeshIsNothing) {
    const check::Survey s = surveyed(Mesh());
    EXPECT_EQ(s.counts, Counts());
    EXPECT_FALSE(s.watertight);
    EXPECT_FALSE(s.solid);
}

TEST(Survey, CancelledAtEachTickUntilItGetsThrough) {
    const Mesh m = together(sphere(), box(Point(-1, -1, -1), Point(1, 1, 1)));
    for (int tick = 1; tick < 10000; ++tick) {
        CancelAtTick progress(tick);
        const auto s = check::Surveyed(m).survey({}, progress);
        if (s) {
            EXPECT_GT(tick, 3);
            return;
        }
        ASSERT_TRUE(s.error().cancelled());
    }
    FAIL() << "never got through";
}

// ---- shells and their nesting

std::uint64_t inward(const Mesh& m) {
    return surveyed(m).counts.inwardShells;
}

std::uint64_t buried(const Mesh& m) {
    return surveyed(m).counts.buriedShells;
}

TEST(InwardShells, AShellWithoutVolumeFacesNeitherWay) {
    Mesh flat;
    flat.positions = {Point(4, 4, 5), Point(6, 4, 5), Point(6, 6, 5), Point(4, 6, 5)};
    flat.triangles = {{0, 1, 2}, {0, 2, 3}, {0, 3, 1}, {1, 3, 2}};
    for (const Mesh& body : {box(Point(0, 0, 0), Point(10, 10, 10)), flipped(box(Point(0, 0, 0), Point(10, 10, 10)))}) {
        EXPECT_EQ(buried(together(body, flat)), 0U);
        EXPECT_EQ(inward(together(body, flat)), inward(body));
    }
    // Nor is it turned.
    const auto turned = repair::orient(together(box(Point(0, 0, 10), Point(10, 10, 20)), flat), mesh::Pick(), silent());
    ASSERT_TRUE(turned);
    EXPECT_EQ(turned->flipped, 0U);
}

TEST(WorseCounts, AsManyAsBeforeAreNotWorse) {
    check::Counts was;
    was.boundaryEdges = 3;
    was.holes = 1;
    check::Counts is = was;
    EXPECT_TRUE(check::worseCounts(was, is).empty());
    is.holes = 2;
    const std::vector<check::Worse> worse = check::worseCounts(was, is);
    ASSERT_EQ(worse.size(), 1U);
    EXPECT_EQ(worse[0].was, 1U);
    EXPECT_EQ(worse[0].is, 2U);
    EXPECT_TRUE(check::worseCounts(is, was).empty());
}

// Closed triangles of a plane are apart where a line along an edge of one of them parts them: in whole numbers.
bool meetInPlane(const std::array<std::array<int, 2>, 6>& p) {
    for (int t = 0; t < 2; ++t)
        for (int k = 0; k < 3; ++k) {
            const auto& a = p[static_cast<std::size_t>(3 * t + k)];
            const auto& b = p[static_cast<std::size_t>(3 * t + (k + 1) % 3)];
            std::array<int, 2> low{1000, 1000};
            std::array<int, 2> high{-1000, -1000};
            for (std::size_t i = 0; i < 6; ++i) {
                const int side = (b[0] - a[0]) * (p[i][1] - a[1]) - (b[1] - a[1]) * (p[i][0] - a[0]);
                low[i / 3] = std::min(low[i / 3], side);
                high[i / 3] = std::max(high[i / 3], side);
            }
            if (high[0] < low[1] || high[1] < low[0]) return false;
        }
    return true;
}

TEST(CrossingPairs, InOnePlaneAgainstWholeNumbers) {
    rig::Random random(4);
    int touching = 0;
    for (int round = 0; round < 60000; ++round) {
        std::array<std::array<int, 2>, 6> p;
        for (auto& q : p)
            for (int& x : q) x = static_cast<int>(random.below(4));
        Mesh m;
        for (const auto& [u, v] : p) {
            const std::array<Point, 5> in = {Point(u, v, 0), Point(0, u, v), Point(v, 0, u), Point(u, v, u + v),
                                             Point(u, 2 * u - v, v)};
            m.positions.push_back(in[static_cast<std::size_t>(round) % in.size()]);
        }
        m.triangles = {{0, 1, 2}, {3, 4, 5}};
        const mesh::TriangleId first(0);
        const mesh::TriangleId second(1);
        if (check::isDegenerate(m, first) || check::isDegenerate(m, second)) continue;
        const bool meet = meetInPlane(p);
        touching += meet;
        ASSERT_EQ(check::trianglesIntersect(m, first, second), meet) << round;
        ASSERT_EQ(check::trianglesIntersect(m, second, first), meet) << round;
    }
    EXPECT_GT(touching, 10000);
}

TEST(Drawing, BordersOfAPlaceAreTheEdgesThatOneOfItsTrianglesHasAlone) {
    // A strip of two triangles far from another place of one.
    Mesh m;
    for (const Point& p : {Point(0, 0, 0), Point(1, 0, 0), Point(1, 1, 0), Point(0, 1, 0), Point(5, 0, 0),
                           Point(6, 0, 0), Point(5, 1, 0)})
        m.positions.push_back(p);
    m.triangles = {{0, 1, 2}, {0, 2, 3}, {4, 5, 6}};
    check::Survey survey = surveyed(m);
    survey.findings = {};
    for (const auto& triangles : {std::vector<mesh::TriangleId>{mesh::TriangleId(0), mesh::TriangleId(1)},
                                  std::vector<mesh::TriangleId>{mesh::TriangleId(2)}})
        survey.findings.add(check::thinWalls, m, triangles, {});
    check::Segments borders;
    check::drawBorders({m, survey, 100}, check::thinWalls, borders);
    ASSERT_EQ(borders.size(), 2U * (4 + 3));
    // The edge between the two is none of them.
    for (std::size_t i = 0; i < borders.size(); i += 2)
        EXPECT_FALSE(borders[i] == m.positions[0] && borders[i + 1] == m.positions[2]) << i;
    check::Segments others;
    check::drawBorders({m, survey, 100}, check::overhangs, others);
    EXPECT_TRUE(others.empty());
}

TEST(Drawing, EdgesOfItsOwnClassAndSegmentsWhereTrianglesCross) {
    // A cup, and a triangle through its bottom: seven open edges, one of them where nothing crosses.
    Mesh m = without(box(Point(0, 0, 0), Point(4, 4, 4)), {2, 3});
    const auto first = static_cast<mesh::VertexId>(m.positions.size());
    for (const Point& p : {Point(1, 2.5, -1), Point(2, 2.5, 1), Point(3, 2.5, -1)}) m.positions.push_back(p);
    m.triangles.push_back({first, first + 1, first + 2});
    const check::Survey survey = surveyed(m);
    check::Segments edges;
    check::drawEdges({m, survey, 100}, check::openEdges, edges);
    EXPECT_EQ(edges.size(), 2 * survey.counts.boundaryEdges);
    check::Segments crossings;
    check::drawCrossings({m, survey, 100}, check::selfIntersections, crossings);
    EXPECT_EQ(crossings.size(), 2 * survey.counts.selfIntersectingPairs);
    double low = 4;
    double high = 0;
    for (const Point& p : crossings) {
        EXPECT_NEAR(p.y(), 2.5, 1e-12);
        EXPECT_NEAR(p.z(), 0, 1e-12);
        low = std::min(low, p.x());
        high = std::max(high, p.x());
    }
    EXPECT_NEAR(low, 1.5, 1e-12);
    EXPECT_NEAR(high, 2.5, 1e-12);
}

TEST(InwardShells, WhatIsFullAroundThemDecides) {
    const Mesh outer = box(Point(0, 0, 0), Point(10, 10, 10));
    const Mesh middle = box(Point(2, 2, 2), Point(8, 8, 8));
    const Mesh inner = box(Point(4, 4, 4), Point(6, 6, 6));
    EXPECT_EQ(inward(together(outer, flipped(middle))), 0U);
    EXPECT_EQ(inward(together(outer, middle)), 0U);
    EXPECT_EQ(buried(together(outer, middle)), 1U);
    EXPECT_FALSE(surveyed(together(outer, middle)).solid);
    // Inside out as a whole: of the two only the outer one faces the wrong way.
    EXPECT_EQ(inward(together(flipped(outer), middle)), 1U);
    EXPECT_EQ(buried(together(flipped(outer), middle)), 0U);
    EXPECT_EQ(inward(together(flipped(outer), flipped(middle))), 2U);
    EXPECT_EQ(buried(together(together(outer, middle), inner)), 2U);
    // Two around it: a cavity of the inner one alone.
    EXPECT_EQ(inward(together(together(outer, middle), flipped(inner))), 0U);
    EXPECT_EQ(inward(together(together(outer, flipped(middle)), inner)), 0U);
    EXPECT_EQ(inward(together(together(outer, flipped(middle)), flipped(inner))), 1U);
}

TEST(InwardShells, CrossingShellsAreNotNested) {
    const Mesh a = box(Point(0, 0, 0), Point(10, 10, 10));
    EXPECT_EQ(buried(together(a, box(Point(5, 5, 5), Point(15, 6, 6)))), 0U);
    // Touching from inside is a crossing too.
    EXPECT_EQ(buried(together(a, box(Point(2, 2, 0), Point(4, 4, 4)))), 0U);
}

TEST(InwardShells, InsideTheBoxOfARingButNotInTheRing) {
    // A ring of four bars, and a box in its empty middle.
    Mesh ring;
    for (const auto& [low, high] : {std::pair{Point(0, 0, 0), Point(10, 2, 2)}, {Point(0, 8, 0), Point(10, 10, 2)}})
        ring = together(ring, box(low, high));
    EXPECT_EQ(buried(together(ring, box(Point(4, 4, 0.5), Point(6, 6, 1.5)))), 0U);
}

TEST(InwardShells, RayThroughVerticesAndEdges) {
    // The first corner of the inner box lies exactly on lines through corners and edges of the outer one.
    const Mesh outer = box(Point(0, 0, 0), Point(4, 4, 4));
    Mesh octahedron;
    octahedron.positions = {Point(1, 2, 2), Point(3, 2, 2), Point(2, 1, 2),
                            Point(2, 3, 2), Point(2, 2, 1), Point(2, 2, 3)};
    octahedron.triangles = {{1, 3, 5}, {3, 0, 5}, {0, 2, 5}, {2, 1, 5}, {3, 1, 4}, {0, 3, 4}, {2, 0, 4}, {1, 2, 4}};
    EXPECT_EQ(buried(together(outer, octahedron)), 1U);
    EXPECT_EQ(buried(together(outer, flipped(octahedron))), 0U);
    const Mesh cut = sphere(10, 8, 7);  // corners on the axes
    EXPECT_EQ(buried(together(cut, box(Point(-1, 0, 0), Point(1, 1, 1)))), 1U);
}

TEST(InwardShells, ADoubleSheetEnclosesNothingAndHasNoDirection) {
    Mesh sheet;
    sheet.positions = {Point(0.1, 0.2, 0.3), Point(1.7, 0.3, 0.9), Point(0.4, 1.9, 1.1)};
    sheet.triangles = {{0, 1, 2}, {0, 2, 1}};
    const check::Survey s = surveyed(sheet);
    EXPECT_TRUE(s.shells.front().closed);
    EXPECT_EQ(s.shells.front().volumeSign, 0);
    EXPECT_EQ(s.counts.inwardShells, 0U);
}

TEST(Findings, HolesAreGroupedAndPlaced) {
    const Mesh m = without(sphere(10, 24, 12), {30, 31, 200});
    const check::Survey s = surveyed(m);
    EXPECT_EQ(s.counts.holes, 2U);
    std::size_t edges = 0;
    for (const check::Finding& f : s.findings.list) {
        if (f.defect != check::openEdges) continue;
        edges += s.findings.edgesOf(f).size();
        EXPECT_NEAR(f.position.norm(), 10, 1.5);
        EXPECT_GT(f.size, 0);
        EXPECT_EQ(s.findings.trianglesOf(f).size(), s.findings.edgesOf(f).size());
    }
    EXPECT_EQ(edges, s.counts.boundaryEdges);
}

TEST(Findings, EveryClassListsAsManyTrianglesAsItCounts) {
    for (const auto& [name, m] : uglyMeshes()) {
        SCOPED_TRACE(name);
        const check::Survey s = surveyed(m);
        std::map<std::string_view, std::uint64_t> triangles;
        std::map<std::string_view, std::uint64_t> places;
        for (const check::Finding& f : s.findings.list) {
            triangles[f.defect->key] += f.triangleCount;
            ++places[f.defect->key];
            EXPECT_TRUE(f.position.allFinite());
        }
        EXPECT_EQ(places[check::openEdges.key], s.counts.holes);
        EXPECT_EQ(places[check::duplicates.key], s.counts.duplicateTriangles);
        EXPECT_EQ(places[check::degenerate.key], s.counts.degenerateTriangles);
        EXPECT_EQ(places[check::nonmanifoldVertices.key], s.counts.nonmanifoldVertices);
        EXPECT_EQ(triangles[check::selfIntersections.key], s.counts.selfIntersectingTriangles);
        EXPECT_EQ(places[check::shells.key], s.counts.shells);
    }
}

// ---- the rig

TEST(Rig, CountsAreThoseOfDamageJson) {
    const auto damage = nlohmann::json::parse(std::ifstream(std::string(ZITHER_SOURCE) + "/demo/damage.json"));
    for (const auto& [name, part] : damage["parts"].items()) {
        SCOPED_TRACE(name);
        const auto surface =
            io::readSurface(std::filesystem::path(ZITHER_RIG) / part["file"].get<std::string>(), silent());
        ASSERT_TRUE(surface);
        const check::Survey s = surveyed(surface->mesh);
        for (const check::CountKey& key : check::countKeys)
            if (part["counts"].contains(std::string(key.key))) {
                EXPECT_EQ(s.counts.*key.member, part["counts"][std::string(key.key)]) << key.key;
            }
    }
}

TEST(Rig, GeneratorGivesTheCommittedDamage) {
    std::ifstream committed(std::string(ZITHER_SOURCE) + "/demo/damage.json");
    const std::string text{std::istreambuf_iterator<char>(committed), {}};
    EXPECT_EQ(rig::damageJson(rig::skerryRig()).dump(1) + "\n", text)
        << "after a change of the rig, copy build/release/rig/damage.json to demo/";
}

TEST(Rig, HolesAreFoundWhereTheyWereTorn) {
    const auto surface = io::readSurface(std::filesystem::path(ZITHER_RIG) / "blade.stl", silent());
    const check::Survey s = surveyed(surface->mesh);
    const rig::Part blade = rig::blade();
    for (const rig::Damage& d : blade.damage)
        for (const Point& place : d.places) {
            const bool found =
                std::any_of(s.findings.list.begin(), s.findings.list.end(), [&](const check::Finding& f) {
                    return f.defect == check::openEdges && (f.position - place).norm() < 2;
                });
            EXPECT_TRUE(found) << d.kind << " at " << place.transpose();
        }
}

TEST(Heard, EachCheckTellsItsValueOnceItIsDone) {
    const Mesh m = gridSoup(5, 60, 4);
    std::mutex writing;
    std::map<const check::DefectDescriptor*, double> heard;
    const check::Surveyed s(m);
    const auto survey = s.survey({}, silent(), [&](check::DefectClass defect, double value) {
        const std::lock_guard lock(writing);
        EXPECT_TRUE(heard.emplace(defect.operator->(), value).second);
    });
    ASSERT_TRUE(survey);
    ASSERT_EQ(heard.size(), check::catalogue().size());
    for (const auto& [defect, value] : heard) {
        const double at = defect->limited.value(**survey);
        EXPECT_TRUE(value == at || (std::isnan(value) && std::isnan(at))) << std::string_view(defect->key);
    }
}

}  // namespace
}  // namespace zither::tests
