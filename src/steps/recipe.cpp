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
    if (isText(p.kind)) return value.text.empty() ? Json(nullptr) : Json(value.text);
    if (p.kind == ParameterKind::Flag) return value != 0;
    return numberJson(value);
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

Outcome<StepCall> parseCall(const Json& json, const std::string& where) {
    if (!json.is_object() || !json.contains("name") || !json["name"].is_string())
        return wrongRecipe(where, "a step needs a \"name\"");
    Outcome<StepCall> call = parseStepCall(json["name"].get<std::string>());
    if (!call) return wrongRecipe(where, call.error().message);
    if (json.contains("pick")) {
        if (!json["pick"].is_string()) return wrongRecipe(where, "pick must be text");
        call->pick = json["pick"].get<std::string>();
    }
    if (json.contains("only_if")) {
        if (!json["only_if"].is_string()) return wrongRecipe(where, "only_if must be text");
        call->onlyIf = json["only_if"].get<std::string>();
        if (const auto condition = conditionFromText(call->onlyIf); !condition)
            return wrongRecipe(where, condition.error().message);
    }
    if (!json.contains("parameters")) return call;
    for (const auto& [name, value] : json["parameters"].items()) {
        const auto& all = call->step->parameters;
        const auto p =
            std::find_if(all.begin(), all.end(), [&key = name](const Parameter& x) { return x.name == key; });
        if (p == all.end())
            return wrongRecipe(where, fmt::format("step '{}' has no parameter '{}'", call->step->name, name));
        if (isText(p->kind)) {
            if (value.is_null()) continue;
            if (!value.is_string()) return wrongRecipe(where, fmt::format("{} must be text", name));
            Outcome<Value> text = parseValue(*call->step, *p, value.get<std::string>());
            if (!text) return wrongRecipe(where, text.error().message);
            call->given.insert_or_assign(name, *text);
            continue;
        }
        if (!value.is_number() && !value.is_boolean())
            return wrongRecipe(where, fmt::format("{} must be a number, true or false", name));
        const double given = value.is_boolean() ? static_cast<double>(value.get<bool>()) : value.get<double>();
        if (auto ok = checkValue(*call->step, *p, given); !ok) return wrongRecipe(where, ok.error().message);
        call->given.insert_or_assign(name, Value(given));
    }
    return call;
}

}  // namespace

Outcome<std::vector<StepCall>> parseRecipe(const std::string& bytes, const std::string& file) {
    const Json json = Json::parse(bytes, nullptr, false);
    if (json.is_discarded() || !json.is_object() || !json.contains("zither") || json["zither"] != 1 ||
        !json.contains("steps") || !json["steps"].is_array())
        return wrongRecipe(file, "not a recipe: JSON with \"zither\": 1 and a list \"steps\" is expected");
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
