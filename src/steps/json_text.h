// JSON that people write: recipes, briefs, answers. What it does not mean is refused with the place and the nearest
// word that is known, never passed over.
#pragma once

#include <nlohmann/json.hpp>
#include <span>
#include <string>
#include <string_view>

#include "mesh/outcome.h"

namespace zither::steps {

using Json = nlohmann::ordered_json;

// Error: no JSON (with line and column), or a key that an object has twice.
mesh::Outcome<Json> jsonFromText(const std::string& bytes, const std::string& file);

// Error: the object has a key that is not among them. `where`: "recipe.json: step 2".
mesh::Outcome<void> checkKeys(const Json& object, std::span<const std::string_view> known, const std::string& where);

}  // namespace zither::steps
