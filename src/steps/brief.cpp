#include "steps/brief.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "io/atomic_file.h"

namespace zither::steps {

using check::DefectClass;
using check::Survey;
using mesh::badInput;

const std::vector<Measure>& measures() {
    static const std::vector<Measure> all = {
        {"boundary_edges", "open edges", "", false, DefectClass::OpenEdges,
         [](const Survey& s) { return static_cast<double>(s.counts.boundaryEdges); }},
        {"nonmanifold_edges", "non-manifold edges", "", false, DefectClass::NonmanifoldEdges,
         [](const Survey& s) { return static_cast<double>(s.counts.nonmanifoldEdges); }},
        {"nonmanifold_vertices", "non-manifold vertices", "", false, DefectClass::NonmanifoldVertices,
         [](const Survey& s) { return static_cast<double>(s.counts.nonmanifoldVertices); }},
        {"misoriented_edges", "facing", "", false, DefectClass::Misoriented,
         [](const Survey& s) { return static_cast<double>(s.counts.misorientedEdges); }},
        {"inward_shells", "inward shells", "", false, DefectClass::InwardShells,
         [](const Survey& s) { return static_cast<double>(s.counts.inwardShells); }},
        {"self_intersecting_pairs", "self-intersecting", "", false, DefectClass::SelfIntersections,
         [](const Survey& s) { return static_cast<double>(s.counts.selfIntersectingPairs); }},
        {"duplicate_triangles", "duplicates", "", false, DefectClass::Duplicates,
         [](const Survey& s) { return static_cast<double>(s.counts.duplicateTriangles); }},
        {"degenerate_triangles", "degenerate", "", false, DefectClass::Degenerate,
         [](const Survey& s) { return static_cast<double>(s.counts.degenerateTriangles); }},
        {"shells", "shells", "", false, DefectClass::Shells,
         [](const Survey& s) { return static_cast<double>(s.counts.shells); }},
        {"smallest_angle", "smallest angle", "deg", true, DefectClass::Slivers,
         [](const Survey& s) { return s.smallestAngleDeg; }},
        {"edge_length_ratio", "edge length ratio", "", false, std::nullopt,
         [](const Survey& s) { return s.edgeLength.ratio(); }},
        {"largest_side", "fits the build", "unit", false, std::nullopt,
         [](const Survey& s) { return s.mass.size.extent().maxCoeff(); }},
    };
    return all;
}

const Measure* findMeasure(std::string_view id) {
    const auto& all = measures();
    const auto it = std::find_if(all.begin(), all.end(), [&](const Measure& m) { return m.id == id; });
    return it == all.end() ? nullptr : &*it;
}

check::SurveyOptions Brief::surveyOptions() const {
    check::SurveyOptions options;
    options.sliverAngleDeg = 0;
    for (const Requirement& r : requirements)
        if (r.measure->id == "smallest_angle" && r.limit) options.sliverAngleDeg = *r.limit;
    return options;
}

namespace {

Requirement require(std::string_view id, std::optional<double> limit) {
    return {findMeasure(id), limit};
}

std::vector<Requirement> topology(std::optional<double> open) {
    return {require("boundary_edges", open),       require("nonmanifold_edges", 0),
            require("nonmanifold_vertices", 0),    require("misoriented_edges", 0),
            require("self_intersecting_pairs", 0), require("duplicate_triangles", 0),
            require("degenerate_triangles", 0)};
}

Brief makeBrief(std::string id, std::string title, std::optional<double> open, std::vector<Requirement> more) {
    Brief brief{std::move(id), std::move(title), topology(open)};
    brief.requirements.insert(brief.requirements.end(), more.begin(), more.end());
    return brief;
}

}  // namespace

const std::vector<Brief>& builtInBriefs() {
    static const std::vector<Brief> all = {
        makeBrief("print", "Print", 0,
                  {require("inward_shells", 0), require("shells", std::nullopt), require("largest_side", 250)}),
        makeBrief("volume-mesh", "Volume mesh", 0,
                  {require("inward_shells", 0), require("shells", 1), require("smallest_angle", 5),
                   require("edge_length_ratio", 1000)}),
        makeBrief("reference-surface", "Reference surface", std::nullopt,
                  {require("inward_shells", std::nullopt), require("shells", std::nullopt),
                   require("smallest_angle", std::nullopt), require("edge_length_ratio", std::nullopt)}),
    };
    return all;
}

mesh::Outcome<Brief> parseBrief(const nlohmann::ordered_json& json, const std::string& file) {
    const auto wrong = [&](const std::string& what) {
        return badInput(fmt::format("{}: not a brief: {}", file, what));
    };
    if (!json.is_object() || !json.contains("zither") || json["zither"] != 1)
        return wrong("the key \"zither\" with the version 1 is missing");
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
            return wrong(fmt::format("there is no requirement '{}'; there are: {}", id, fmt::join(known, ", ")));
        }
        if (limit.is_number())
            brief.requirements.push_back({measure, limit.get<double>()});
        else if (limit == "noted")
            brief.requirements.push_back({measure, std::nullopt});
        else
            return wrong(fmt::format("the limit of '{}' must be a number or \"noted\"", id));
    }
    return brief;
}

mesh::Outcome<Brief> loadBrief(const std::string& nameOrFile) {
    for (const Brief& brief : builtInBriefs())
        if (brief.id == nameOrFile) return brief;
    if (!nameOrFile.ends_with(".json")) {
        std::vector<std::string> known;
        for (const Brief& b : builtInBriefs()) known.push_back(b.id);
        return badInput(fmt::format("there is no brief '{}'; there are: {}, or name a .json file", nameOrFile,
                                    fmt::join(known, ", ")));
    }
    const mesh::Outcome<std::string> bytes = io::readBytes(nameOrFile);
    if (!bytes) return tl::unexpected(bytes.error());
    const auto json = nlohmann::ordered_json::parse(*bytes, nullptr, false);
    if (json.is_discarded()) return badInput(fmt::format("{}: not a brief: the file is no JSON", nameOrFile));
    return parseBrief(json, nameOrFile);
}

bool Verdict::allMet() const {
    return std::all_of(judged.begin(), judged.end(), [](const Judged& j) { return j.met; });
}
std::size_t Verdict::asked() const {
    return static_cast<std::size_t>(
        std::count_if(judged.begin(), judged.end(), [](const Judged& j) { return j.requirement.limit.has_value(); }));
}
std::size_t Verdict::met() const {
    return static_cast<std::size_t>(
        std::count_if(judged.begin(), judged.end(), [](const Judged& j) { return j.requirement.limit && j.met; }));
}

Verdict judge(const Survey& survey, const Brief& brief) {
    Verdict verdict;
    for (const Requirement& r : brief.requirements) {
        Judged j{r, r.measure->value(survey), true};
        if (r.limit) j.met = r.measure->atLeast ? j.value >= *r.limit : j.value <= *r.limit;
        verdict.judged.push_back(j);
    }
    return verdict;
}

}  // namespace zither::steps
