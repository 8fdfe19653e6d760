// A step with a reason of its own is called for where it gives one; one without where nothing else helps with what
// fails.
#include "session/next_steps.h"

#include <algorithm>

#include "session/numbers.h"

namespace zither::session {
namespace {

constexpr std::size_t most = 3;

bool helps(const steps::Step& step, check::DefectClass defect) {
    return std::find(step.helpsWith.begin(), step.helpsWith.end(), defect) != step.helpsWith.end();
}

class Finder {
public:
    Finder(const Look& look, const steps::Verdict& verdict) : look_(look), verdict_(verdict) {}

    [[nodiscard]] std::vector<NextStep> find() {
        for (const steps::Judged& j : verdict_.judged)
            if (!j.met && j.requirement.measure->marks) addFor(j);
        std::stable_sort(found_.begin(), found_.end(),
                         [](const NextStep& a, const NextStep& b) { return placeOf(*a.step) < placeOf(*b.step); });
        for (const steps::Step& step : steps::catalogue())
            if (!look_.proposals->at(&step).reason.empty()) add(step, text(look_.proposals->at(&step).reason));
        if (found_.size() > most) found_.resize(most, found_.front());
        return std::move(found_);
    }

private:
    static std::ptrdiff_t placeOf(const steps::Step& step) {
        const auto all = steps::catalogue();
        return std::find_if(all.begin(), all.end(), [&](const steps::Step& s) { return &s == &step; }) - all.begin();
    }

    void add(const steps::Step& step, const QString& reason) {
        const bool known =
            std::any_of(found_.begin(), found_.end(), [&](const NextStep& n) { return n.step == &step; });
        if (!known && !step.byHand) found_.push_back({&step, reason});
    }

    void addFor(const steps::Judged& judged) {
        const check::DefectClass defect = *judged.requirement.measure->marks;
        const std::size_t before = found_.size();
        bool called = false;
        for (const steps::Step& step : steps::catalogue()) {
            if (!helps(step, defect) || step.byHand) continue;
            const Proposal& proposal = look_.proposals->at(&step);
            if (proposal.reason.empty() || proposal.nothing) continue;
            add(step, text(proposal.reason));
            called = true;
        }
        if (called || found_.size() > before) return;
        for (const steps::Step& step : steps::catalogue())
            if (helps(step, defect) && !step.byHand && !step.reason && !look_.proposals->at(&step).nothing)
                return add(step, QString("%1: %2, limit %3.")
                                     .arg(text(steps::titleOf(judged.requirement)),
                                          judged.value ? shortNumber(*judged.value) : QString("–"),
                                          shortNumber(*judged.requirement.limit)));
    }

    const Look& look_;
    const steps::Verdict& verdict_;
    std::vector<NextStep> found_;
};

}  // namespace

std::vector<NextStep> nextSteps(const Look& look, const steps::Verdict& verdict) {
    return Finder(look, verdict).find();
}

}  // namespace zither::session
