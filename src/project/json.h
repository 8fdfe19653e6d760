// The JSON of the command line and of records, as definitions.md and docs/file-formats.md describe it.
#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>

#include "measure/deviation.h"
#include "measure/numbers.h"
#include "project/job.h"
#include "steps/brief.h"
#include "steps/call.h"

namespace zither::project {

using Json = nlohmann::ordered_json;

// The object of `check`.
Json fileJson(const Judged& judged);
Json verdictJson(const steps::Verdict& verdict);
Json stepJson(const steps::Step& step, const steps::Arguments& used, const steps::Record& record, double seconds);
// What waits for a person: id, kind, place, size, why, and the answers with the step that each stands for.
// Which ways a repair tried.
Json triedJson(const std::vector<steps::TriedWayLog>& tried);
Json questionsJson(const std::vector<steps::Question>& questions);
Json deviationJson(const measure::Comparison& c);
// `lost`, `added` and their kind are sampled; `loss_points` says how densely.
Json lossJson(const measure::Loss& loss);
// What there is more of than before, {"count": [was, is]}; "solid" too where it is so no more.
Json worseJson(const check::Survey& was, const check::Survey& is);
Json compareJson(const Compared& c, const TwoSurfaces& two);
// How heavy something is: in grams, where the length of the unit is known; else a unit is taken for a millimetre.
struct MassAsked {
    double density = 0;  // grams a cubic centimetre; 0: not asked
    std::string unit;    // of the file
    [[nodiscard]] std::optional<double> gramsOf(const measure::Numbers& n) const;
};
// The object of `measure`.
Json numbersJson(const std::string& file, const measure::Numbers& n, const MassAsked& mass);
// The catalogue: every step with its parameters.
Json catalogueJson();

}  // namespace zither::project
