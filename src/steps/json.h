// The JSON of the command line, recipes and records, as definitions.md and docs/file-formats.md describe it.
#pragma once

#include <nlohmann/json.hpp>

#include "io/surface_file.h"
#include "measure/deviation.h"
#include "steps/brief.h"
#include "steps/step.h"

namespace zither::steps {

using Json = nlohmann::ordered_json;

// A surveyed file: the object of `check`.
Json fileJson(const std::string& file, const io::Surface& surface, const check::Survey& survey, const Verdict& verdict,
              double seconds);
Json verdictJson(const Verdict& verdict);
Json stepJson(const Step& step, const Arguments& used, const Record& record, double seconds);
Json deviationJson(const measure::Comparison& c);
Json compareJson(const measure::Comparison& c);
// The catalogue: every step with its parameters.
Json catalogueJson();

// A recipe: {"zither": 1, "steps": [{"name": ..., "parameters": {...}}]}.
Json recipeJson(const std::vector<StepCall>& calls);
Outcome<std::vector<StepCall>> parseRecipe(const std::string& bytes, const std::string& file);
Outcome<std::vector<StepCall>> loadRecipe(const std::string& file);

}  // namespace zither::steps
