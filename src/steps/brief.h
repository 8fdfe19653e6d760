// Briefs: what a surface must satisfy for its use. Three are built in; others are JSON files.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "check/catalogue.h"
#include "check/survey.h"

namespace zither::steps {

// What can be asked of a surface: what the classes of defects can be limited by, and numbers that mark no place.
struct Measure : check::Limited {
    std::optional<check::DefectClass> marks;  // whose findings show where
    bool ofImport = false;                    // told by comparing with the import: `value` is not asked
};
// In the order of the catalogue of classes, then the others.
const std::vector<Measure>& measures();
const Measure* findMeasure(std::string_view id);
// The measure of a class.
const Measure& measureOf(check::DefectClass defect);

struct Requirement {
    const Measure* measure = nullptr;
    std::optional<double> limit;  // none: noted, shown but never failed

    [[nodiscard]] bool limits(check::DefectClass defect) const { return limit && measure->marks == defect; }
};

struct Brief {
    std::string id;
    std::string title;
    std::vector<Requirement> requirements;
    // The survey lists triangles below the smallest angle asked for.
    [[nodiscard]] check::SurveyOptions surveyOptions() const;
};

// print, volume-mesh, reference-surface.
const std::vector<Brief>& builtInBriefs();

// A built-in brief by name, or one from a JSON file (docs/file-formats.md).
mesh::Outcome<Brief> loadBrief(const std::string& nameOrFile);
mesh::Outcome<Brief> parseBrief(const nlohmann::ordered_json& json, const std::string& file);

struct Judged {
    Requirement requirement;
    std::optional<double> value;  // none: there is no import to compare with
    bool met = true;              // always where it is only noted, or cannot be told
};
struct Verdict {
    std::vector<Judged> judged;
    [[nodiscard]] bool allMet() const;
    [[nodiscard]] std::size_t asked() const;  // requirements with a limit that can be told
    [[nodiscard]] std::size_t met() const;    // of these
};
// `lost`: share of the import's seen surface that is lost, without what was listed; none: there is no import.
Verdict judge(const check::Survey& survey, const Brief& brief, std::optional<double> lost = std::nullopt);

}  // namespace zither::steps
