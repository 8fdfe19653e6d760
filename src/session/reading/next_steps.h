// What to do next with a part, and why: the steps that its own numbers call for.
#pragma once

#include <QString>
#include <vector>

#include "session/reading/number_text.h"
#include "session/state/judging.h"
#include "session/state/looks.h"
#include "session/state/parts.h"

namespace zither::session {

struct NextStep {
    const steps::Step* step = nullptr;
    QString reason;  // a sentence
};

// At most three, in the order of the work: those for what is out of tune first, then those whose reasons stand by
// themselves, for what the brief looks at. Steps by hand are never among them; nor, where the part is `repaired`, what
// the repair would have done itself: it asks, and its log says what it did not take.
std::vector<NextStep> nextSteps(const Look& look, const steps::Verdict& verdict, const Numbers& numbers,
                                bool repaired = false);
// Since the repair that it came from nothing was done but answering what that asked.
bool isRepaired(const Part& part);

}  // namespace zither::session
