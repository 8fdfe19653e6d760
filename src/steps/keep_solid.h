// What is solid stays solid when new coordinates are rounded.
#pragma once

#include "steps/step.h"

namespace zither::steps {

// The surface in the precision of the one before, with its survey. Where that one was solid and rounding would break
// it, it is mended (arrange/fit.h), and that is said; where it was broken and is more so, that is said. `moved`: as a
// step made it, not yet rounded. Error: only cancelled.
Outcome<StepOutput> keepSolid(const Surveyed& before, Mesh&& moved, Record record, Progress& progress);

// The surface with its survey, its coordinates as they are. Where the one before was solid and this one is not, the one
// before, and that is said, with an `advice` behind it; where it was broken and is more so, that is said. Error: only
// cancelled.
Outcome<StepOutput> unlessWorse(const Surveyed& before, SurveyedPtr part, Record record, Progress& progress,
                                std::string_view advice = {});

}  // namespace zither::steps
