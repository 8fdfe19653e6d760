// What is solid stays solid through any chain of steps, in the file read back (promise 6).
#include <fmt/format.h>

#include "fit/fuse.h"
#include "io/surface_file.h"
#include "project/delivery.h"
#include "steps/call.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

// A few balls, boxes and bars pushed through each other, as an STL would hold them.
Mesh solidPart(rig::Random& random) {
    Mesh m = sphere(random.between(2, 4), 12 + 2 * random.below(10), 6 + random.below(10));
    for (std::size_t i = 0; i < 1 + random.below(4); ++i) {
        const Point low(random.between(-4, 2), random.between(-4, 2), random.between(-4, 2));
        if (random.below(3) == 0) {
            Mesh bar = cylinder(random.between(0.3, 1.5), random.between(2, 9), 8 + random.below(30));
            for (Point& p : bar.positions) p += low;
            mesh::append(m, bar);
        } else {
            mesh::append(m,
                         box(low, low + Point(random.between(0.2, 5), random.between(0.2, 5), random.between(0.2, 5))));
        }
    }
    mesh::roundAndJoin(m, mesh::Precision::Single);
    const auto fused = fit::fuse(m, mesh::Pick(), {}, silent());
    EXPECT_TRUE(fused);
    return fused.value().mesh;
}

std::string stepFor(const Mesh& m, rig::Random& random) {
    const mesh::Box box = mesh::boxOf(m);
    const Point at = box.min + random.between(0.1, 0.9) * box.extent();
    const char axis = "xyz"[random.below(3)];
    switch (random.below(16)) {
        case 0:
            return fmt::format("trim axis={} at={} keep={}", axis, at[axis - 'x'], random.below(2) ? "above" : "below");
        case 1:
            return fmt::format("trim normal={},{},1 through={},{},{}", random.between(-1, 1), random.between(-1, 1),
                               at.x(), at.y(), at.z());
        case 2:
            return fmt::format("place axis={} angle={} to=floor", axis, random.between(-180, 180));
        case 3:
            return "place lie=flat to=origin";
        case 4:
            return fmt::format("scale factor={}", std::exp(random.between(-3, 3)));
        case 5:
            return fmt::format("mirror axis={}", axis);
        case 6:
            return fmt::format("remesh length={}", box.diagonal() / random.between(10, 40));
        case 7:
            return fmt::format("decimate percent={}", random.between(5, 90));
        case 8:
            return fmt::format("refine length={}", box.diagonal() / random.between(5, 30));
        case 9:
            return fmt::format("hollow wall={} drains={}", box.diagonal() / random.between(15, 60), random.below(3));
        case 10:
            return fmt::format("offset distance={} corners={}",
                               (random.below(2) ? 1 : -1) * box.diagonal() / random.between(15, 100),
                               random.below(2) ? "sharp" : "round");
        case 11:
            return fmt::format("thicken thickness={}", box.diagonal() / random.between(20, 60));
        case 12:
            return fmt::format("smooth scale={} deviation={}", box.diagonal() / random.between(3, 30),
                               box.diagonal() / random.between(20, 1000));
        case 13:
            return fmt::format("flatten within={}", box.diagonal() / random.between(10, 1000));
        case 14:
            return fmt::format("soften radius={}", box.diagonal() / random.between(20, 100));
        default:
            return "refine-slivers";
    }
}

TEST(Chains, WhatIsSolidStaysSolidInTheFile) {
    const TemporaryFolder folder;
    std::size_t steps = 0;
    for (std::uint64_t seed = 0; seed < seedsOf(30, 500); ++seed) {
        rig::Random random(seed + 77);
        auto part = shared(solidPart(random));
        if (!surveyed(part->mesh()).solid) continue;
        std::string chain;
        for (int i = 0; i < 3; ++i) {
            const std::string text = stepFor(part->mesh(), random);
            chain += text + "; ";
            SCOPED_TRACE(fmt::format("seed {}: {}", seed, chain));
            const auto call = steps::parseStepCall(text);
            ASSERT_TRUE(call) << call.error().message;
            const auto done = steps::runStep(*call, part, mesh::Pick(), silent());
            ASSERT_TRUE(done) << done.error().message;
            part = done->part;
            ++steps;
        }
        SCOPED_TRACE(fmt::format("seed {}: {}", seed, chain));
        const auto judged =
            project::writeAndProve(*part, {folder / "part.stl"}, steps::builtInBriefs().front(), silent());
        ASSERT_TRUE(judged) << judged.error().message;
        EXPECT_TRUE(judged->survey->solid);
    }
    EXPECT_GT(steps, seedsOf(30, 500));
}

}  // namespace
}  // namespace zither::tests
