// The JSON of the command line and of records, as definitions.md and docs/file-formats.md describe it.
#pragma once

#include <nlohmann/json.hpp>

#include "io/surface_file.h"
#include "measure/deviation.h"
#include "steps/brief.h"
#include "steps/step.h"

namespace zither::project {

using Json = nlohmann::ordered_json;

// A surveyed file: the object of `check`.
Json fileJson(const std::string& file, const io::Surface& surface, const check::Survey& survey,
              const steps::Verdict& verdict, double seconds);
Json verdictJson(const steps::Verdict& verdict);
Json stepJson(const steps::Step& step, const steps::Arguments& used, const steps::Record& record, double seconds);
Json deviationJson(const measure::Comparison& c);
Json compareJson(const measure::Comparison& c);
// The catalogue: every step with its parameters.
Json catalogueJson();

}  // namespace zither::project
