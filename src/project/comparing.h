// Two surfaces compared in every way that is told of them: how far apart they are, what stayed, what can be seen no
// more, and what is new.
#pragma once

#include "check/surveyed.h"
#include "measure/deviation.h"
#include "measure/loss.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::project {

struct Compared {
    measure::Comparison distance;
    measure::Loss loss;
};

// From a to b. Error: only cancelled.
mesh::Outcome<Compared> compare(const check::Surveyed& a, const check::Surveyed& b, mesh::Progress& progress);

// The loss alone. `listed`: one flag a triangle of b, as measure::LossOptions; empty: none.
mesh::Outcome<measure::Loss> lossOf(const check::Surveyed& a, const check::Surveyed& b,
                                    std::span<const std::uint8_t> listed, mesh::Progress& progress);

}  // namespace zither::project
