#include "steps/json.h"

#include <fmt/format.h>

#include <cmath>

#include "io/atomic_file.h"

namespace zither::steps {

using mesh::badInput;

namespace {

// JSON has no infinity; whole numbers are written without a fraction.
Json number(double value) {
    if (!std::isfinite(value)) return nullptr;
    if (value == std::floor(value) && std::abs(value) < 9e15) return static_cast<std::int64_t>(value);
    return value;
}

Json point(const mesh::Point& p) {
    return Json::array({p.x(), p.y(), p.z()});
}

Json parameterValue(const Parameter& p, const Value& value) {
    if (isText(p.kind)) return value.text.empty() ? Json(nullptr) : Json(value.text);
    if (p.kind == ParameterKind::Flag) return value != 0;
    return number(value);
}

}  // namespace

Json verdictJson(const Verdict& verdict) {
    Json list = Json::array();
    for (const Judged& j : verdict.judged)
        list.push_back({{"id", j.requirement.measure->id},
                        {"met", j.met},
                        {"value", number(j.value)},
                        {"limit", j.requirement.limit ? number(*j.requirement.limit) : Json(nullptr)}});
    return list;
}

Json fileJson(const std::string& file, const io::Surface& surface, const check::Survey& survey, const Verdict& verdict,
              double seconds) {
    Json counts;
    for (const check::CountKey& key : check::countKeys) counts[std::string(key.key)] = survey.counts.*key.member;
    return {{"file", file},
            {"format", io::formatName(surface.format)},
            {"unit", surface.unit.empty() ? Json(nullptr) : Json(surface.unit)},
            {"counts", counts},
            {"size", {{"min", point(survey.mass.size.min)}, {"max", point(survey.mass.size.max)}}},
            {"area", survey.mass.area},
            {"volume", survey.mass.volume},
            {"edge_length",
             {{"min", survey.edgeLength.min}, {"mean", survey.edgeLength.mean}, {"max", survey.edgeLength.max}}},
            {"watertight", survey.watertight},
            {"solid", survey.solid},
            {"requirements", verdictJson(verdict)},
            {"unusable_triangles", surface.unusableTriangles},
            {"remarks", surface.remarks},
            {"seconds", seconds}};
}

Json stepJson(const Step& step, const Arguments& used, const Record& record, double seconds) {
    Json parameters = Json::object();
    for (const Parameter& p : step.parameters)
        if (const auto it = used.find(p.name); it != used.end())
            parameters[std::string(p.name)] = parameterValue(p, it->second);
    Json changed = Json::object();
    for (const auto& [key, value] : record.numbers) changed[key] = number(value);
    Json listed = Json::array();
    for (const Listed& l : record.listed)
        listed.push_back(
            {{"kind", nameOf(l.kind)}, {"position", point(l.position)}, {"size", l.size}, {"text", l.text}});
    return {{"name", step.name},  {"parameters", parameters}, {"seconds", seconds},
            {"changed", changed}, {"said", record.sentences}, {"listed", listed}};
}

Json deviationJson(const measure::Comparison& c) {
    return {{"input_to_output_max", number(c.aToB.max)},
            {"output_to_input_max", number(c.bToA.max)},
            {"mean", number(c.mean)},
            {"sampled", false}};
}

Json compareJson(const measure::Comparison& c) {
    return {{"a_to_b_max", number(c.aToB.max)},
            {"b_to_a_max", number(c.bToA.max)},
            {"mean", number(c.mean)},
            {"volume_a", c.volumeA},
            {"volume_b", c.volumeB},
            {"area_a", c.areaA},
            {"area_b", c.areaB},
            {"kept", c.kept},
            {"sampled", false}};
}

Json catalogueJson() {
    Json list = Json::array();
    for (const Step& step : catalogue()) {
        Json parameters = Json::array();
        for (const Parameter& p : step.parameters) {
            Json one = {{"name", p.name},
                        {"unit", unitOf(p)},
                        {"min", isText(p.kind) ? Json(nullptr) : parameterValue(p, p.min)},
                        {"max", isText(p.kind) ? Json(nullptr) : parameterValue(p, p.max)},
                        {"default", p.kind == ParameterKind::Choice ? Json(p.choices.front())
                                    : isText(p.kind)                ? Json(nullptr)
                                    : p.propose                     ? Json("proposed from the part")
                                                                    : parameterValue(p, p.fallback)},
                        {"help", p.help}};
            if (!p.choices.empty()) one["choices"] = p.choices;
            parameters.push_back(std::move(one));
        }
        list.push_back(
            {{"name", step.name}, {"title", step.title}, {"summary", step.summary}, {"parameters", parameters}});
    }
    return list;
}

Json recipeJson(const std::vector<StepCall>& calls) {
    Json steps = Json::array();
    for (const StepCall& call : calls) {
        Json parameters = Json::object();
        for (const Parameter& p : call.step->parameters)
            if (const auto it = call.given.find(p.name); it != call.given.end())
                parameters[std::string(p.name)] = parameterValue(p, it->second);
        Json one = {{"name", call.step->name}, {"parameters", parameters}};
        if (!call.pick.empty()) one["pick"] = call.pick;
        steps.push_back(std::move(one));
    }
    return {{"zither", 1}, {"steps", steps}};
}

namespace {

Outcome<StepCall> parseCall(const Json& json, const std::string& where) {
    if (!json.is_object() || !json.contains("name") || !json["name"].is_string())
        return badInput(where + ": a step needs a \"name\"");
    Outcome<StepCall> call = parseStepCall(json["name"].get<std::string>());
    if (!call) return badInput(where + ": " + call.error().message);
    if (json.contains("pick")) {
        if (!json["pick"].is_string()) return badInput(where + ": pick must be text");
        call->pick = json["pick"].get<std::string>();
    }
    if (!json.contains("parameters")) return call;
    for (const auto& [name, value] : json["parameters"].items()) {
        const auto& all = call->step->parameters;
        const auto p = std::find_if(all.begin(), all.end(), [&](const Parameter& x) { return x.name == name; });
        if (p == all.end())
            return badInput(fmt::format("{}: step '{}' has no parameter '{}'", where, call->step->name, name));
        if (isText(p->kind)) {
            if (value.is_null()) continue;
            if (!value.is_string()) return badInput(fmt::format("{}: {} must be text", where, name));
            Outcome<Value> text = parseValue(*call->step, *p, value.get<std::string>());
            if (!text) return badInput(where + ": " + text.error().message);
            call->given.insert_or_assign(name, *text);
            continue;
        }
        if (!value.is_number() && !value.is_boolean())
            return badInput(fmt::format("{}: {} must be a number, true or false", where, name));
        const double given = value.is_boolean() ? static_cast<double>(value.get<bool>()) : value.get<double>();
        if (auto ok = checkValue(*call->step, *p, given); !ok) return badInput(where + ": " + ok.error().message);
        call->given.insert_or_assign(name, Value(given));
    }
    return call;
}

}  // namespace

Outcome<std::vector<StepCall>> parseRecipe(const std::string& bytes, const std::string& file) {
    const Json json = Json::parse(bytes, nullptr, false);
    if (json.is_discarded() || !json.is_object() || !json.contains("zither") || json["zither"] != 1 ||
        !json.contains("steps") || !json["steps"].is_array())
        return badInput(
            fmt::format("{}: not a recipe: JSON with \"zither\": 1 and a list \"steps\" is expected", file));
    std::vector<StepCall> calls;
    for (std::size_t i = 0; i < json["steps"].size(); ++i) {
        Outcome<StepCall> call = parseCall(json["steps"][i], fmt::format("{}: step {}", file, i + 1));
        if (!call) return tl::unexpected(call.error());
        calls.push_back(*call);
    }
    return calls;
}

Outcome<std::vector<StepCall>> loadRecipe(const std::string& file) {
    Outcome<std::string> bytes = io::readBytes(file);
    if (!bytes) return tl::unexpected(bytes.error());
    return parseRecipe(*bytes, file);
}

}  // namespace zither::steps
