// Work that ends in time: cancelled by whoever asked for it, or because its time is up.
#pragma once

#include <atomic>
#include <chrono>

#include "mesh/progress.h"

namespace zither::steps {

class Deadline final : public mesh::Progress {
public:
    // `seconds`: from now on, of the clock on the wall; infinity: no end.
    Deadline(mesh::Progress& whole, double seconds)
        : whole_(whole), start_(std::chrono::steady_clock::now()), seconds_(seconds) {}

    [[nodiscard]] bool report(double fraction) override {
        if (!whole_.report(fraction)) {
            cancelled_ = true;
            return false;
        }
        return !isOver();
    }

    // So much of the time is left for what has been begun to end with what it has.
    [[nodiscard]] bool isLate() const override { return whole_.isLate() || passed() > late * seconds_; }

    // For what is to end whatever the time.
    [[nodiscard]] mesh::Progress& whole() { return whole_; }
    [[nodiscard]] double passed() const {
        return std::chrono::duration<double>(std::chrono::steady_clock::now() - start_).count();
    }
    // Time is up, and nobody has cancelled.
    [[nodiscard]] bool isOver() const {
        return !cancelled_ && (passed() > seconds_ || (hasResult_ && whole_.isLate()));
    }
    // From here on a person may take the best that there is.
    void offer(std::string_view result) override {
        hasResult_ = true;
        whole_.offer(result);
    }

private:
    static constexpr double late = 0.6;
    mesh::Progress& whole_;
    std::chrono::steady_clock::time_point start_;
    double seconds_;
    std::atomic<bool> cancelled_ = false;
    std::atomic<bool> hasResult_ = false;
};

}  // namespace zither::steps
