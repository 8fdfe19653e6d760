// Measures from the catalogue of classes, and a few that mark no place; built-in briefs; briefs as JSON.
#include "steps/brief.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "check/catalogue.h"
#include "io/atomic_file.h"
#include "measure/loss.h"
#include "steps/json_text.h"
#include "steps/words.h"

namespace zither::steps {

using check::Survey;
using mesh::badInput;

namespace {

double edgeLengthRatio(const Survey& s) {
    return s.edgeLength.ratio();
}

double largestSide(const Survey& s) {
    return s.mass.size.extent().maxCoeff();
}

// Numbers that mark no place.
constexpr check::Limited unmarked[] = {
    {.id = "edge_length_ratio",
     .title = "edge length ratio",
     .unit = "",
     .value = edgeLengthRatio,
     .topological = false},
    {.id = "largest_side",
     .title = "largest side",
     .unit = "unit",
     .value = largestSide,
     .mendable = false,
     .topological = false},
};

// Of an import: never asked of a survey.
double ofNoSurvey(const Survey&) {
    return 0;
}

// How much is lost, without what was listed.
constexpr check::Limited lost = {.id = "lost",
                                 .title = "nothing seen lost",
                                 .unit = "share",
                                 .value = ofNoSurvey,
                                 .mendable = false,
                                 .topological = false};

constexpr check::Limited regionsLost = {.id = "regions_lost",
                                        .title = "regions kept",
                                        .unit = "",
                                        .value = ofNoSurvey,
                                        .mendable = false,
                                        .topological = false};
constexpr check::Limited bordersLost = {.id = "region_borders_lost",
                                        .title = "edges of regions kept",
                                        .unit = "share",
                                        .value = ofNoSurvey,
                                        .mendable = false,
                                        .topological = false};

std::vector<Measure> gathered() {
    std::vector<Measure> all;
    for (const check::DefectClass defect : check::catalogue()) all.push_back({defect->limited, defect});
    for (const check::Limited& limited : unmarked) all.push_back({limited, std::nullopt});
    all.push_back({lost, std::nullopt, measure::unlisted});
    all.push_back(
        {regionsLost, std::nullopt, [](const measure::Loss& loss) { return static_cast<double>(loss.regions.lost); }});
    all.push_back({bordersLost, std::nullopt, [](const measure::Loss& loss) { return loss.regions.bordersLost; }});
    return all;
}

}  // namespace

const std::vector<Measure>& measures() {
    static const std::vector<Measure> all = gathered();
    return all;
}

std::string titleOf(const Requirement& requirement) {
    const Measure& measure = *requirement.measure;
    if (measure.settings.empty()) return std::string(std::string_view(measure.title));
    const check::Setting& first = measure.settings.front();
    const std::string_view unit = first.unit == "deg" ? "\u00B0" : first.unit == "%" ? " %" : "";
    return fmt::format("{} {:g}{}{}", std::string_view(first.title), requirement.setting(0), unit,
                       first.unit == "edges" ? " edges" : "");
}

const Measure& measureOf(check::DefectClass defect) {
    return measures()[check::indexOf(defect)];
}

const Measure& lostMeasure() {
    static const Measure& measure = *findMeasure("lost");
    return measure;
}

const Measure* findMeasure(std::string_view id) {
    const auto& all = measures();
    const auto it =
        std::find_if(all.begin(), all.end(), [&](const Measure& m) { return std::string_view(m.id) == id; });
    return it == all.end() ? nullptr : &*it;
}

namespace {

bool asksForBuild(const Brief& brief) {
    return std::any_of(brief.requirements.begin(), brief.requirements.end(),
                       [](const Requirement& r) { return r.measure->marks == check::outsideBuild; });
}

check::SurveyOptions optionsFor(const Brief& brief, bool onlyMendable) {
    check::SurveyOptions options;
    options.sliverAngleDeg = 0;
    options.up = brief.up;
    if (!onlyMendable && asksForBuild(brief)) options.build = brief.build;
    for (const Requirement& r : brief.requirements) {
        if (r.limit && r.measure->listen) r.measure->listen(options, *r.limit);
        if (onlyMendable && !r.measure->mendable) continue;
        for (std::size_t i = 0; i < r.measure->settings.size(); ++i)
            options.*r.measure->settings[i].option = r.setting(i);
    }
    return options;
}

}  // namespace

check::SurveyOptions Brief::surveyOptions() const {
    return optionsFor(*this, false);
}

check::SurveyOptions Brief::repairOptions() const {
    return optionsFor(*this, true);
}

namespace {

// What a value of that unit is divided by, in a unit of so many millimetres; 1 where it is no length, area or volume.
double divisorOf(std::string_view unit, double millimetres) {
    if (!unit.starts_with("unit")) return 1;
    return std::pow(millimetres, unit.size() > 4 ? unit[4] - '0' : 1);
}

}  // namespace

Brief Brief::inUnit(double millimetres) const {
    Brief brief = *this;
    if (!(millimetres > 0) || millimetres == 1) return brief;
    for (Requirement& r : brief.requirements) {
        if (r.limit) *r.limit /= divisorOf(r.measure->unit, millimetres);
        std::vector<double> settings;
        for (std::size_t i = 0; i < r.measure->settings.size(); ++i)
            settings.push_back(r.setting(i) / divisorOf(r.measure->settings[i].unit, millimetres));
        r.settings = std::move(settings);
    }
    for (auto& sides : brief.build)
        for (double& side : sides) side /= millimetres;
    return brief;
}

namespace {

Requirement require(std::string_view id, std::optional<double> limit) {
    return {findMeasure(id), limit};
}
Requirement require(check::DefectClass defect, std::optional<double> limit) {
    return {&measureOf(defect), limit};
}

std::vector<Requirement> topology(std::optional<double> open) {
    return {require(check::openEdges, open),        require(check::nonmanifoldEdges, 0),
            require(check::nonmanifoldVertices, 0), require(check::misoriented, 0),
            require(check::selfIntersections, 0),   require(check::duplicates, 0),
            require(check::degenerate, 0)};
}

Brief makeBrief(std::string id, std::string title, std::optional<double> open, std::vector<Requirement> more) {
    Brief brief{std::move(id), std::move(title), topology(open)};
    brief.requirements.insert(brief.requirements.end(), more.begin(), more.end());
    brief.requirements.push_back(require("lost", measure::mostLost));
    return brief;
}

Brief withBuild(std::vector<std::array<double, 3>> build, Brief brief) {
    brief.build = std::move(build);
    return brief;
}

}  // namespace

// Of their length: as much as may be lost of what is seen.
constexpr double mostBordersLost = measure::mostLost;

const std::vector<Brief>& builtInBriefs() {
    static const std::vector<Brief> all = {
        withBuild({{250, 250, 250}}, makeBrief("print", "Print", 0,
                                               {require(check::inwardShells, 0), require(check::buriedShells, 0),
                                                require(check::shells, std::nullopt), require(check::thinWalls, 0),
                                                require(check::overhangs, std::nullopt),
                                                require(check::voids, std::nullopt), require(check::outsideBuild, 0)})),
        makeBrief("volume-mesh", "Volume mesh", 0,
                  {require(check::inwardShells, 0), require(check::buriedShells, 0), require(check::shells, 1),
                   require(check::slivers, 5), require(check::needles, 0), require(check::folds, 0),
                   require(check::hairGaps, 0), require(check::knifeEdges, 0), require("edge_length_ratio", 1000),
                   require(check::narrowWalls, std::nullopt)}),
        makeBrief("reference-surface", "Reference surface", std::nullopt,
                  {require(check::inwardShells, std::nullopt), require(check::shells, std::nullopt),
                   require(check::slivers, std::nullopt), require("edge_length_ratio", std::nullopt),
                   require(check::smallComponents, std::nullopt), require(check::smallHoles, std::nullopt)}),
        makeBrief(
            "flow-domain", "Flow domain", 0,
            {require(check::inwardShells, 0), require(check::buriedShells, 0), require(check::shells, std::nullopt),
             require(check::slivers, 5), require(check::needles, 0), require("edge_length_ratio", 1000),
             require("regions_lost", 0), require("region_borders_lost", mostBordersLost)}),
    };
    return all;
}

namespace {

// `limit`, or an object of it and settings. Error: what is wrong.
tl::expected<Requirement, std::string> parseRequirement(const Measure& measure, const nlohmann::ordered_json& json) {
    Requirement requirement{&measure, std::nullopt};
    const std::string_view id = measure.id;
    const nlohmann::ordered_json& limit = json.is_object() && json.contains("limit") ? json["limit"] : json;
    if (limit.is_number())
        requirement.limit = limit.get<double>();
    else if (limit != "noted")
        return tl::unexpected(fmt::format("the limit of '{}' must be a number or \"noted\"", id));
    if (!json.is_object()) return requirement;
    for (const check::Setting& s : measure.settings) requirement.settings.push_back(s.usual);
    for (const auto& [key, value] : json.items()) {
        if (key == "limit") continue;
        const auto it = std::find_if(measure.settings.begin(), measure.settings.end(),
                                     [&name = key](const check::Setting& s) { return std::string_view(s.id) == name; });
        if (it == measure.settings.end()) {
            std::vector<std::string_view> known{"limit"};
            for (const check::Setting& s : measure.settings) known.push_back(s.id);
            return tl::unexpected(
                fmt::format("'{}' has no '{}'{}; it has: {}", id, key, didYouMean(key, known), listed(known)));
        }
        if (!value.is_number() || !(value.get<double>() > 0))
            return tl::unexpected(fmt::format("'{}' of '{}' must be a number above 0", key, id));
        requirement.settings[static_cast<std::size_t>(it - measure.settings.begin())] = value.get<double>();
    }
    return requirement;
}

std::optional<std::array<double, 3>> parseThree(const nlohmann::ordered_json& json) {
    std::array<double, 3> numbers;
    if (!json.is_array() || json.size() != numbers.size()) return std::nullopt;
    for (std::size_t k = 0; k < numbers.size(); ++k) {
        if (!json[k].is_number()) return std::nullopt;
        numbers[k] = json[k].get<double>();
    }
    return numbers;
}

bool parseDirection(const nlohmann::ordered_json& json, std::array<double, 3>& direction) {
    const auto numbers = parseThree(json);
    if (numbers) direction = *numbers;
    return numbers && direction != std::array<double, 3>{0, 0, 0};
}

bool parseBuild(const nlohmann::ordered_json& json, std::vector<std::array<double, 3>>& build) {
    if (!json.is_array() || json.empty()) return false;
    for (const auto& one : json) {
        const auto sides = parseThree(one);
        if (!sides || !(*std::min_element(sides->begin(), sides->end()) > 0)) return false;
        build.push_back(*sides);
    }
    return true;
}

}  // namespace

mesh::Outcome<Brief> parseBrief(const nlohmann::ordered_json& json, const std::string& file) {
    const auto wrong = [&](const std::string& what) {
        return badInput(fmt::format("{}: not a brief: {}", file, what), mesh::errorcode::badParameter, file);
    };
    if (!json.is_object() || !json.contains("zither") || json["zither"] != 1)
        return wrong("the key \"zither\" with the version 1 is missing");
    constexpr std::string_view keys[] = {"zither", "title", "requirements", "up", "build", "comment"};
    if (auto known = checkKeys(json, keys, file); !known) return mesh::errorOf(known);
    if (!json.contains("requirements") || !json["requirements"].is_object())
        return wrong("the object \"requirements\" is missing");
    Brief brief;
    brief.id = brief.title = file;
    if (json.contains("title") && json["title"].is_string()) brief.title = json["title"];
    for (const auto& [id, limit] : json["requirements"].items()) {
        const Measure* measure = findMeasure(id);
        if (!measure) {
            std::vector<std::string_view> known;
            for (const Measure& m : measures()) known.push_back(m.id);
            return wrong(
                fmt::format("there is no requirement '{}'{}; there are: {}", id, didYouMean(id, known), listed(known)));
        }
        auto requirement = parseRequirement(*measure, limit);
        if (!requirement) return wrong(requirement.error());
        brief.requirements.push_back(std::move(*requirement));
    }
    if (json.contains("up") && !parseDirection(json["up"], brief.up))
        return wrong("\"up\" must be a list of three numbers, not all 0");
    if (json.contains("build") && !parseBuild(json["build"], brief.build))
        return wrong("\"build\" must be a list of build volumes, each three lengths above 0");
    if (brief.build.empty() && asksForBuild(brief))
        return wrong("'outside_build' needs \"build\", a list of build volumes");
    // Nothing that can be seen is lost, whatever else is asked for.
    const bool said = std::any_of(brief.requirements.begin(), brief.requirements.end(),
                                  [](const Requirement& r) { return r.measure == &lostMeasure(); });
    if (!said) brief.requirements.push_back(require("lost", measure::mostLost));
    return brief;
}

mesh::Outcome<Brief> loadBrief(const std::string& nameOrFile) {
    for (const Brief& brief : builtInBriefs())
        if (brief.id == nameOrFile || brief.title == nameOrFile) return brief;
    if (!nameOrFile.ends_with(".json")) {
        std::vector<std::string_view> known;
        for (const Brief& b : builtInBriefs()) known.push_back(b.id);
        return badInput(fmt::format("there is no brief '{}'{}; there are: {}, or name a .json file", nameOrFile,
                                    didYouMean(nameOrFile, known), listed(known)),
                        mesh::errorcode::badParameter, nameOrFile);
    }
    const mesh::Outcome<std::string> bytes = io::readBytes(nameOrFile);
    if (!bytes) return mesh::errorOf(bytes);
    const auto json = jsonFromText(*bytes, nameOrFile);
    if (!json) return mesh::errorOf(json);
    return parseBrief(*json, nameOrFile);
}

bool Verdict::allMet() const {
    return std::all_of(judged.begin(), judged.end(), [](const Judged& j) { return j.met; });
}
std::size_t Verdict::asked() const {
    return static_cast<std::size_t>(
        std::count_if(judged.begin(), judged.end(), [](const Judged& j) { return j.requirement.limit && j.value; }));
}
std::size_t Verdict::met() const {
    return static_cast<std::size_t>(std::count_if(
        judged.begin(), judged.end(), [](const Judged& j) { return j.requirement.limit && j.value && j.met; }));
}

Verdict judge(const Survey& survey, const Brief& brief, const measure::Loss* loss) {
    Verdict verdict;
    for (const Requirement& r : brief.requirements) {
        Judged j{r, std::nullopt, true};
        if (!r.measure->ofImport)
            j.value = r.measure->value(survey);
        else if (loss)
            j.value = r.measure->ofImport(*loss);
        if (j.value && std::isnan(*j.value)) j.value.reset();
        if (r.limit && j.value) j.met = r.measure->atLeast ? *j.value >= *r.limit : *j.value <= *r.limit;
        verdict.judged.push_back(j);
    }
    return verdict;
}

}  // namespace zither::steps
