// Two surfaces compared in every way that is told of them: how far apart they are, what stayed, what can be seen no
// more, and what is new.
#pragma once

#include <optional>

#include "check/surveyed.h"
#include "measure/align.h"
#include "measure/deviation.h"
#include "measure/loss.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::steps {
class SeenOfImport;
}

namespace zither::project {

struct Compared {
    measure::Comparison distance;
    measure::Loss loss;
    // Share of what can be seen that is lost where nothing is known of patches and of what was asked for, as a
    // comparison of the two files tells it.
    double lostUntold = 0;
    std::optional<measure::Aligned> aligned = {};  // a was brought onto b first
};

struct ComparingOptions {
    const measure::Told* told = nullptr;  // what steps have listed, as measure::LossOptions
    steps::SeenOfImport* seen = nullptr;  // of a; nullptr: it is looked for
};

// From a, brought onto b however it lies, to b. Error: only cancelled.
mesh::Outcome<Compared> compareAligned(const check::Surveyed& a, const check::Surveyed& b, mesh::Progress& progress);

// From a to b. Error: only cancelled.
mesh::Outcome<Compared> compare(const check::Surveyed& a, const check::Surveyed& b, const ComparingOptions& options,
                                mesh::Progress& progress);

}  // namespace zither::project
