// What each step proposes for a part as it stands: found beside the window, when the part is looked at.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "check/surveyed.h"
#include "steps/step.h"

namespace zither::session {

struct Proposal {
    steps::Arguments values;
    std::vector<double> samples;  // of the parameter that has any
    bool nothing = false;         // it looked, and found nothing that it would change
    std::string reason;           // why it would help, as steps::Step::reason
};

// Of every step of the catalogue. Reasons only where the part was surveyed.
using Proposals = std::map<const steps::Step*, Proposal>;
Proposals proposalsFor(const check::Surveyed& part);

}  // namespace zither::session
