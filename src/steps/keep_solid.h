// What is solid stays solid when new coordinates are rounded.
#pragma once

#include "mesh/precision.h"
#include "steps/step.h"

namespace zither::steps {

// What a step made, and what its coordinates are to be rounded to.
struct Unrounded {
    Mesh mesh;
    mesh::Precision precision = mesh::Precision::Double;
};

// The surface rounded, with its survey. Where the one before was solid and rounding would break it, it is mended
// (fit/fit.h), and that is said; where it was broken and is more so, that is said. Error: only cancelled.
Outcome<StepOutput> keepSolid(const Surveyed& before, Unrounded&& made, Record record, Progress& progress);

// The surface with its survey, its coordinates as they are. Where the one before was solid and this one is not, the one
// before, and that is said, with an `advice` behind it; where it was broken and is more so, that is said. Error: only
// cancelled.
Outcome<StepOutput> unlessWorse(const Surveyed& before, SurveyedPtr part, Record record, Progress& progress,
                                std::string_view advice = {});

}  // namespace zither::steps
