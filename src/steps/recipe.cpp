// Each value is checked against its parameter; errors name file and step.
#include "steps/recipe.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

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

namespace {

constexpr std::string_view keysOfRepair[] = {"openings",      "sheets",     "thickness", "buried",
                                             "max_deviation", "time_limit", "answers"};
constexpr std::string_view openingWords[] = {"ask", "close"};

Json repairJson(const RepairAsked& asked) {
    Json json = {{"openings", openingWords[asked.closeOpenings ? 1 : 0]}, {"sheets", wordOf(asked.sheets)}};
    if (asked.thickness > 0) json["thickness"] = asked.thickness;
    if (asked.buried != BuriedWay::Material) json["buried"] = wordOf(asked.buried);
    if (asked.timeLimit > 0) json["time_limit"] = asked.timeLimit;
    if (std::isfinite(asked.maxDeviation)) json["max_deviation"] = asked.maxDeviation;
    for (const AnswerGiven& answer : asked.answers) json["answers"][answer.id] = answer.word;
    return json;
}

}  // namespace

Json recipeJson(const Recipe& recipe) {
    Json steps = Json::array();
    for (const StepCall& call : recipe.steps) {
        Json parameters = Json::object();
        for (const Parameter& p : call.step->parameters)
            if (const auto it = call.given.find(p.name); it != call.given.end())
                parameters[std::string(p.name)] = parameterJson(p, it->second);
        Json one = {{"name", call.step->name}, {"parameters", parameters}};
        if (!call.pick.empty()) one["pick"] = call.pick;
        if (!call.onlyIf.empty()) one["only_if"] = call.onlyIf;
        steps.push_back(std::move(one));
    }
    Json json = {{"zither", 1}, {"steps", steps}};
    if (recipe.repair) json["repair"] = repairJson(*recipe.repair);
    return json;
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
constexpr std::string_view keysOfRecipe[] = {"zither", "repair", "steps", "title", "comment"};

Outcome<StepCall> parseCall(const Json& json, const std::string& where) {
    if (!json.is_object() || !json.contains("name") || !json["name"].is_string())
        return wrongRecipe(where, "a step needs a \"name\"");
    if (auto known = checkKeys(json, keysOfStep, where); !known) return mesh::errorOf(known);
    Outcome<StepCall> call = parseStepCall(json["name"].get<std::string>());
    if (!call) return wrongRecipe(where, call.error().message);
    const auto pick = textUnder(json, "pick", where);
    if (!pick) return mesh::errorOf(pick);
    const auto onlyIf = textUnder(json, "only_if", where);
    if (!onlyIf) return mesh::errorOf(onlyIf);
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
        if (!read) return mesh::errorOf(read);
        if (*read) call->given.insert_or_assign(name, **read);
    }
    if (auto ok = checkTogether(*call); !ok) return wrongRecipe(where, ok.error().message);
    return call;
}

Outcome<double> numberUnder(const Json& json, const char* key, double otherwise, const std::string& where) {
    if (!json.contains(key)) return otherwise;
    if (!json[key].is_number() || !(json[key].get<double>() >= 0))
        return wrongRecipe(where, fmt::format("{} must be a number of 0 or more", key));
    return json[key].get<double>();
}

// One of a few words, where there is one.
template <class Way>
Outcome<void> wordUnder(const Json& json, const char* key, std::optional<Way> (&named)(std::string_view),
                        const std::vector<std::string>& words, const std::string& where, Way& way) {
    const auto text = textUnder(json, key, where);
    if (!text) return mesh::errorOf(text);
    if (text->empty()) return {};
    const std::optional<Way> found = named(*text);
    if (!found)
        return wrongRecipe(where, fmt::format("{} must be one of {}, not '{}'", key, fmt::join(words, ", "), *text));
    way = *found;
    return {};
}

Outcome<void> addAnswers(const Json& json, const std::string& where, std::vector<AnswerGiven>& answers) {
    if (!json.is_object())
        return badInput(fmt::format("{}: answers must be an object of ids", where), mesh::errorcode::badParameter,
                        where);
    for (const auto& [id, word] : json.items()) {
        if (!word.is_string())
            return badInput(fmt::format("{}: the answer to {} must be text", where, id), mesh::errorcode::badParameter,
                            where);
        answers.push_back({id, word.get<std::string>()});
    }
    return {};
}

Outcome<RepairAsked> parseRepair(const Json& json, const std::string& where) {
    if (!json.is_object()) return wrongRecipe(where, "\"repair\" must be an object, {} where nothing is said");
    if (auto known = checkKeys(json, keysOfRepair, where); !known) return mesh::errorOf(known);
    RepairAsked asked;
    const auto openings = textUnder(json, "openings", where);
    if (!openings) return mesh::errorOf(openings);
    if (!openings->empty() && *openings != openingWords[0] && *openings != openingWords[1])
        return wrongRecipe(where, fmt::format("openings must be ask or close, not '{}'", *openings));
    asked.closeOpenings = *openings == openingWords[1];
    if (auto read = wordUnder(json, "sheets", sheetWayNamed, sheetWayNames(), where, asked.sheets); !read)
        return mesh::errorOf(read);
    if (auto read = wordUnder(json, "buried", buriedWayNamed, buriedWayNames(), where, asked.buried); !read)
        return mesh::errorOf(read);
    const auto limit = numberUnder(json, "time_limit", asked.timeLimit, where);
    if (!limit) return mesh::errorOf(limit);
    asked.timeLimit = *limit;
    const auto thickness = numberUnder(json, "thickness", asked.thickness, where);
    if (!thickness) return mesh::errorOf(thickness);
    asked.thickness = *thickness;
    const auto deviation = numberUnder(json, "max_deviation", asked.maxDeviation, where);
    if (!deviation) return mesh::errorOf(deviation);
    asked.maxDeviation = *deviation;
    if (!json.contains("answers")) return asked;
    if (auto added = addAnswers(json["answers"], where, asked.answers); !added) return mesh::errorOf(added);
    return asked;
}

}  // namespace

Outcome<Recipe> parseRecipe(const std::string& bytes, const std::string& file) {
    const auto read = jsonFromText(bytes, file);
    if (!read) return mesh::errorOf(read);
    const Json& json = *read;
    if (!json.is_object() || !json.contains("zither") || json["zither"] != 1 || !json.contains("steps") ||
        !json["steps"].is_array())
        return wrongRecipe(file, "not a recipe: JSON with \"zither\": 1 and a list \"steps\" is expected");
    if (auto known = checkKeys(json, keysOfRecipe, file); !known) return mesh::errorOf(known);
    Recipe recipe;
    if (json.contains("repair")) {
        auto asked = parseRepair(json["repair"], file + ": repair");
        if (!asked) return mesh::errorOf(asked);
        recipe.repair = std::move(*asked);
    }
    for (std::size_t i = 0; i < json["steps"].size(); ++i) {
        Outcome<StepCall> call = parseCall(json["steps"][i], fmt::format("{}: step {}", file, i + 1));
        if (!call) return mesh::errorOf(call);
        recipe.steps.push_back(std::move(*call));
    }
    return recipe;
}

Outcome<Recipe> loadRecipe(const std::string& file) {
    Outcome<std::string> bytes = io::readBytes(file);
    if (!bytes) return mesh::errorOf(bytes);
    return parseRecipe(*bytes, file);
}

Outcome<std::vector<AnswerGiven>> answersFromFile(const std::string& file, const std::string& name) {
    const auto bytes = io::readBytes(file);
    if (!bytes) return mesh::errorOf(bytes);
    const auto json = jsonFromText(*bytes, file);
    if (!json) return mesh::errorOf(json);
    if (!json->is_object() || !json->contains("zither") || (*json)["zither"] != 1)
        return badInput(fmt::format("{}: no answers: JSON with \"zither\": 1 and \"answers\" is expected", file),
                        mesh::errorcode::badParameter, file);
    constexpr std::string_view keys[] = {"zither", "answers", "files", "comment"};
    if (auto known = checkKeys(*json, keys, file); !known) return mesh::errorOf(known);
    std::vector<AnswerGiven> answers;
    if (json->contains("answers"))
        if (auto added = addAnswers((*json)["answers"], file, answers); !added) return mesh::errorOf(added);
    if (!json->contains("files")) return answers;
    const Json& files = (*json)["files"];
    if (files.is_object() && files.contains(name))
        if (auto added = addAnswers(files[name], file + ": " + name, answers); !added) return mesh::errorOf(added);
    return answers;
}

}  // namespace zither::steps
