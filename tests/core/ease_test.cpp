// Sound surfaces made fit for a mesher: needles, folds and gaps of a hair go, and nothing else changes.
#include "fit/ease.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "fit/swept.h"
#include "fit/unfold.h"
#include "steps/all_steps.h"
#include "steps/automatic_repair.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::TriangleId;
using mesh::VertexId;

std::uint64_t thinPlaces(const Mesh& m) {
    const auto c = surveyed(m).counts;
    return c.needles + c.folds + c.hairGaps;
}

Mesh eased(const Mesh& m, double tolerance) {
    auto result = fit::ease(m, {.tolerance = tolerance}, silent());
    EXPECT_TRUE(result);
    if (!result) return m;
    EXPECT_EQ(mesh::validate(result->mesh), "");
    EXPECT_EQ(result->sourceOf.size(), result->mesh.triangles.size());
    for (const TriangleId t : result->sourceOf) EXPECT_LT(t, m.triangles.size());
    return std::move(result->mesh);
}

// A block, 10 wide and 10 high, with a fin on its top so thick at its foot and so high, or a slit so deep; and a point
// in the middle of that foot.
Mesh blockWithFin(double thick, double high, double slant = 0) {
    Mesh m;
    m.positions = {{0, 0, 10}, {10, 0, 10}, {10, 10, 10}, {0, 10, 10}, {0, 0, 0}, {10, 0, 0}, {10, 10, 0}, {0, 10, 0}};
    const auto add = [&](double x, double y, double z) {
        m.positions.push_back(Point(x, y, z));
        return static_cast<VertexId>(m.positions.size() - 1);
    };
    const VertexId p = add(3, 5, 10);
    const VertexId q = add(7, 5, 10);
    const VertexId front = add(5, 5 - thick / 2, 10);
    const VertexId back = add(5, 5 + thick / 2, 10);
    const VertexId tip = add(5.3, 5 + slant, 10 + high);
    m.triangles = {{0, 1, front}, {0, front, p}, {1, q, front},   {1, 2, q},       {2, 3, back},   {2, back, q},
                   {3, p, back},  {3, 0, p},     {p, front, tip}, {front, q, tip}, {q, back, tip}, {back, p, tip},
                   {4, 6, 5},     {4, 7, 6},     {4, 5, 1},       {4, 1, 0},       {5, 6, 2},      {5, 2, 1},
                   {6, 7, 3},     {6, 3, 2},     {7, 4, 0},       {7, 0, 3}};
    return m;
}

fit::UnfoldOptions within(double tolerance) {
    return {.angleDeg = 0.5, .tolerance = tolerance, .needle = 4e-5};
}

TEST(Unfold, ASlitOfNoWidthAndALowFinAreLaidFlat) {
    for (const double high : {-4.0, 9e-4}) {
        const Mesh m = blockWithFin(1e-6, high);
        ASSERT_TRUE(surveyed(m).solid);
        ASSERT_EQ(surveyed(m).counts.folds, 2U);
        const auto flat = fit::unfold(m, within(1e-3));
        const auto s = surveyed(flat.mesh);
        EXPECT_TRUE(s.solid);
        EXPECT_EQ(s.counts.folds, 0U);
        EXPECT_NEAR(s.mass.size.max.z(), 10, 1e-9);
        EXPECT_NEAR(s.mass.volume, 1000, 1e-3);
        EXPECT_LE(flat.farthestMoved, 1e-3);
        EXPECT_GT(flat.unfolded, 0U);
    }
}

TEST(Unfold, WhatIsThickerOrStandsOutFartherThanTheToleranceStays) {
    for (const Mesh& m : {blockWithFin(1e-2, -4), blockWithFin(1e-6, 4)}) {
        ASSERT_EQ(surveyed(m).counts.folds, 2U);
        const auto same = fit::unfold(m, within(1e-4));
        EXPECT_EQ(same.unfolded, 0U);
        EXPECT_TRUE(mesh::isSameSurface(same.mesh, m));
    }
    // What must stay stays, however thin.
    const Mesh thin = blockWithFin(1e-6, -4);
    fit::UnfoldOptions options = within(1e-3);
    options.fixed.assign(thin.triangles.size(), 1);
    EXPECT_TRUE(mesh::isSameSurface(fit::unfold(thin, options).mesh, thin));
}

TEST(Unfold, SlitsThatLeanAndCrossTheirOtherSideAreLaidFlatOrLeft) {
    std::size_t flat = 0;
    for (int i = 0; i < 12; ++i) {
        const Mesh m = blockWithFin(std::pow(10, -6 + i % 4), -4, i / 4.0);
        ASSERT_TRUE(surveyed(m).solid) << i;
        const auto result = fit::unfold(m, within(2e-3));
        const auto s = surveyed(result.mesh);
        EXPECT_TRUE(s.solid) << i;
        EXPECT_LE(s.counts.folds, surveyed(m).counts.folds) << i;
        EXPECT_NEAR(s.mass.volume, surveyed(m).mass.volume, 2e-2) << i;
        flat += result.unfolded;
    }
    EXPECT_GE(flat, 12U);
}

TEST(Ease, SkinsAHairApartAreMovedApart) {
    const Mesh m = together(box(Point(0, 0, 0), Point(10, 10, 10)), box(Point(2, 3, 10 + 1e-6), Point(17, 14, 21)));
    ASSERT_TRUE(surveyed(m).solid);
    ASSERT_GT(surveyed(m).counts.hairGaps, 0U);
    const Mesh apart = eased(m, 1e-3);
    const auto s = surveyed(apart);
    EXPECT_TRUE(s.solid);
    EXPECT_EQ(s.counts.hairGaps, 0U);
    EXPECT_EQ(apart.triangles, m.triangles) << "only vertices moved";
    EXPECT_LE(farthest(apart, m), 1e-4);
    // Where nothing may move nothing does.
    EXPECT_TRUE(mesh::isSameSurface(eased(m, 0), m));
    EXPECT_EQ(eased(m, 0).positions, m.positions);
    // Once they are apart there is nothing to do.
    EXPECT_TRUE(mesh::isSameSurface(eased(apart, 1e-3), apart));
}

TEST(Ease, AFileOf32BitsFarFromTheOriginIsPartedByItsOwnUnits) {
    Mesh m = together(box(Point(0, 0, 0), Point(1, 1, 1)), box(Point(0.25, 0.25, 1), Point(2, 2, 2)));
    for (Point& p : m.positions) p += Point(1000, 1000, 1000);
    for (std::size_t v = 8; v < 16; ++v)
        if (m.positions[v].z() == 1001) m.positions[v].z() = std::nextafter(1001.0F, 2000.0F);
    ASSERT_TRUE(surveyed(m).solid);
    auto result = fit::ease(m, {.tolerance = 1e-2, .precision = mesh::Precision::Single}, silent());
    ASSERT_TRUE(result);
    EXPECT_TRUE(mesh::fitsPrecision(result->mesh, mesh::Precision::Single));
    EXPECT_TRUE(surveyed(result->mesh).solid);
}

TEST(Ease, FlakesGoWhereTheyLieOnOthersAndStayWhereTheyAreSeen) {
    const Mesh flake = loose({{Point(1, 1, 12), Point(3, 1, 12), Point(2, 3, 12)},
                              {Point(1, 1, 12), Point(2, 3, 12), Point(2, 2, 12 + 1e-7)},
                              {Point(2, 3, 12), Point(3, 1, 12), Point(2, 2, 12 + 1e-7)},
                              {Point(3, 1, 12), Point(1, 1, 12), Point(2, 2, 12 + 1e-7)}});
    Mesh closed = flake;
    mesh::joinEqualVertices(closed);
    for (mesh::Triangle& t : closed.triangles) std::swap(t[0], t[1]);
    ASSERT_TRUE(surveyed(closed).watertight);
    const Mesh body = box(Point(0, 0, 0), Point(10, 10, 10));
    EXPECT_EQ(eased(together(body, closed), 1e-3).triangles.size(), 16U) << "it stands two above the body";
    EXPECT_EQ(eased(closed, 1e-3).triangles.size(), closed.triangles.size());
    Mesh lying = closed;
    for (Point& p : lying.positions) p.z() -= 2 - 1e-6;
    EXPECT_EQ(eased(together(body, lying), 1e-3).triangles.size(), 12U);
    Mesh hollow = closed;
    for (Point& p : hollow.positions) p.z() -= 5;
    EXPECT_EQ(eased(together(body, flipped(hollow)), 1e-3).triangles.size(), 12U);
}

// Bodies that all but touch, fins and needles at once, turned at random.
TEST(Ease, WhatIsSoundStaysSoundAndIsFitter) {
    std::size_t were = 0;
    std::size_t are = 0;
    const std::uint64_t seeds = seedsOf(30, 600);
    for (std::uint64_t seed = 0; seed < seeds; ++seed) {
        rig::Random random(seed * 77 + 5);
        // Drawn one after the other: the order of arguments is the compiler's.
        std::array<double, 4> hair{};
        for (double& h : hair) h = std::pow(10, -7 + 2.5 * random.uniform());
        const double slant = random.uniform() - 0.5;
        const double z = 10.5 + random.uniform();
        Mesh m = blockWithFin(hair[0], -4, slant);
        m = together(m, box(Point(2, 2, z), Point(8, 8, z + 1)));
        m = together(m, box(Point(3, 1, z + 1 + hair[1]), Point(5, 12, z + 3)));
        m = together(m, box(Point(10 + hair[2], 2, 1), Point(12, 7.5, 9)));
        Mesh ball = sphere(3, 12, 7);
        for (Point& p : ball.positions) p += Point(5, 5, -3 - hair[3]);
        m = together(m, ball);
        const double about = 6 * random.uniform();
        const double around = 6 * random.uniform();
        const Eigen::Matrix3d turn =
            (Eigen::AngleAxisd(about, Point::UnitX()) * Eigen::AngleAxisd(around, Point::UnitZ())).toRotationMatrix();
        for (Point& p : m.positions) p = turn * p;
        const auto before = surveyed(m);
        if (!before.solid) continue;
        const Mesh now = eased(m, 1e-3);
        const auto after = surveyed(now);
        EXPECT_TRUE(after.solid) << seed;
        EXPECT_NEAR(after.mass.volume, before.mass.volume, 1e-3 * before.mass.volume) << seed;
        // The skins of a slit that closed are within now: only the other way counts.
        EXPECT_LE(compare(now, m, silent())->aToB.max, 4e-3) << seed;
        were += thinPlaces(m);
        are += thinPlaces(now);
    }
    EXPECT_GT(were, seeds);
    EXPECT_LT(10 * are, were);
}

TEST(Ease, OnBadAndOpenSurfacesTheStepDoesNothingAndSaysSo) {
    for (const auto& [name, m] : uglyMeshes()) {
        const auto done = steps::doStep(*steps::parseStepCall("ease"), shared(m), mesh::Pick(), silent());
        ASSERT_TRUE(done) << name;
        if (surveyed(m).solid) EXPECT_TRUE(surveyed(done->part->mesh()).solid) << name;
    }
    const auto done =
        steps::doStep(*steps::parseStepCall("ease"), shared(without(unitBox(), {3})), mesh::Pick(), silent());
    ASSERT_TRUE(done);
    EXPECT_FALSE(done->changed);
    ASSERT_FALSE(done->record.sentences.empty());
    EXPECT_NE(done->record.sentences[0].find("Repair it first"), std::string::npos);
}

TEST(Ease, ARepairForAMesherEasesWhatItMended) {
    Mesh m = together(blockWithFin(1e-6, -4), box(Point(2, 2, -3), Point(8, 8, -1e-6)));
    m.triangles.erase(m.triangles.begin() + 14);
    steps::RepairOptions options{.brief = *steps::loadBrief("volume-mesh"), .closeOpenings = true};
    const auto result = steps::repairAutomatically(shared(m), options, silent());
    ASSERT_TRUE(result);
    ASSERT_FALSE(result->steps.empty());
    const auto s = surveyed(result->steps.back().part->mesh());
    EXPECT_TRUE(s.solid);
    EXPECT_EQ(s.counts.needles + s.counts.folds + s.counts.hairGaps, 0U);
}

TEST(Swept, APointIsSweptWhereTheTwoPatchesCloseAroundIt) {
    rig::Random random(3);
    const auto point = [&] { return Point(random.uniform(), random.uniform(), random.uniform()); };
    for (int i = 0; i < 500; ++i) {
        const Point rim[4] = {Point(0, 0, 0), Point(1, 0, 0), Point(1, 1, 0), Point(0, 1, 0)};
        const Point was = point();
        const Point is = point();
        const auto fan = [&](const Point& top) {
            std::vector<fit::Corners3> all;
            for (int k = 0; k < 4; ++k) all.push_back({rim[k], rim[(k + 1) % 4], top});
            return all;
        };
        // Under a fan: on the inner side of all four of its planes, which is so where the tip stands over the square.
        const auto isUnder = [&](const Point& p, const Point& top) {
            for (int k = 0; k < 4; ++k)
                if ((rim[(k + 1) % 4] - rim[k]).cross(top - rim[k]).dot(p - rim[k]) > 0) return false;
            return p.z() > 0;
        };
        const Point p = point();
        EXPECT_EQ(fit::isSwept(p, fan(was), fan(is)), isUnder(p, was) != isUnder(p, is)) << i;
    }
}

}  // namespace
}  // namespace zither::tests
