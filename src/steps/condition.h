// When a step of a recipe runs: only where the part, as it stands then, does not meet a requirement.
#pragma once

#include <string>
#include <string_view>

#include "check/surveyed.h"
#include "steps/brief.h"

namespace zither::steps {

// "boundary_edges" (above what is harmless: there are any) or "smallest_angle:5", the id of a requirement with a limit
// as in a brief. Error: not of that form, or one that is told by comparing with the import.
mesh::Outcome<Requirement> conditionFromText(std::string_view text);

// "only if there are open edges", "only if smallest angle is below 5": the end of a sentence.
std::string conditionInWords(const Requirement& condition);

// Whether the surface is beyond the limit; not where that cannot be told. Error: only cancelled.
mesh::Outcome<bool> holds(const Requirement& condition, const check::Surveyed& part, mesh::Progress& progress);

}  // namespace zither::steps
