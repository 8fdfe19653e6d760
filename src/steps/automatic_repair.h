// The automatic repair: chooses steps by what the survey finds, judges after each, and says why it did what it did.
#pragma once

#include <functional>
#include <limits>
#include <vector>

#include "steps/brief.h"
#include "steps/step.h"

namespace zither::steps {

// One step that was run, with the reason.
struct DoneStep {
    StepCall call;
    Arguments used;
    Record record;
    std::string why;
    SurveyedPtr part;  // after the step
    double seconds = 0;
};

struct RepairOptions {
    Brief brief = builtInBriefs().front();
    double maxDeviation = std::numeric_limits<double>::infinity();  // caps what stitching and slivers move
};

struct RepairResult {
    std::vector<DoneStep> steps;  // those that changed something
    std::vector<Listed> left;     // what a person has to decide: openings, counts that fail ...
};

// Runs the chain up to three times, until the brief is met or nothing improves; steps that change nothing are left out,
// and the result is the best state in which no count of the brief is worse than it was. `left` says what a person has
// to decide, and whether wrapping would help.
Outcome<RepairResult> repairAutomatically(const SurveyedPtr& part, const RepairOptions& options, Progress& progress);

}  // namespace zither::steps
