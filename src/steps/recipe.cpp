// Each value is checked against its parameter; errors name file and step.
#include "steps/recipe.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "io/atomic_file.h"
#include "steps/condition.h"

namespace zither::steps {

using mesh::badInput;

Json numberJson(double value) {
    if (!std::isfinite(value)) return nullptr;
    if (value == std::floor(value) && std::abs(value) < 9e15) return static_cast<std::int64_t>(value);
    return value;
}

Json parameterJson(const Parameter& p, const Value& value) {
    if (isText(p.kind)) return value.text().empty() ? Json(nullptr) : Json(value.text());
    if (p.kind == ParameterKind::Flag) return value.number() != 0;
    return numberJson(value.number());
}

Json recipeJson(const std::vector<StepCall>& calls) {
    Json steps = Json::array();
    for (const StepCall& call : calls) {
        Json parameters = Json::object();
        for (const Parameter& p : call.step->parameters)
            if (const auto it = call.given.find(p.name); it != call.given.end())
                parameters[std::string(p.name)] = parameterJson(p, it->second);
        Json one = {{"name", call.step->name}, {"parameters", parameters}};
        if (!call.pick.empty()) one["pick"] = call.pick;
        if (!call.onlyIf.empty()) one["only_if"] = call.onlyIf;
        steps.push_back(std::move(one));
    }
    return {{"zither", 1}, {"steps", steps}};
}

namespace {

tl::unexpected<mesh::Error> wrongRecipe(const std::string& where, const std::string& what) {
    return badInput(where + ": " + what, mesh::errorcode::badParameter, where);
}

// The value of a parameter; none for a text that is null, as it is written where nothing was given.
Outcome<std::optional<Value>> valueFrom(const Step& step, const Parameter& p, const Json& json,
                                        const std::string& where) {
    if (isText(p.kind)) {
        if (json.is_null()) return std::nullopt;
        if (!json.is_string()) return wrongRecipe(where, fmt::format("{} must be text", p.name));
        const Outcome<Value> text = parseValue(step, p, json.get<std::string>());
        if (!text) return wrongRecipe(where, text.error().message);
        return *text;
    }
    if (!json.is_number() && !json.is_boolean())
        return wrongRecipe(where, fmt::format("{} must be a number, true or false", p.name));
    const double given = json.is_boolean() ? static_cast<double>(json.get<bool>()) : json.get<double>();
    if (auto ok = checkValue(step, p, given); !ok) return wrongRecipe(where, ok.error().message);
    return Value(given);
}

// Text under a key; empty where there is none.
Outcome<std::string> textUnder(const Json& json, const char* key, const std::string& where) {
    if (!json.contains(key)) return std::string();
    if (!json[key].is_string()) return wrongRecipe(where, fmt::format("{} must be text", key));
    return json[key].get<std::string>();
}

constexpr std::string_view keysOfStep[] = {"name", "parameters", "pick", "only_if"};
constexpr std::string_view keysOfRecipe[] = {"zither", "steps", "title", "comment"};

Outcome<StepCall> parseCall(const Json& json, const std::string& where) {
    if (!json.is_object() || !json.contains("name") || !json["name"].is_string())
        return wrongRecipe(where, "a step needs a \"name\"");
    if (auto known = checkKeys(json, keysOfStep, where); !known) return tl::unexpected(known.error());
    Outcome<StepCall> call = parseStepCall(json["name"].get<std::string>());
    if (!call) return wrongRecipe(where, call.error().message);
    const auto pick = textUnder(json, "pick", where);
    if (!pick) return tl::unexpected(pick.error());
    const auto onlyIf = textUnder(json, "only_if", where);
    if (!onlyIf) return tl::unexpected(onlyIf.error());
    call->pick = *pick;
    call->onlyIf = *onlyIf;
    if (!onlyIf->empty())
        if (const auto condition = conditionFromText(*onlyIf); !condition)
            return wrongRecipe(where, condition.error().message);
    if (!json.contains("parameters")) return call;
    if (!json["parameters"].is_object()) return wrongRecipe(where, "\"parameters\" must be an object");
    for (const auto& [name, value] : json["parameters"].items()) {
        const auto p = parameterNamed(*call->step, name);
        if (!p) return wrongRecipe(where, p.error().message);
        const auto read = valueFrom(*call->step, **p, value, where);
        if (!read) return tl::unexpected(read.error());
        if (*read) call->given.insert_or_assign(name, **read);
    }
    if (auto ok = checkTogether(*call); !ok) return wrongRecipe(where, ok.error().message);
    return call;
}

}  // namespace

Outcome<std::vector<StepCall>> parseRecipe(const std::string& bytes, const std::string& file) {
    const auto read = jsonFromText(bytes, file);
    if (!read) return tl::unexpected(read.error());
    const Json& json = *read;
    if (!json.is_object() || !json.contains("zither") || json["zither"] != 1 || !json.contains("steps") ||
        !json["steps"].is_array())
        return wrongRecipe(file, "not a recipe: JSON with \"zither\": 1 and a list \"steps\" is expected");
    if (auto known = checkKeys(json, keysOfRecipe, file); !known) return tl::unexpected(known.error());
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
