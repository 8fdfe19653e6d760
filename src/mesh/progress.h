// Progress of long work, and the wish to stop it. Every function that can run longer than 50 ms takes one.
#pragma once

#include <algorithm>
#include <string_view>

namespace zither::mesh {

class Progress {
public:
    Progress() = default;
    Progress(const Progress&) = delete;
    Progress& operator=(const Progress&) = delete;
    virtual ~Progress() = default;

    // Says how far the work is, 0 to 1. False: stop, leave the input as it was and return cancelled().
    // May be called from several threads at once; should be called at least every 50 ms of work.
    [[nodiscard]] virtual bool report(double fraction) = 0;

    // Time is short: what gets better by being tried again is taken as good as it is by now.
    [[nodiscard]] virtual bool isLate() const { return false; }
    // There is a result that could be taken as it is, in a few words; whoever shows progress may let a person take it:
    // isLate is true from then on.
    virtual void offer(std::string_view) {}
};

// For callers that neither show nor cancel.
class SilentProgress final : public Progress {
public:
    [[nodiscard]] bool report(double) override { return true; }
};

// A part [from, to] of the whole, for handing on to a function called within the work.
class PartOfProgress final : public Progress {
public:
    PartOfProgress(Progress& whole, double from, double to) : whole_(whole), from_(from), to_(to) {}
    [[nodiscard]] bool report(double fraction) override {
        return whole_.report(from_ + (to_ - from_) * std::clamp(fraction, 0.0, 1.0));
    }
    [[nodiscard]] bool isLate() const override { return whole_.isLate(); }
    void offer(std::string_view result) override { whole_.offer(result); }

private:
    Progress& whole_;
    double from_;
    double to_;
};

}  // namespace zither::mesh
