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
