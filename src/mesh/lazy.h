// A value that is made when it is first asked for, once.
#pragma once

#include <tbb/task_arena.h>

#include <atomic>
#include <mutex>
#include <optional>
#include <utility>

namespace zither::mesh {

// May be asked from several threads: one makes the value, the others wait. Where making it throws, the next one that
// asks tries again.
template <class T>
class Lazy {
public:
    template <class Make>
    const T& get(const Make& make) const {
        if (made_.load(std::memory_order_acquire)) return *value_;
        const std::lock_guard making(mutex_);
        if (!made_) {
            // While it waits for its own parallel loops a thread must not take up work from outside: that work could
            // ask for this very value.
            tbb::this_task_arena::isolate([&] { value_.emplace(make()); });
            made_.store(true, std::memory_order_release);
        }
        return *value_;
    }

    // Gives its memory back; it is made again when it is asked for again. Nobody may use the value meanwhile.
    void forget() const {
        const std::lock_guard making(mutex_);
        made_ = false;
        value_.reset();
    }

private:
    mutable std::mutex mutex_;
    mutable std::atomic<bool> made_ = false;
    mutable std::optional<T> value_;
};

}  // namespace zither::mesh
