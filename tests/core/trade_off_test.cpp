// The curve of decimation: it falls and rises as it must, and tells what decimation does.
#include "shape/trade_off.h"

#include "shape/decimate.h"
#include "steps/all_steps.h"
#include "steps/step.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

TEST(TradeOff, FewerTrianglesGoFartherAndAboutAsFarAsDecimationDoes) {
    const Mesh m = sphere(50, 96, 64);
    const auto curve = shape::tradeOffOf(check::Surveyed(m), silent());
    ASSERT_TRUE(curve);
    ASSERT_GT(curve->size(), 8U);
    EXPECT_EQ(curve->front().triangles, m.triangles.size());
    EXPECT_EQ(curve->front().distance, 0);
    for (std::size_t i = 1; i < curve->size(); ++i) {
        EXPECT_LT((*curve)[i].triangles, (*curve)[i - 1].triangles);
        EXPECT_GE((*curve)[i].distance, (*curve)[i - 1].distance);
    }
    for (const std::size_t i : {std::size_t{4}, std::size_t{8}}) {
        const auto fewer = shape::decimate(m, {}, {.targetTriangles = (*curve)[i].triangles}, silent());
        ASSERT_TRUE(fewer);
        const double measured = farthest(m, fewer->mesh);
        EXPECT_LT((*curve)[i].distance, 1.5 * measured);
        EXPECT_GT((*curve)[i].distance, measured / 3);
    }
}

TEST(TradeOff, HoldsOnUglyMeshesAndCanBeCancelled) {
    for (const auto& [name, m] : uglyMeshes()) {
        SCOPED_TRACE(name);
        const auto curve = shape::tradeOffOf(check::Surveyed(m), silent());
        ASSERT_TRUE(curve);
        EXPECT_EQ(curve->empty(), m.triangles.empty());
        for (const shape::TradeOff& t : *curve) EXPECT_TRUE(std::isfinite(t.distance));
    }
    CancelAtTick cancel(2);
    EXPECT_FALSE(shape::tradeOffOf(check::Surveyed(sphere(50, 96, 64)), cancel));
}

TEST(TradeOff, IsTheCurveOfTheStep) {
    const check::Surveyed s(sphere(50, 48, 32));
    const steps::Step& step = steps::decimateStep();
    ASSERT_TRUE(step.curve);
    EXPECT_EQ(step.curveOf, "percent");
    const auto curve = step.curve(s, silent());
    ASSERT_TRUE(curve);
    EXPECT_EQ(curve->front().value, 100);
    for (const auto& p : *curve)
        EXPECT_NEAR(p.value, 100 * p.count / static_cast<double>(s.mesh().triangles.size()), 1e-9);
}

}  // namespace
}  // namespace zither::tests
