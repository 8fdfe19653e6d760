// Recipes: what is done to a part, as a JSON file (docs/file-formats.md, docs/schemas/recipe.schema.json).
#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "steps/automatic_repair.h"
#include "steps/call.h"
#include "steps/json_text.h"

namespace zither::steps {

// A number as JSON: null where it is not finite, without a fraction where it is whole.
Json numberJson(double value);

// A parameter's value as JSON: null for no text, true or false for a flag, else a number or text.
Json parameterJson(const Parameter& p, const Value& value);

struct Recipe {
    std::vector<StepCall> steps = {};
    std::optional<RepairAsked> repair = {};  // the automatic repair goes before the steps
};

// A recipe: {"zither": 1, "steps": [{"name": ..., "parameters": {...}}]}; where the repair goes first, with "repair":
// {"openings": ..., "sheets": ..., "thickness": ..., "max_deviation": ..., "answers": {"ID": "WORD"}}.
Json recipeJson(const Recipe& recipe);
Outcome<Recipe> parseRecipe(const std::string& bytes, const std::string& file);
Outcome<Recipe> loadRecipe(const std::string& file);

// The same answers in a file of their own: {"zither": 1, "answers": {"ID": "WORD"}}, or "files": {"NAME": {"ID":
// "WORD"}} where there are many. `name`: of the file that is worked on. Error: it is no such file.
Outcome<std::vector<AnswerGiven>> answersFromFile(const std::string& file, const std::string& name);

}  // namespace zither::steps
