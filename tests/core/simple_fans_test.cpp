// A vertex that is told to have nothing crossing around it has nothing: against every pair tested exactly.
#include "check/simple_fans.h"

#include "check/crossing_pairs.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

// Flags are right where no two triangles of a flagged vertex meet; returns how many are flagged.
std::size_t provedFans(const Mesh& m) {
    const mesh::Corners corners(m);
    const auto simple = check::simpleFans(m, corners);
    std::size_t flagged = 0;
    for (mesh::VertexId v = 0; v < m.positions.size(); ++v) {
        if (!simple[v]) continue;
        ++flagged;
        const auto at = corners.at(v);
        for (std::size_t i = 0; i < at.size(); ++i)
            for (std::size_t j = i + 1; j < at.size(); ++j)
                EXPECT_FALSE(check::trianglesIntersect(m, mesh::triangleOf(at[i]), mesh::triangleOf(at[j]))) << v;
    }
    return flagged;
}

// A vertex with a closed rim of neighbours around it, on a small grid.
Mesh gridFan(std::uint64_t seed) {
    rig::Random random(seed);
    const auto coordinate = [&] { return std::floor(random.between(-2, 3)); };
    Mesh m;
    m.positions.emplace_back(0, 0, 0);
    const std::size_t around = 3 + seed % 6;
    for (std::size_t i = 0; i < around; ++i) m.positions.emplace_back(coordinate(), coordinate(), coordinate());
    for (std::size_t i = 0; i < around; ++i) m.triangles.push_back({0, 1 + i, 1 + (i + 1) % around});
    return m;
}

TEST(SimpleFans, FlagsAreRightOnGridFans) {
    std::size_t flagged = 0;
    for (std::uint64_t seed = 0; seed < 20'000; ++seed) flagged += provedFans(gridFan(seed));
    EXPECT_GT(flagged, 1000U);
}

TEST(SimpleFans, AFanThatGoesAroundTwiceIsNone) {
    Mesh m;
    m.positions.emplace_back(0, 0, 0);
    for (int i = 0; i < 6; ++i) {
        const double angle = 2 * 2 * M_PI * i / 6;  // twice around
        m.positions.emplace_back(std::cos(angle), std::sin(angle), 0.1 * i);
    }
    for (unsigned i = 0; i < 6; ++i) m.triangles.push_back({0, 1 + i, 1 + (i + 1) % 6});
    EXPECT_EQ(check::simpleFans(m, mesh::Corners(m))[0], 0);
}

TEST(SimpleFans, NothingIsSaidOfOpenFansAndOfFansThatTouch) {
    const Mesh ball = sphere();
    EXPECT_EQ(provedFans(ball), ball.positions.size());
    const auto opened = check::simpleFans(without(ball, {0}), mesh::Corners(without(ball, {0})));
    for (const mesh::VertexId v : ball.triangles[0]) EXPECT_EQ(opened[v], 0);
    // Two fans at one vertex.
    Mesh m = gridFan(3);
    const auto first = static_cast<std::uint32_t>(m.positions.size());
    for (const Point& p : {Point(9, 0, 1), Point(-9, 9, 1), Point(-9, -9, 1)}) m.positions.push_back(p);
    for (std::uint32_t i = 0; i < 3; ++i) m.triangles.push_back({0, first + i, first + (i + 1) % 3});
    EXPECT_EQ(check::simpleFans(m, mesh::Corners(m))[0], 0);
}

}  // namespace
}  // namespace zither::tests
