// Words that somebody typed, held against those that are known.
#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "steps/step.h"

namespace zither::steps {

// "; did you mean 'decimate'?", or nothing where no known word is near: at most a third of its letters left out, put
// in, swapped or other (optimal string alignment distance).
std::string didYouMean(std::string_view typed, std::span<const std::string_view> known);

// The same for the name of a step, which is also found by what people call it: 'weld' means 'stitch'.
std::string didYouMeanStep(std::string_view typed);

// "a, b, c"; "none" of nothing.
std::string listed(std::span<const std::string_view> words);

// Names of the parameters that a person may say.
std::vector<std::string_view> namesOf(std::span<const Parameter> parameters);

}  // namespace zither::steps
