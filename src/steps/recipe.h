// Recipes: a list of step calls as a JSON file (docs/file-formats.md, docs/schemas/recipe.schema.json).
#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "steps/call.h"
#include "steps/json_text.h"

namespace zither::steps {

// A number as JSON: null where it is not finite, without a fraction where it is whole.
Json numberJson(double value);

// A parameter's value as JSON: null for no text, true or false for a flag, else a number or text.
Json parameterJson(const Parameter& p, const Value& value);

// A recipe: {"zither": 1, "steps": [{"name": ..., "parameters": {...}}]}.
Json recipeJson(const std::vector<StepCall>& calls);
Outcome<std::vector<StepCall>> parseRecipe(const std::string& bytes, const std::string& file);
Outcome<std::vector<StepCall>> loadRecipe(const std::string& file);

}  // namespace zither::steps
