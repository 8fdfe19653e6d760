// The progress line: at most ten times a second, by whichever thread comes first.
#include "cli/console.h"

#include <fmt/format.h>

#include <algorithm>
#include <ostream>

#include "project/journal.h"

namespace zither::cli {

namespace {
constexpr auto betweenShows = std::chrono::milliseconds(100);
// Before that a guess of what is left says nothing.
constexpr double leastShareForGuess = 0.03;
}  // namespace

ProgressLine::~ProgressLine() {
    clear();
    endStage();
}

// How long it took is worth a line of the journal.
void ProgressLine::endStage() {
    const auto now = Clock::now();
    if (!title_.empty()) project::journal::ended(title_, std::chrono::duration<double>(now - stageBegun_).count());
    stageBegun_ = now;
}

void ProgressLine::stage(const std::string& title, double from, double to) {
    const std::lock_guard lock(mutex_);
    endStage();
    title_ = title;
    from_ = from;
    to_ = to;
}

void ProgressLine::item(const std::string& title, std::size_t index, std::size_t count) {
    const auto all = static_cast<double>(count);
    stage(title, static_cast<double>(index) / all, static_cast<double>(index + 1) / all);
}

bool ProgressLine::report(double fraction) {
    if (console_.interrupted && *console_.interrupted) return false;
    if (!console_.watched || console_.quiet) return true;
    // Whoever comes while another thread writes has nothing newer to say.
    const std::unique_lock lock(mutex_, std::try_to_lock);
    if (lock.owns_lock()) show(from_ + (to_ - from_) * std::clamp(fraction, 0.0, 1.0));
    return true;
}

void ProgressLine::show(double share) {
    const auto now = Clock::now();
    if (now - shown_ < betweenShows) return;
    shown_ = now;
    const double spent = std::chrono::duration<double>(now - begun_).count();
    std::string line = fmt::format("{}  {:.0f} %", title_, 100 * share);
    if (share > leastShareForGuess) line += fmt::format("  {:.0f} s left", spent / share * (1 - share));
    const std::size_t width = line.size();
    if (width < width_) line.append(width_ - width, ' ');
    width_ = width;
    console_.err << '\r' << line << std::flush;
}

void ProgressLine::clear() {
    const std::lock_guard lock(mutex_);
    if (width_ > 0) console_.err << '\r' << std::string(width_, ' ') << '\r' << std::flush;
    width_ = 0;
}

}  // namespace zither::cli
