// Every triangle of either surface is laid onto the other from below its middle.
#include "shape/reach.h"

#include <algorithm>
#include <atomic>
#include <bit>
#include <cmath>

#include "measure/overlay.h"
#include "mesh/parallel.h"
#include "shape/edge_collapse.h"
#include "space/nearby.h"

namespace zither::shape {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

// Calls use(triangle, hint) for all triangles, neighbours one after the other, over all threads; false where cancelled.
template <class Use>
bool forEachTriangle(const check::Surveyed& s, mesh::Progress& progress, const Use& use) {
    const std::vector<TriangleId>& order = s.tree().order();
    constexpr std::size_t aBlock = 4096;
    const std::size_t blocks = (order.size() + aBlock - 1) / aBlock;
    std::atomic<bool> stop = false;
    mesh::parallelFor(blocks, 1, [&](std::size_t b) {
        std::optional<TriangleId> hint;
        for (std::size_t i = b * aBlock; i < std::min(order.size(), (b + 1) * aBlock) && !stop; ++i)
            use(order[i], hint);
        if (!progress.report(static_cast<double>(b) / static_cast<double>(blocks))) stop = true;
    });
    return !stop;
}

// Not negative, so that their bits are ordered as they are.
void raise(float& value, float to) {
    std::atomic_ref<float> shared(value);
    float now = shared.load(std::memory_order_relaxed);
    while (now < to && !shared.compare_exchange_weak(now, to, std::memory_order_relaxed)) {
    }
}

}  // namespace

std::optional<double> heightOver(const Mesh& m, TriangleId t, const check::Surveyed& other,
                                 std::optional<TriangleId>& hint, std::vector<TriangleId>* under) {
    const Point middle = mesh::centroid(m, t);
    const std::array<Point, 3> piece = {m.corner(t, 0), m.corner(t, 1), m.corner(t, 2)};
    if (hint) {
        hint = space::nearestFrom(other.mesh(), other.edges(), middle, *hint).triangle;
        if (const auto height = measure::heightOver(other.mesh(), other.edges(), piece, *hint, under))
            return height->most;
    }
    // What lies on another sheet is not found by walking.
    const auto nearest = other.tree().nearest(middle, std::numeric_limits<double>::infinity(), hint);
    if (!nearest || nearest->triangle == hint) return std::nullopt;
    hint = nearest->triangle;
    const auto height = measure::heightOver(other.mesh(), other.edges(), piece, *hint, under);
    return height ? std::optional<double>(height->most) : std::nullopt;
}

mesh::Outcome<std::vector<float>> measuredReach(const check::Surveyed& input, const check::Surveyed& now,
                                                const std::vector<float>& before, float most,
                                                mesh::Progress& progress) {
    std::vector<float> reach(before);
    mesh::PartOfProgress there(progress, 0, 0.4);
    if (!forEachTriangle(now, there, [&](TriangleId t, std::optional<TriangleId>& hint) {
            if (const auto height = heightOver(now.mesh(), t, input, hint))
                reach[t] = std::min(reach[t], reachAbove(*height));
        }))
        return mesh::cancelled();
    std::vector<std::uint8_t> untold(input.mesh().triangles.size(), 0);
    mesh::PartOfProgress back(progress, 0.4, 1);
    if (!forEachTriangle(input, back, [&](TriangleId t, std::optional<TriangleId>& hint) {
            std::vector<TriangleId> under;
            const auto height = heightOver(input.mesh(), t, now, hint, &under);
            untold[t] = !height || reachAbove(*height) > most;
            if (!untold[t])
                for (const TriangleId below : under) raise(reach[below], reachAbove(*height));
        }))
        return mesh::cancelled();
    // Which triangle its points are near to is not known; it is one of these.
    for (TriangleId t = 0; t < untold.size(); ++t) {
        if (!untold[t]) continue;
        const mesh::Box around = mesh::boxOf(input.mesh(), t).widened(most);
        now.tree().overlapping(around, [&](TriangleId near) { reach[near] = std::max(reach[near], before[near]); });
    }
    return reach;
}

bool reachIsLoose(const check::Surveyed& input, const check::Surveyed& now, const std::vector<float>& reach) {
    constexpr std::size_t oneIn = 64;
    constexpr double worthIt = 0.75;
    double kept = 0;
    double measured = 0;
    std::optional<TriangleId> hint;
    for (std::size_t i = 0; i < reach.size(); i += oneIn) {
        const TriangleId t = now.tree().order()[i];
        const auto height = heightOver(now.mesh(), t, input, hint);
        kept += reach[t];
        measured += height ? std::min(reach[t], reachAbove(*height)) : reach[t];
    }
    return measured < worthIt * kept;
}

}  // namespace zither::shape
