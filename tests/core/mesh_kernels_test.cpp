// Small kernels of mesh/, space/, check/ and measure/ against slow obvious mirrors, on integer grids and ugly meshes.
#include <cmath>
#include <map>
#include <numeric>
#include <random>
#include <set>

#include "arrange/exact_numbering.h"
#include "arrange/pieces.h"
#include "check/crossing_pairs.h"
#include "check/edge_runs.h"
#include "check/shell_list.h"
#include "measure/mass.h"
#include "measure/section.h"
#include "measure/stray.h"
#include "mesh/hilbert.h"
#include "mesh/numbering.h"
#include "mesh/partition.h"
#include "mesh/pick.h"
#include "mesh/precision.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::EdgeId;
using mesh::Pick;
using mesh::Precision;
using mesh::TriangleId;
using mesh::VertexId;

// ---- picks

bool shareACorner(const Mesh& m, TriangleId a, TriangleId b) {
    for (const VertexId v : m.triangles[a])
        if (mesh::hasCorner(m.triangles[b], v)) return true;
    return false;
}

std::set<TriangleId> ringOf(const Mesh& m, const std::set<TriangleId>& picked) {
    std::set<TriangleId> ring = picked;
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        for (const TriangleId p : picked)
            if (shareACorner(m, t, p)) ring.insert(t);
    return ring;
}

TEST(Pick, GrowsByWhatSharesACornerAndShrinksByTheSame) {
    for (const auto& [name, m] : uglyMeshes()) {
        if (m.triangles.empty()) continue;
        SCOPED_TRACE(name);
        rig::Random random(m.triangles.size());
        std::set<TriangleId> picked;
        for (std::size_t i = 0; i <= m.triangles.size() / 8; ++i)
            picked.insert(static_cast<TriangleId>(random.below(m.triangles.size())));
        const Pick pick({picked.begin(), picked.end()});
        std::set<TriangleId> expected = picked;
        for (unsigned rings = 1; rings <= 3; ++rings) {
            expected = ringOf(m, expected);
            const Pick grown = mesh::grown(m, pick, rings);
            EXPECT_EQ(grown.triangles(), std::vector<TriangleId>(expected.begin(), expected.end())) << rings;
        }
        // What is left has no corner with what is not picked.
        std::set<TriangleId> others;
        for (TriangleId t = 0; t < m.triangles.size(); ++t)
            if (!expected.contains(t)) others.insert(t);
        const std::set<TriangleId> touched = ringOf(m, others);
        std::vector<TriangleId> inner;
        for (const TriangleId t : expected)
            if (!touched.contains(t)) inner.push_back(t);
        EXPECT_EQ(mesh::shrunk(m, Pick({expected.begin(), expected.end()}), 1).triangles(), inner);
    }
}

TEST(Pick, OfEverythingStaysEverything) {
    EXPECT_TRUE(mesh::grown(unitBox(), Pick(), 2).everything());
    EXPECT_TRUE(mesh::shrunk(unitBox(), Pick(), 2).everything());
    const std::vector<std::uint8_t> mask = Pick({2, 99}).mask(unitBox());
    EXPECT_EQ(mask.size(), 12U);
    EXPECT_EQ(std::count(mask.begin(), mask.end(), 1), 1);
    EXPECT_EQ(mask[2], 1);
}

TEST(Pick, FlagsGrowLikePicks) {
    const Mesh m = gridSoup(4, 50, 4);
    std::vector<std::uint8_t> flags(m.triangles.size(), 0);
    flags[7] = flags[21] = 1;
    std::vector<std::uint8_t> grown = flags;
    mesh::growByRing(m, grown);
    EXPECT_EQ(mesh::grown(m, Pick({7, 21}), 1).mask(m), grown);
    const std::vector<std::uint8_t> corners = mesh::cornersOf(m, flags);
    for (VertexId v = 0; v < m.positions.size(); ++v)
        EXPECT_EQ(corners[v] != 0, mesh::hasCorner(m.triangles[7], v) || mesh::hasCorner(m.triangles[21], v));
}

// ---- precision

TEST(Precision, RoundingJoinsWhatBecomesEqualAndSaysHowFar) {
    Mesh m = unitBox();
    m.positions[7] += Point(1e-9, -2e-9, 3e-9);
    m.positions.push_back(Point(1, 1, 1) + Point(0, 4e-9, 0));
    m.triangles.push_back({7, 8, 0});  // has two corners in one place then
    EXPECT_FALSE(mesh::fitsPrecision(m, Precision::Single));
    EXPECT_EQ(mesh::precisionOf(m), Precision::Double);
    const double moved = mesh::roundAndJoin(m, Precision::Single);
    EXPECT_NEAR(moved, 4e-9, 1e-12);
    EXPECT_TRUE(mesh::fitsPrecision(m, Precision::Single));
    EXPECT_EQ(m.triangles.size(), 13U);
    EXPECT_TRUE(mesh::isCollapsed(m.triangles[12]));
    EXPECT_EQ(mesh::roundAndJoin(m, Precision::Double), 0);
}

TEST(Precision, TheUnitInTheLastPlaceIsTheStepToTheNextValue) {
    for (const double x : {1.0, 1.5, 2.0, 1e6, 3.25e-7, 123456.0}) {
        const auto f = static_cast<float>(x);
        EXPECT_EQ(mesh::unitInLastPlace(Precision::Single, x),
                  static_cast<double>(std::nextafter(f, 1e30F)) - static_cast<double>(f));
        EXPECT_EQ(mesh::unitInLastPlace(Precision::Double, x), std::nextafter(x, 1e300) - x);
    }
}

// ---- order in space

TEST(Hilbert, TheOrderIsAPermutationForAnySubsetAndAnyThreads) {
    const Mesh m = gridSoup(11, 300, 6);
    std::vector<TriangleId> order = mesh::hilbertOrder(m);
    EXPECT_EQ(order, withOneThread([&] { return mesh::hilbertOrder(m); }));
    std::sort(order.begin(), order.end());
    for (TriangleId t = 0; t < m.triangles.size(); ++t) ASSERT_EQ(order[t], t);
    std::vector<TriangleId> odd;
    for (TriangleId t = 1; t < m.triangles.size(); t = t + 2) odd.push_back(t);
    std::vector<TriangleId> some = mesh::hilbertOrder(m, odd);
    std::sort(some.begin(), some.end());
    EXPECT_EQ(some, odd);
}

TEST(Hilbert, EveryCellHasAKeyOfItsOwn) {
    constexpr unsigned bits = 3;
    std::set<std::uint64_t> keys;
    for (std::uint32_t x = 0; x < 8; ++x)
        for (std::uint32_t y = 0; y < 8; ++y)
            for (std::uint32_t z = 0; z < 8; ++z) keys.insert(mesh::hilbertKey({x, y, z}, bits));
    EXPECT_EQ(keys.size(), 512U);
    EXPECT_EQ(*keys.rbegin(), 511U);
}

// A grid of squares with triangles in rows; as many as are asked for at least.
Mesh gridOf(std::size_t triangles) {
    Mesh m;
    const auto side = static_cast<std::uint32_t>(std::ceil(std::sqrt(static_cast<double>(triangles) / 2)));
    for (std::uint32_t y = 0; y <= side; ++y)
        for (std::uint32_t x = 0; x <= side; ++x) m.positions.emplace_back(x, y, std::sin(0.01 * x));
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            const std::uint32_t v = y * (side + 1) + x;
            m.triangles.push_back({v, v + 1, v + side + 2});
            m.triangles.push_back({v, v + side + 2, v + side + 1});
        }
    return m;
}

using CornerPoints = std::array<std::array<double, 3>, 3>;
std::multiset<std::pair<CornerPoints, std::uint32_t>> trianglesOf(const Mesh& m) {
    std::multiset<std::pair<CornerPoints, std::uint32_t>> all;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        CornerPoints corners;
        for (unsigned k = 0; k < 3; ++k)
            for (int i = 0; i < 3; ++i) corners[k][static_cast<unsigned>(i)] = m.corner(t, k)[i];
        all.emplace(corners, m.regionOf(t));
    }
    return all;
}

TEST(Numbering, WhatLiesInNoOrderIsPutInOrderAndStaysTheSameSurface) {
    Mesh m = gridOf(120'000);
    EXPECT_FALSE(mesh::isScattered(m)) << "rows";
    for (TriangleId t = 0; t < m.triangles.size(); ++t) m.regions.push_back(t % 3);
    m.regionNames = {"a", "b", "c"};
    std::vector<std::uint32_t> order(m.triangles.size());
    std::iota(order.begin(), order.end(), 0U);
    std::mt19937 random(4);
    std::shuffle(order.begin(), order.end(), random);
    Mesh shuffled = m;
    for (std::size_t i = 0; i < order.size(); ++i) {
        shuffled.triangles[i] = m.triangles[order[i]];
        shuffled.regions[i] = m.regions[order[i]];
    }
    ASSERT_TRUE(mesh::isScattered(shuffled));
    Mesh ordered = shuffled;
    mesh::putInOrder(ordered);
    EXPECT_FALSE(mesh::isScattered(ordered));
    EXPECT_EQ(ordered.positions.size(), m.positions.size());
    EXPECT_EQ(ordered.regionNames, m.regionNames);
    EXPECT_EQ(trianglesOf(ordered), trianglesOf(m));
    Mesh again = ordered;
    mesh::putInOrder(again);
    EXPECT_TRUE(mesh::isSameSurface(again, ordered));
    EXPECT_EQ(again.triangles, ordered.triangles) << "done twice it is as done once";
    EXPECT_EQ(withOneThread([&] {
                  Mesh other = shuffled;
                  mesh::putInOrder(other);
                  return other.triangles;
              }),
              ordered.triangles);
}

TEST(Numbering, VerticesThatLieInNoOrderAreToldAsWellAndSmallSurfacesStayAsTheyAre) {
    Mesh m = gridOf(120'000);
    std::vector<VertexId> to(m.positions.size());
    std::iota(to.begin(), to.end(), 0U);
    std::mt19937 random(4);
    std::shuffle(to.begin(), to.end(), random);
    const Mesh given = m;
    for (VertexId v = 0; v < to.size(); ++v) m.positions[to[v]] = given.positions[v];
    for (mesh::Triangle& t : m.triangles)
        for (VertexId& v : t) v = to[v];
    EXPECT_TRUE(mesh::isScattered(m));
    mesh::putInOrder(m);
    EXPECT_FALSE(mesh::isScattered(m));
    EXPECT_EQ(trianglesOf(m), trianglesOf(given));
    EXPECT_FALSE(mesh::isScattered(gridSoup(3, 5000, 9)));
    EXPECT_FALSE(mesh::isScattered(Mesh()));
}

TEST(Partition, HoldsEachNumberOnceInItsBucketInAscendingOrder) {
    for (const std::size_t count : {0U, 1U, 5000U, 100'000U}) {
        const auto bucketOf = [](std::size_t i) { return (i * 2654435761U >> 7) % 37; };
        const mesh::Partition parts(count, 37, bucketOf);
        std::vector<std::uint8_t> seen(count, 0);
        std::size_t before = 0;
        for (std::size_t b = 0; b < parts.bucketCount(); ++b) {
            EXPECT_EQ(parts.beginOf(b), before);
            EXPECT_TRUE(std::is_sorted(parts[b].begin(), parts[b].end()));
            for (const std::uint32_t i : parts[b]) {
                ASSERT_EQ(bucketOf(i), b);
                ASSERT_EQ(seen[i]++, 0);
            }
            before += parts[b].size();
        }
        EXPECT_EQ(before, count);
    }
}

// ---- crossing pairs

std::set<check::TrianglePair> allPairs(const Mesh& m) {
    std::set<check::TrianglePair> pairs;
    for (TriangleId a = 0; a < m.triangles.size(); ++a)
        for (TriangleId b = a + 1; b < m.triangles.size(); ++b)
            if (!check::isDegenerate(m, a) && !check::isDegenerate(m, b) &&
                !mesh::sameCorners(m.triangles[a], m.triangles[b]) && check::trianglesIntersect(m, a, b))
                pairs.insert({a, b});
    return pairs;
}

// Few suspects are looked around one by one, many over the whole tree: both must find the same.
TEST(CrossingPairs, OfSuspectsAreThoseOfAllWithOneOfThem) {
    for (std::uint64_t seed = 0; seed < 12; ++seed) {
        const Mesh m = gridSoup(seed, 120, 5);
        std::vector<std::uint8_t> flat(m.triangles.size(), 0);
        for (TriangleId t = 0; t < flat.size(); ++t) flat[t] = check::isDegenerate(m, t);
        const space::TriangleTree tree(m);
        const std::set<check::TrianglePair> all = allPairs(m);
        for (const std::size_t every : {1U, 2U, 9U, 60U}) {
            std::vector<std::uint8_t> suspect(m.triangles.size(), 0);
            for (TriangleId t = 0; t < suspect.size(); ++t) suspect[t] = t % every == 0;
            const auto found = check::crossingPairs(tree, silent(), {.suspects = suspect, .leftOut = flat});
            ASSERT_TRUE(found);
            std::set<check::TrianglePair> expected;
            for (const auto& pair : all)
                if (suspect[pair.first] || suspect[pair.second]) expected.insert(pair);
            EXPECT_EQ(std::set<check::TrianglePair>(found->begin(), found->end()), expected) << seed << ' ' << every;
            EXPECT_EQ(found->size(), expected.size()) << "each once";
        }
    }
}

TEST(CrossingPairs, WithoutSuspectsThereAreNone) {
    const Mesh m = gridSoup(3, 60, 4);
    const std::vector<std::uint8_t> nobody(m.triangles.size(), 0);
    const auto found = check::crossingPairs(space::TriangleTree(m), silent(), {.suspects = nobody});
    ASSERT_TRUE(found);
    EXPECT_TRUE(found->empty());
}

// ---- runs of edges

TEST(EdgeRuns, AreTheConnectedPartsOfWhatIsChosen) {
    for (std::uint64_t seed = 0; seed < 10; ++seed) {
        const check::Surveyed s(gridSoup(seed, 40, 4));
        const Mesh& m = s.mesh();
        const std::vector<EdgeId> chosen = check::edgesWhere(s, [](EdgeId e) { return e % 3 == 0; });
        const auto runs = check::edgeRuns(s, chosen);
        // Slowly: labels spread over common ends until nothing changes.
        std::map<EdgeId, EdgeId> label;
        for (const EdgeId e : chosen) label[e] = e;
        const auto ends = [&](EdgeId e) {
            const mesh::HalfEdge h = s.edges().around(e).front();
            return std::set<VertexId>{mesh::fromVertex(m, h), mesh::toVertex(m, h)};
        };
        for (bool changed = true; changed;) {
            changed = false;
            for (const EdgeId a : chosen)
                for (const EdgeId b : chosen) {
                    const std::set<VertexId> of = ends(a);
                    const std::set<VertexId> with = ends(b);
                    if (std::none_of(of.begin(), of.end(), [&](VertexId v) { return with.contains(v); })) continue;
                    const EdgeId least = std::min(label[a], label[b]);
                    changed |= label[a] != least || label[b] != least;
                    label[a] = label[b] = least;
                }
        }
        std::map<EdgeId, std::vector<EdgeId>> expected;
        for (const EdgeId e : chosen) expected[label[e]].push_back(e);
        ASSERT_EQ(runs.size(), expected.size()) << seed;
        std::size_t i = 0;
        for (const auto& [first, members] : expected) {
            std::vector<EdgeId> run = runs[i++];
            std::sort(run.begin(), run.end());
            EXPECT_EQ(run, members) << seed;
        }
    }
}

// ---- nesting of shells

// Boxes around each other and beside each other, some inside out: how deep each lies is counted from its corners.
TEST(ShellList, NestingOfBoxesEqualsCountingTheBoxesAround) {
    for (std::uint64_t seed = 0; seed < 30; ++seed) {
        rig::Random random(seed + 900);
        struct Given {
            mesh::Box box;
            bool inwards;
        };
        std::vector<Given> given;
        Mesh m;
        // A row of stacks, each box strictly within the one before.
        for (int stack = 0; stack < 3; ++stack) {
            Point low(20.0 * stack, 0, 0);
            Point high = low + Point(16, 16, 16);
            for (std::size_t depth = 0; depth < 1 + random.below(4); ++depth) {
                Given& g = given.emplace_back();
                g.box.add(low);
                g.box.add(high);
                g.inwards = random.below(2) == 0;
                const Mesh b = box(low, high);
                mesh::append(m, g.inwards ? flipped(b) : b);
                low += Point(1, 1.5, 2);
                high -= Point(2, 1, 1.5);
            }
        }
        const check::Surveyed s(m);
        const auto list = check::shellList(s, {}, silent());
        ASSERT_TRUE(list);
        ASSERT_EQ(list->size(), given.size());
        for (std::size_t i = 0; i < given.size(); ++i) {
            int around = 0;
            for (std::size_t j = 0; j < given.size(); ++j)
                if (j != i && given[j].box.contains(given[i].box)) around += given[j].inwards ? -1 : 1;
            const check::Shell& shell = (*list)[i];
            EXPECT_EQ(shell.volumeSign, given[i].inwards ? -1 : 1);
            EXPECT_EQ(shell.around, around) << seed << ", shell " << i;
            EXPECT_EQ(shell.inward, given[i].inwards && around <= 0) << seed << ", shell " << i;
            EXPECT_EQ(shell.buried, !given[i].inwards && around > 0) << seed << ", shell " << i;
            EXPECT_EQ(shell.isCavity(), given[i].inwards && around > 0) << seed << ", shell " << i;
        }
    }
}

// ---- stray area

TEST(Stray, IsTheShareOfATriangleThatHasNothingNear) {
    Mesh big;
    big.positions = {Point(0, 0, 0), Point(8, 0, 0), Point(0, 8, 0)};
    big.triangles = {{0, 1, 2}};
    Mesh near = big;
    for (Point& p : near.positions) p += Point(0, 0, 0.05);
    const space::TriangleTree same(near);
    EXPECT_EQ(measure::strayArea(big, 0, same, 0.1, false), 0);
    EXPECT_EQ(measure::strayArea(big, 0, same, 0.1, true), 0);
    EXPECT_NEAR(measure::strayArea(big, 0, same, 0.01, false), 32, 1e-9);
    const Mesh turned = flipped(near);
    const space::TriangleTree back(turned);
    EXPECT_EQ(measure::strayArea(big, 0, back, 0.1, false), 0);
    EXPECT_NEAR(measure::strayArea(big, 0, back, 0.1, true), 32, 1e-9);
    // Half of it: what lies beyond x = 4 is an eighth and more of the whole, by 36 points.
    Mesh part;
    part.positions = {Point(0, 0, 0), Point(4, 0, 0), Point(4, 8, 0), Point(0, 8, 0)};
    part.triangles = {{0, 1, 2}, {0, 2, 3}};
    EXPECT_NEAR(measure::strayArea(big, 0, space::TriangleTree(part), 0.01, false), 8, 2);
}

// ---- sections

// A plane through boxes: area and outline are those of the rectangles that it meets.
TEST(Section, OfBoxesIsTheSumOfTheirRectangles) {
    for (std::uint64_t seed = 0; seed < 20; ++seed) {
        rig::Random random(seed + 77);
        Mesh m;
        double area = 0;
        double length = 0;
        const double at = 2.5;
        for (int i = 0; i < 5; ++i) {
            const Point low(10.0 * i, static_cast<double>(random.below(3)), static_cast<double>(random.below(5)));
            const Point size(1 + static_cast<double>(random.below(5)), 1 + static_cast<double>(random.below(5)),
                             1 + static_cast<double>(random.below(5)));
            mesh::append(m, box(low, low + size));
            if (low.z() < at && low.z() + size.z() > at) {
                area += size.x() * size.y();
                length += 2 * (size.x() + size.y());
            }
        }
        const auto section = measure::sectionOf(m, {Point::UnitZ(), at}, silent());
        ASSERT_TRUE(section);
        EXPECT_NEAR(section->area, area, 1e-9);
        EXPECT_NEAR(section->length, length, 1e-9);
        EXPECT_EQ(section->areaTwice, 0);
        EXPECT_EQ(section->openEnds, 0U);
        double cap = 0;
        for (TriangleId t = 0; t < section->cap.triangles.size(); ++t) {
            const Point n = mesh::areaVector(section->cap, t);
            EXPECT_GT(n.z(), 0);
            cap += 0.5 * n.norm();
        }
        EXPECT_NEAR(cap, area, 1e-9);
    }
}

// ---- cutting what is not joined

// Equal corners that are vertices of their own (a patch that adds a vertex on another): cutting must not fall over
// them, and covers what it covers where they are joined.
TEST(Pieces, OfCornersThatAreNotJoinedCoverTheSame) {
    for (std::uint64_t seed = 0; seed < 25; ++seed) {
        SCOPED_TRACE(seed);
        const Mesh joined = gridSoup(seed, 14, 4);
        const Mesh apart = loose(soupOf(joined).triangles);
        const auto a = arrange::piecesOf(check::Surveyed(joined), {}, silent());
        const auto b = arrange::piecesOf(check::Surveyed(apart), {}, silent());
        ASSERT_TRUE(a);
        ASSERT_TRUE(b);
        const double area = measure::massOf(b->mesh).area;
        EXPECT_GT(area, 0);
        EXPECT_LE(area, surveyed(joined).mass.area * (1 + 1e-12));
    }
}

// ---- exact points as vertices

TEST(NumberPoints, EqualPointsAreOneAndPointsOfTheLastPlaceApartAreTwo) {
    // A triangle; edges through it that are a unit in the last place apart; and a vertex where the first goes through.
    const double x = 0.3;
    const double next = std::nextafter(x, 1);
    Mesh m;
    for (const Point& p : {Point(0, 0, 0), Point(1, 0, 0), Point(0, 1, 0), Point(x, 0.25, -1), Point(x, 0.25, 1),
                           Point(next, 0.25, -1), Point(next, 0.25, 1), Point(x, 0.25, 0)})
        m.positions.push_back(p);
    m.triangles = {{0, 1, 2}};
    using arrange::Generator;
    const std::vector<Generator> made = {{Generator::EdgePlane, 0, {3, 4, 0, 0}},
                                         {Generator::EdgePlane, 0, {5, 6, 0, 0}},
                                         {Generator::EdgePlane, 0, {3, 4, 0, 0}}};
    arrange::ExactPoints points(m);
    points.resize(made.size());
    for (std::size_t i = 0; i < made.size(); ++i) points.set(i, made[i], points.approximate(made[i]));
    const std::uint32_t first = points.givenCount();
    Mesh out;
    std::vector<VertexId> given;
    const auto slot = arrange::numberPoints(points, {first, first + 1, first + 2, 7, 0, first}, out, given);
    ASSERT_EQ(slot.size(), points.count());
    EXPECT_EQ(out.positions.size(), 3U);
    EXPECT_EQ(slot[first], slot[first + 2]);
    EXPECT_EQ(slot[first], slot[7]);
    EXPECT_NE(slot[first], slot[first + 1]);
    EXPECT_NE(slot[0], slot[7]);
    // Those of the input stand first, in their order.
    EXPECT_EQ(given, (std::vector<VertexId>{VertexId(0), VertexId(7), VertexId(mesh::noIndex)}));
    EXPECT_EQ(slot[1], VertexId(mesh::noIndex));
    // The same of constructed points alone.
    Mesh alone;
    given.clear();
    const auto madeAlone = arrange::numberPoints(points, {first, first + 1, first + 2}, alone, given);
    EXPECT_EQ(alone.positions.size(), 2U);
    EXPECT_EQ(madeAlone[first], madeAlone[first + 2]);
    EXPECT_NE(madeAlone[first], madeAlone[first + 1]);
}

}  // namespace
}  // namespace zither::tests
