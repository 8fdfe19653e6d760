// The automatic repair: chooses steps by what the survey finds, judges after each, and says why it did what it did.
#pragma once

#include <functional>
#include <limits>
#include <memory>
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
    std::shared_ptr<const Mesh> mesh;  // after the step
    double seconds = 0;
};

struct RepairOptions {
    Brief brief = builtInBriefs().front();
    double maxDeviation = std::numeric_limits<double>::infinity();  // caps the distance of weld
};

struct RepairResult {
    std::vector<DoneStep> steps;    // those that changed something
    std::vector<std::string> left;  // what a person has to decide: openings, shells ...
};

// Runs the chain; steps that change nothing, or that make a count of the brief worse in the end, are left out.
Outcome<RepairResult> repairAutomatically(std::shared_ptr<const Mesh> m, const RepairOptions& options,
                                          Progress& progress);

}  // namespace zither::steps
