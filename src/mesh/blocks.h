// Loops over all cores that report how far they are, and can be cancelled.
#pragma once

#include <algorithm>
#include <atomic>
#include <cstddef>

#include "mesh/parallel.h"
#include "mesh/progress.h"

namespace zither::mesh {

// Calls body(begin, end) for each block of [0, count), and reports after each. False: cancelled; some blocks may not
// have been run.
template <class Body>
[[nodiscard]] bool forBlocks(std::size_t count, std::size_t block, Progress& progress, const Body& body) {
    const std::size_t blocks = (count + block - 1) / block;
    std::atomic<bool> stop = false;
    std::atomic<std::size_t> done = 0;
    parallelFor(blocks, 1, [&](std::size_t b) {
        if (stop) return;
        body(b * block, std::min(count, (b + 1) * block));
        if (!progress.report(static_cast<double>(++done) / static_cast<double>(blocks))) stop = true;
    });
    return !stop;
}

}  // namespace zither::mesh
