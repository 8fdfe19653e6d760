// A proposed length of zero says that a step looked and found nothing to do.
#include "session/state/proposals.h"

#include <algorithm>

#include "steps/all_steps.h"

namespace zither::session {
namespace {

bool proposesNothing(const steps::Step& step, const steps::Arguments& proposed) {
    return std::any_of(step.parameters.begin(), step.parameters.end(), [&](const steps::Parameter& p) {
        return p.kind == steps::ParameterKind::Length && p.propose && proposed.find(p.name)->second == 0;
    });
}

}  // namespace

Proposals proposalsFor(const check::Surveyed& part) {
    Proposals all;
    const std::shared_ptr<const check::Survey> survey = part.known();
    for (const steps::Step& step : steps::catalogue()) {
        Proposal& made = all[&step];
        made.values = steps::proposedArguments(step, part);
        made.nothing = proposesNothing(step, made.values);
        for (const steps::Parameter& p : step.parameters)
            if (p.samples) made.samples = p.samples(part);
        if (step.reason && survey) made.reason = step.reason(*survey, made.values, made.samples);
    }
    return all;
}

}  // namespace zither::session
