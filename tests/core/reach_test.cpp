// A decimation within a limit keeps account of how far it went; the account is never too small.
#include "shape/reach.h"

#include "shape/decimate.h"
#include "shape/star_change.h"
#include "tests/core/enclosed.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;

// Evenly over the triangle, its corners and edges included.
template <class Use>
void samplesOf(const Mesh& m, mesh::TriangleId t, int steps, const Use& use) {
    for (int i = 0; i <= steps; ++i)
        for (int j = 0; i + j <= steps; ++j)
            use(Point(m.corner(t, 0) + static_cast<double>(i) / steps * (m.corner(t, 1) - m.corner(t, 0)) +
                      static_cast<double>(j) / steps * (m.corner(t, 2) - m.corner(t, 0))));
}

double farthest(const Mesh& from, const Mesh& to, int steps) {
    const space::TriangleTree tree(to);
    double far = 0;
    for (mesh::TriangleId t = 0; t < from.triangles.size(); ++t)
        samplesOf(from, t, steps,
                  [&](const Point& p) { far = std::max(far, std::sqrt(tree.nearest(p)->distanceSquared)); });
    return far;
}

// A flat plate of triangles around two inner vertices, 0 and 1.
Mesh plateAround() {
    Mesh m;
    m.positions = {Point(0, 0, 0), Point(1, 0, 0),  Point(2, 0, 0),  Point(1, 1, 0),
                   Point(0, 1, 0), Point(-1, 0, 0), Point(0, -1, 0), Point(1, -1, 0)};
    m.triangles = {{0, 1, 4}, {1, 3, 4}, {1, 2, 3}, {0, 4, 5}, {0, 5, 6}, {0, 6, 7}, {0, 7, 1}, {1, 7, 2}};
    return m;
}

// The two stars of a collapse as surfaces, and what is said of them.
struct Change {
    Mesh before;
    Mesh after;
    double said = 0;
    double plain = 0;
};
constexpr double tooFar = -1;
Change changeOf(const Mesh& m, mesh::VertexId u, mesh::VertexId v, const Point& at,
                double most = std::numeric_limits<double>::infinity()) {
    Change c;
    shape::StarChange change;
    change.begin(m.positions[u], m.positions[v], at);
    std::vector<std::array<Point, 3>> before;
    std::vector<std::array<Point, 3>> after;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) {
        const mesh::Triangle& tri = m.triangles[t];
        const bool hasU = mesh::hasCorner(tri, u);
        if (!hasU && !mesh::hasCorner(tri, v)) continue;
        const mesh::VertexId end = hasU ? u : v;
        const unsigned k = tri[0] == end ? 0 : tri[1] == end ? 1 : 2;
        const mesh::VertexId b = tri[(k + 1) % 3];
        const mesh::VertexId d = tri[(k + 2) % 3];
        before.push_back({m.positions[end], m.positions[b], m.positions[d]});
        if (hasU && mesh::hasCorner(tri, v)) {
            change.addGone(b == v, b == v ? d : b, m.positions[b == v ? d : b]);
        } else {
            change.addKept(hasU, b, m.positions[b], d, m.positions[d]);
            after.push_back({at, m.positions[b], m.positions[d]});
        }
    }
    c.before = loose(before);
    c.after = loose(after);
    c.plain = std::max((m.positions[u] - at).norm(), (m.positions[v] - at).norm());
    c.said = change.distance(most).value_or(tooFar);
    return c;
}

TEST(StarChange, NoPointMovesFartherThanItIsSaid) {
    rig::Random random(71);
    std::size_t laid = 0;
    for (int round = 0; round < 300; ++round) {
        Mesh m = sphere(10, 20, 12);
        const double rough = round % 3 == 0 ? 0.0 : random.between(0, 2);
        for (Point& p : m.positions) p += rough * random.uniform() * random.direction();
        const mesh::TriangleId t =
            static_cast<std::uint32_t>(random.between(0, static_cast<double>(m.triangles.size() - 1)));
        const mesh::VertexId u = m.triangles[t][0];
        const mesh::VertexId v = m.triangles[t][1];
        const Point middle = 0.5 * (m.positions[u] + m.positions[v]);
        const Point at = round % 5 == 0 ? m.positions[u] : middle + random.uniform() * random.direction();
        const Change c = changeOf(m, u, v, at);
        EXPECT_LE(c.said, c.plain);
        EXPECT_LE(farthest(c.before, c.after, 12), c.said + 1e-9) << round;
        EXPECT_LE(farthest(c.after, c.before, 12), c.said + 1e-9) << round;
        laid += c.said < 0.99 * c.plain;
    }
    EXPECT_GT(laid, 100U);
}

TEST(StarChange, AnOpenBorderMayBecomeCoarserAlongItself) {
    // Half a plate; its straight border runs through vertices 0, 1 and 2.
    const Mesh half = without(plateAround(), {4, 5, 6, 7});
    EXPECT_NEAR(changeOf(half, 0, 1, half.positions[0]).said, 0, 1e-12);
    EXPECT_GE(changeOf(half, 0, 1, Point(0.5, -0.1, 0)).said, 0.1);
    rig::Random random(74);
    for (int round = 0; round < 100; ++round) {
        Mesh m = half;
        for (Point& p : m.positions) p += 0.3 * random.uniform() * random.direction();
        const Change c = changeOf(m, 0, 1, Point(0.5, 0, 0) + 0.3 * random.uniform() * random.direction());
        EXPECT_LE(farthest(c.before, c.after, 20), c.said + 1e-9) << round;
        EXPECT_LE(farthest(c.after, c.before, 20), c.said + 1e-9) << round;
    }
}

TEST(StarChange, NothingMovesInAPlaneAndHeightsCountOverAFold) {
    Mesh plate = plateAround();
    const Change flat = changeOf(plate, 0, 1, Point(0.3, 0, 0));
    EXPECT_EQ(flat.said, 0);
    // The vertex that stays was raised: it comes down, and nothing moves sideways.
    plate.positions[0].z() = 0.5;
    EXPECT_NEAR(changeOf(plate, 0, 1, Point(0, 0, 0)).said, 0.5, 1e-12);
    EXPECT_EQ(changeOf(plate, 0, 1, Point(0, 0, 0), 0.49).said, tooFar);
}

// What measuredReach promises, by many points of both surfaces.
void expectTrueReach(const Mesh& input, const Mesh& now, const std::vector<float>& reach) {
    const space::TriangleTree there(input);
    for (mesh::TriangleId t = 0; t < now.triangles.size(); ++t)
        samplesOf(now, t, 4,
                  [&](const Point& p) { EXPECT_LE(std::sqrt(there.nearest(p)->distanceSquared), reach[t] + 1e-9); });
    for (mesh::TriangleId t = 0; t < input.triangles.size(); ++t)
        samplesOf(input, t, 2, [&](const Point& p) {
            bool near = false;
            for (mesh::TriangleId n = 0; n < now.triangles.size() && !near; ++n)
                near = (space::nearestOnTriangle(p, now.corner(n, 0), now.corner(n, 1), now.corner(n, 2)) - p).norm() <=
                       reach[n] + 1e-9;
            EXPECT_TRUE(near) << t;
        });
}

TEST(MeasuredReach, IsTrueOfBothSurfaces) {
    rig::Random random(72);
    for (int round = 0; round < 6; ++round) {
        Mesh m = sphere(10, 40, 24);
        if (round % 2 == 1) m = without(m, {5, 6, 7, 300, 301});
        for (Point& p : m.positions) p += 0.02 * round * random.direction();
        const float limit = 0.3F;
        const auto r = shape::decimate(m, Pick(), {.targetTriangles = 0, .maxDeviation = limit}, silent());
        ASSERT_TRUE(r);
        const std::vector<float> before(r->mesh.triangles.size(), limit);
        const auto reach = shape::measuredReach(m, r->mesh, before, limit, silent());
        ASSERT_TRUE(reach);
        expectTrueReach(m, r->mesh, *reach);
        double sum = 0;
        for (const float x : *reach) {
            EXPECT_LE(x, limit);
            sum += x;
        }
        EXPECT_LT(sum, 0.9 * limit * static_cast<double>(reach->size()));
        EXPECT_EQ(*reach, withOneThread([&] { return *shape::measuredReach(m, r->mesh, before, limit, silent()); }));
    }
}

TEST(MeasuredReach, APinThatIsGoneIsNotForgotten) {
    // A thin spike on a plate: the plate without it is near to the input everywhere, but the spike is far from the
    // plate.
    const Mesh plate = plateAround();
    Mesh pin = plate;
    pin.positions[0].z() = 5;
    const std::vector<float> before(plate.triangles.size(), 6);
    const auto reach = *shape::measuredReach(pin, plate, before, 6, silent());
    EXPECT_GE(*std::max_element(reach.begin(), reach.end()), 5 - 1e-6);
}

TEST(LimitedDecimation, NoPointIsFartherThanPromised) {
    rig::Random random(73);
    for (std::uint64_t seed = 0; seed < seedsOf(12, 200); ++seed) {
        SCOPED_TRACE(seed);
        Mesh m = sphere(10, 30 + seed % 30, 20);
        const double rough = 0.1 * static_cast<double>(seed % 7);
        for (Point& p : m.positions) p += rough * random.uniform() * random.direction();
        if (seed % 3 == 0) m = without(m, {3, 4, 5, 100, 101, 102});
        if (seed % 4 == 0) m = together(m, box(Point(9, -1, -1), Point(15, 1, 1)));
        if (seed % 2 == 0)
            for (Point& p : m.positions) p = rig::rounded(p + Point(0, 0, 1000));
        for (const double limit : {0.01, 0.1, 1.0}) {
            const auto r = shape::decimate(m, Pick(), {.targetTriangles = 0, .maxDeviation = limit}, silent());
            ASSERT_TRUE(r);
            EXPECT_LE(r->measuredDeviation, limit);
            EXPECT_LE(farthest(m, r->mesh, 4), r->measuredDeviation + 1e-9);
            EXPECT_LE(farthest(r->mesh, m, 8), r->measuredDeviation + 1e-9);
            const auto c = compare(m, r->mesh, silent());
            EXPECT_LE(std::max(c->aToB.max, c->bToA.max), limit);
            EXPECT_FALSE(r->heldBack);
        }
    }
}

TEST(LimitedDecimation, AnOpenPlateEndsInFewTriangles) {
    Mesh plate;
    constexpr std::uint32_t side = 30;
    for (std::uint32_t y = 0; y <= side; ++y)
        for (std::uint32_t x = 0; x <= side; ++x) plate.positions.emplace_back(x, y, 0);
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            const std::uint32_t at = y * (side + 1) + x;
            plate.triangles.push_back({at, at + 1, at + side + 2});
            plate.triangles.push_back({at, at + side + 2, at + side + 1});
        }
    const auto r = shape::decimate(plate, Pick(), {.targetTriangles = 0, .maxDeviation = 0.001}, silent());
    ASSERT_TRUE(r);
    EXPECT_LE(r->mesh.triangles.size(), 20U);
    EXPECT_LE(farthest(plate, r->mesh, 1), r->measuredDeviation + 1e-9);
}

TEST(LimitedDecimation, CancelledAnywhere) {
    const Mesh m = sphere(10, 60, 40);
    for (int tick = 1; tick < 12; ++tick) {
        CancelAtTick progress(tick);
        const auto r = shape::decimate(m, Pick(), {.targetTriangles = 0, .maxDeviation = 0.2}, progress);
        EXPECT_TRUE(r || r.error().cancelled()) << tick;
    }
}

}  // namespace
}  // namespace zither::tests
