// Briefs: what a surface must satisfy for its use. Four are built in; others are JSON files.
#pragma once

#include <array>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "check/catalogue.h"
#include "check/survey.h"
#include "measure/loss.h"

namespace zither::steps {

// What can be asked of a surface: what the classes of defects can be limited by, and numbers that mark no place.
struct Measure : check::Limited {
    std::optional<check::DefectClass> marks;  // whose findings show where
    // Told by comparing with the import: `value` is not asked. nullptr: it is told of the surface alone.
    double (*ofImport)(const measure::Loss&) = nullptr;
};
// In the order of the catalogue of classes, then the others.
const std::vector<Measure>& measures();
const Measure* findMeasure(std::string_view id);
// What may be lost of what was seen.
const Measure& lostMeasure();
// The measure of a class.
const Measure& measureOf(check::DefectClass defect);

struct Requirement {
    const Measure* measure = nullptr;
    std::optional<double> limit;  // none: noted, shown but never failed
    // As Measure::settings, in their order; the usual ones where there are none.
    std::vector<double> settings = {};

    [[nodiscard]] double setting(std::size_t i) const {
        return i < settings.size() ? settings[i] : measure->settings[i].usual;
    }
    [[nodiscard]] bool limits(check::DefectClass defect) const { return limit && measure->marks == defect; }
};

// "self-intersecting"; with what it depends on: "walls below 0.8".
std::string titleOf(const Requirement& requirement);

struct Brief {
    std::string id;
    std::string title;
    std::vector<Requirement> requirements;
    std::array<double, 3> up{0, 0, 1};              // build direction; need not have length 1
    std::vector<std::array<double, 3>> build = {};  // volumes that it may be built in: as SurveyOptions

    // The lengths of a brief are millimetres: the same in a unit of so many. 0: a unit that nobody knows; they stay.
    [[nodiscard]] Brief inUnit(double millimetres) const;
    // What the survey must measure and mark for this brief.
    [[nodiscard]] check::SurveyOptions surveyOptions() const;
    // The same without what no repair changes, and need not be measured while one is sought.
    [[nodiscard]] check::SurveyOptions repairOptions() const;
};

// print, volume-mesh, reference-surface, flow-domain.
const std::vector<Brief>& builtInBriefs();

// A built-in brief by name, or one from a JSON file (docs/file-formats.md).
mesh::Outcome<Brief> loadBrief(const std::string& nameOrFile);
mesh::Outcome<Brief> parseBrief(const nlohmann::ordered_json& json, const std::string& file);

struct Judged {
    Requirement requirement;
    std::optional<double> value;  // none: it cannot be told, or there is no import to compare with
    bool met = true;              // always where it is only noted, or cannot be told
};
struct Verdict {
    std::vector<Judged> judged;
    [[nodiscard]] bool allMet() const;
    [[nodiscard]] std::size_t asked() const;  // requirements with a limit that can be told
    [[nodiscard]] std::size_t met() const;    // of these
};
// `loss`: since the import; nullptr: there is none.
Verdict judge(const check::Survey& survey, const Brief& brief, const measure::Loss* loss = nullptr);

}  // namespace zither::steps
