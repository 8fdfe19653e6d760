// What was done to a part, step by step.
#include "steps/done_step.h"

#include <chrono>
#include <utility>

#include "steps/lost.h"

namespace zither::steps {

Outcome<DoneStep> doStep(StepCall call, const SurveyedPtr& part, const Pick& pick, Progress& progress) {
    const auto start = std::chrono::steady_clock::now();
    Outcome<StepDone> output = runStep(call, part, pick, progress);
    if (!output) return mesh::errorOf(output);
    DoneStep done;
    done.call = std::move(call);
    done.used = std::move(output->used);
    done.record = std::move(output->record);
    done.facts = output->facts;
    done.part = std::move(output->part);
    done.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    done.changed = output->changed;
    done.leftOut = output->leftOut;
    return done;
}

measure::Told toldBy(const std::vector<DoneStep>& done) {
    Origin origin;
    for (const DoneStep& step : done) origin.follow(step.record);
    return std::move(origin.told);
}

}  // namespace zither::steps
