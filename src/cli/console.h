// What the command line talks to: where results and messages go, whether somebody watches, and whether they have
// pressed Ctrl-C. Tests put their own in its place.
#pragma once

#include <atomic>
#include <chrono>
#include <iosfwd>
#include <mutex>
#include <string>

#include "mesh/progress.h"

namespace zither::cli {

struct Console {
    std::ostream& out;                               // results
    std::ostream& err;                               // everything else
    bool watched = false;                            // err is a terminal: long calls show how far they are
    bool quiet = false;                              // nothing but errors on err
    const std::atomic<bool>* interrupted = nullptr;  // set: stop, leave every file as it was
    std::string program = "/proc/self/exe";          // that other processes are started of: zither-cli
};

// One line on the terminal: what runs, how far it is, and how long it will still take. Clears itself at the end.
class ProgressLine final : public mesh::Progress {
public:
    explicit ProgressLine(const Console& console) : console_(console) {}
    ~ProgressLine() override;

    // From now on a fraction of 0 to 1 stands for this stretch of the whole call.
    void stage(const std::string& title, double from, double to);
    // The same for one of several things that take about the same time.
    void item(const std::string& title, std::size_t index, std::size_t count);
    [[nodiscard]] bool report(double fraction) override;
    void clear();

private:
    using Clock = std::chrono::steady_clock;
    void show(double share);
    void endStage();

    const Console& console_;
    std::mutex mutex_;
    std::string title_;
    double from_ = 0;
    double to_ = 1;
    Clock::time_point begun_ = Clock::now();
    Clock::time_point stageBegun_ = begun_;
    Clock::time_point shown_{};
    std::size_t width_ = 0;  // of what stands on the line
};

}  // namespace zither::cli
