// A step with a reason of its own is called for where it gives one; one without where nothing else helps with what
// fails.
#include "session/reading/next_steps.h"

#include <algorithm>

#include "session/reading/desk_model.h"
#include "session/reading/strings.h"

namespace zither::session {
namespace {

constexpr std::size_t most = 3;

class Finder {
public:
    Finder(const Look& look, const steps::Verdict& verdict, const Numbers& numbers)
        : look_(look), verdict_(verdict), numbers_(numbers) {}

    [[nodiscard]] std::vector<NextStep> find() {
        for (const steps::Judged& j : verdict_.judged)
            if (!j.met && j.requirement.measure->marks) addFor(j);
        std::stable_sort(found_.begin(), found_.end(),
                         [](const NextStep& a, const NextStep& b) { return placeOf(*a.step) < placeOf(*b.step); });
        for (const steps::Step& step : steps::catalogue())
            if (!look_.proposals->at(&step).reason.empty()) add(step, text(look_.proposals->at(&step).reason));
        found_.resize(std::min(most, found_.size()));
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
        const std::vector<const steps::Step*> helpful = DeskModel::stepsFor(defect);
        bool called = false;
        for (const steps::Step* step : helpful) {
            const Proposal& proposal = look_.proposals->at(step);
            if (step->byHand || proposal.reason.empty() || proposal.nothing) continue;
            add(*step, text(proposal.reason));
            called = true;
        }
        if (called) return;
        for (const steps::Step* step : helpful)
            if (!step->byHand && !step->reason && !look_.proposals->at(step).nothing)
                return add(*step, failureText(judged, numbers_) + ".");
    }

    const Look& look_;
    const steps::Verdict& verdict_;
    const Numbers& numbers_;
    std::vector<NextStep> found_;
};

}  // namespace

std::vector<NextStep> nextSteps(const Look& look, const steps::Verdict& verdict, const Numbers& numbers) {
    return Finder(look, verdict, numbers).find();
}

}  // namespace zither::session
