// What was done to a part, step by step.
#pragma once

#include <string>
#include <vector>

#include "measure/loss.h"
#include "steps/call.h"

namespace zither::steps {

// One step that was run, with the reason.
struct DoneStep {
    StepCall call = {};
    Arguments used = {};
    Record record = {};
    Facts facts = {};
    std::string why = {};
    SurveyedPtr part = nullptr;  // after the step
    double seconds = 0;
    bool changed = true;
    bool leftOut = false;  // by its condition
};

// The step run on the part, and timed; without a reason. Errors as runStep.
Outcome<DoneStep> doStep(StepCall call, const SurveyedPtr& part, const Pick& pick, Progress& progress);

// All that steps have listed.
[[nodiscard]] measure::Told toldBy(const std::vector<DoneStep>& done);

}  // namespace zither::steps
