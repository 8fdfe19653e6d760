// Loops for the thread sanitizer alone: it cannot see how tasks of Debian's oneTBB wait for each other, and would take
// everything that is handed from one to another for a race.
#pragma once

#include <tbb/global_control.h>

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <exception>
#include <mutex>
#include <thread>
#include <utility>
#include <vector>

namespace zither::mesh {

// As parallelFor, with as many threads as oneTBB may have, three at most. A loop within a loop runs in its thread.
template <class Body>
void plainThreadsFor(std::size_t count, std::size_t grain, const Body& body) {
    static thread_local bool within = false;
    const std::size_t allowed = tbb::global_control::active_value(tbb::global_control::max_allowed_parallelism);
    const std::size_t size = std::max<std::size_t>({1, grain, count / 16});
    const std::size_t threads = std::min<std::size_t>({3, allowed, (count + size - 1) / size});
    std::atomic<std::size_t> next = 0;
    std::mutex guard;
    std::exception_ptr failure;
    const auto work = [&] {
        const bool before = std::exchange(within, true);
        try {
            for (std::size_t first = next.fetch_add(size); first < count; first = next.fetch_add(size))
                for (std::size_t i = first; i < std::min(count, first + size); ++i) body(i);
        } catch (...) {
            const std::lock_guard lock(guard);
            if (!failure) failure = std::current_exception();
            next = count;  // nobody begins anything more
        }
        within = before;
    };
    std::vector<std::thread> others;
    if (!within)
        for (std::size_t i = 1; i < threads; ++i) others.emplace_back(work);
    work();
    for (std::thread& t : others) t.join();
    if (failure) std::rethrow_exception(failure);
}

}  // namespace zither::mesh
