// What to do next with a part, and why: the steps that its own numbers call for.
#pragma once

#include <QString>
#include <vector>

#include "session/reading/number_text.h"
#include "session/state/judging.h"
#include "session/state/looks.h"

namespace zither::session {

struct NextStep {
    const steps::Step* step = nullptr;
    QString reason;  // a sentence
};

// At most three, in the order of the work: those for what is out of tune first, then those whose reasons stand by
// themselves. Steps by hand are never among them.
std::vector<NextStep> nextSteps(const Look& look, const steps::Verdict& verdict, const Numbers& numbers);

}  // namespace zither::session
