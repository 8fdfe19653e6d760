// A step with a reason of its own is called for where it gives one; one without where nothing else helps with what
// fails.
#include "session/reading/next_steps.h"

#include <algorithm>

#include "session/reading/desk_model.h"
#include "session/reading/strings.h"
#include "steps/all_steps.h"
#include "steps/automatic_repair.h"

namespace zither::session {
namespace {

constexpr std::size_t most = 3;

class Finder {
public:
    Finder(const Look& look, const steps::Verdict& verdict, const Numbers& numbers, bool repaired)
        : look_(look), verdict_(verdict), numbers_(numbers), repaired_(repaired) {}

    [[nodiscard]] std::vector<NextStep> find() {
        for (const steps::Judged& j : verdict_.judged)
            if (!j.met && j.requirement.measure->marks) addFor(j);
        std::stable_sort(found_.begin(), found_.end(),
                         [](const NextStep& a, const NextStep& b) { return placeOf(*a.step) < placeOf(*b.step); });
        for (const steps::Step& step : steps::catalogue())
            if (!look_.proposals->at(&step).reason.empty() && isOfBrief(step))
                add(step, text(look_.proposals->at(&step).reason));
        found_.resize(std::min(most, found_.size()));
        return std::move(found_);
    }

private:
    // It helps with nothing in particular, or with something that the brief looks at.
    [[nodiscard]] bool isOfBrief(const steps::Step& step) const {
        const auto& helps = step.helpsWith;
        return helps.empty() || std::any_of(helps.begin(), helps.end(), [&](check::DefectClass defect) {
                   return std::any_of(verdict_.judged.begin(), verdict_.judged.end(),
                                      [&](const steps::Judged& j) { return j.requirement.measure->marks == defect; });
               });
    }

    static std::ptrdiff_t placeOf(const steps::Step& step) {
        const auto all = steps::catalogue();
        return std::find_if(all.begin(), all.end(), [&](const steps::Step& s) { return &s == &step; }) - all.begin();
    }

    void add(const steps::Step& step, const QString& reason) {
        const bool known =
            std::any_of(found_.begin(), found_.end(), [&](const NextStep& n) { return n.step == &step; });
        if (!known && !step.byHand && !(repaired_ && steps::isOfRepair(step))) found_.push_back({&step, reason});
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
    bool repaired_;
    std::vector<NextStep> found_;
};

}  // namespace

std::vector<NextStep> nextSteps(const Look& look, const steps::Verdict& verdict, const Numbers& numbers,
                                bool repaired) {
    return Finder(look, verdict, numbers, repaired).find();
}

bool isRepaired(const Part& part) {
    const auto answers = {&steps::fillStep(), &steps::thickenStep(), &steps::removeStep(), &steps::putBackStep()};
    for (project::StopId id = part.track.current();; id = part.track.stop(id).parent) {
        const project::Stop& stop = part.track.stop(id);
        if (!stop.why.empty() || part.tried.contains(id)) return true;
        if (!stop.call || std::find(answers.begin(), answers.end(), stop.call->step) == answers.end()) return false;
    }
}

}  // namespace zither::session
