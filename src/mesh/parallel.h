// Loops over all cores. Results must not depend on the number of threads: bodies write only to their own index, and
// sums are taken over fixed blocks in a fixed order.
#pragma once

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_sort.h>

#include <algorithm>
#include <cstddef>
#include <vector>

#ifdef __SANITIZE_THREAD__
#include "mesh/plain_threads.h"
#endif

namespace zither::mesh {

// Calls body(i) for each i in [0, count). `grain` is the least number of calls worth a task.
template <class Body>
void parallelFor(std::size_t count, std::size_t grain, const Body& body) {
#ifdef __SANITIZE_THREAD__
    plainThreadsFor(count, grain, body);
#else
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, count, grain), [&](const tbb::blocked_range<std::size_t>& r) {
        for (std::size_t i = r.begin(); i != r.end(); ++i) body(i);
    });
#endif
}

// Sorts by <. Where elements are equal their order depends on threads: they must be equal in every way.
template <class Iterator>
void parallelSort(Iterator begin, Iterator end) {
#ifdef __SANITIZE_THREAD__
    std::sort(begin, end);
#else
    tbb::parallel_sort(begin, end);
#endif
}

// Size of the fixed blocks that blockwise sums run over.
inline constexpr std::size_t blockSize = 16384;

// Combines per-block results in block order: value = combine(value, block(begin, end)). The same for any thread count.
template <class Value, class Block, class Combine>
Value parallelBlocks(std::size_t count, Value value, const Block& block, const Combine& combine) {
    const std::size_t blocks = (count + blockSize - 1) / blockSize;
    std::vector<Value> partial(blocks, value);
    parallelFor(blocks, 1,
                [&](std::size_t b) { partial[b] = block(b * blockSize, std::min(count, (b + 1) * blockSize)); });
    for (Value& p : partial) value = combine(std::move(value), std::move(p));
    return value;
}

}  // namespace zither::mesh
