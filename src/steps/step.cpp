// Calls as text, values and their ranges, and running a call with its pick and its proposals.
#include "steps/call.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

#include "io/text.h"
#include "mesh/memory.h"
#include "steps/condition.h"
#include "steps/words.h"

namespace zither::steps {

using mesh::badInput;

std::string_view unitOf(const Parameter& p) {
    switch (p.kind) {
        case ParameterKind::Length:
            return "unit";
        case ParameterKind::Percent:
            return "%";
        case ParameterKind::Angle:
            return "deg";
        case ParameterKind::Volume:
            return "unit3";
        case ParameterKind::Factor:
        case ParameterKind::Count:
            return "";
        case ParameterKind::Flag:
            return "yes/no";
        case ParameterKind::File:
            return "file";
        case ParameterKind::Place:
            return "x,y,z";
        case ParameterKind::Places:
            return "x,y,z;...";
        case ParameterKind::Choice:
            return "choice";
    }
    return "";
}

std::string helpOf(const Parameter& p) {
    return p.zero.empty() ? std::string(p.help) : fmt::format("{} 0: {}.", p.help, p.zero);
}

std::string_view nameOf(Listed::Kind kind) {
    switch (kind) {
        case Listed::Goes:
            return "goes";
        case Listed::Within:
            return "within";
        case Listed::LeftOpen:
            return "left-open";
        case Listed::Sheet:
            return "sheet";
        case Listed::AsItCame:
            return "as-it-came";
        case Listed::Left:
            return "left";
        case Listed::NeedsSkin:
            return "needs-skin";
        case Listed::Made:
            return "made";
    }
    return {};
}

std::optional<double> Record::number(std::string_view key) const {
    const auto it = std::find_if(numbers.begin(), numbers.end(), [&](const Number& n) { return n.key == key; });
    return it == numbers.end() ? std::nullopt : std::optional(it->value);
}

std::size_t Record::count(Listed::Kind kind) const {
    return static_cast<std::size_t>(
        std::count_if(listed.begin(), listed.end(), [&](const Listed& l) { return l.kind == kind; }));
}

const Step* findStep(std::string_view name) {
    const auto all = catalogue();
    const auto it = std::find_if(all.begin(), all.end(), [&](const Step& s) { return s.name == name; });
    return it == all.end() ? nullptr : &it->get();
}

std::optional<mesh::Point> Place::of(const Value& value) {
    if (value.text().empty()) return std::nullopt;
    return placeFromText(value.text()).value();
}

std::vector<mesh::Point> PlaceList::of(const Value& value) {
    if (value.text().empty()) return {};
    return placesFromText(value.text()).value();
}

namespace {

Value proposedValue(const Parameter& p, const Surveyed& s) {
    if (p.kind == ParameterKind::Choice) return Value(std::string(p.choices.front()));
    if (isText(p.kind)) return Value(std::string());
    return p.propose ? std::clamp(p.propose(s), p.min, p.max) : p.fallback;
}

}  // namespace

Arguments proposedArguments(const Step& step, const Surveyed& s) {
    Arguments arguments;
    for (const Parameter& p : step.parameters) arguments.emplace(p.name, proposedValue(p, s));
    return arguments;
}

namespace {

// The message begins with the step; `rest` goes on from its name.
tl::unexpected<mesh::Error> wrongCall(const Step& step, const std::string& rest) {
    return badInput(fmt::format("step '{}'{}", step.name, rest), mesh::errorcode::badParameter, std::string(step.name));
}

}  // namespace

Outcome<void> checkValue(const Step& step, const Parameter& p, double value) {
    const bool whole = p.kind != ParameterKind::Count && p.kind != ParameterKind::Flag;
    if (!(value >= p.min && value <= p.max))
        return wrongCall(step, fmt::format(": {} must be from {} to {}, not {}", p.name, p.min, p.max, value));
    if (!whole && value != std::floor(value))
        return wrongCall(step, fmt::format(": {} must be a whole number, not {}", p.name, value));
    return {};
}

Outcome<Value> parseValue(const Step& step, const Parameter& p, std::string_view text) {
    double value = 0;
    if (isText(p.kind)) {
        if (text.empty()) return wrongCall(step, fmt::format(": {} needs a value", p.name));
        if (p.kind == ParameterKind::Choice && std::find(p.choices.begin(), p.choices.end(), text) == p.choices.end())
            return wrongCall(step, fmt::format(": '{}' is no value for {}{}; there are: {}", text, p.name,
                                               didYouMean(text, p.choices), listed(p.choices)));
        if (p.kind == ParameterKind::Place)
            if (auto place = placeFromText(text); !place)
                return wrongCall(step, fmt::format(": {}: {}", p.name, place.error().message));
        if (p.kind == ParameterKind::Places)
            if (auto places = placesFromText(text); !places)
                return wrongCall(step, fmt::format(": {}: {}", p.name, places.error().message));
        return Value(std::string(text));
    }
    if (p.kind == ParameterKind::Flag && (text == "yes" || text == "no")) return Value(text == "yes" ? 1.0 : 0.0);
    std::string_view digits = text;
    if (p.kind == ParameterKind::Percent && !digits.empty() && digits.back() == '%') digits.remove_suffix(1);
    if (!io::TextCursor::parseNumber(digits, value))
        return wrongCall(step, fmt::format(": '{}' is no value for {}; give {}", text, p.name,
                                           p.kind == ParameterKind::Flag ? "yes or no" : "a number"));
    if (auto ok = checkValue(step, p, value); !ok) return mesh::errorOf(ok);
    return Value(value);
}

namespace {

// Takes the next word off the text; blanks within double quotes, which go, belong to it.
bool takeWord(std::string_view& text, std::string& word) {
    constexpr std::string_view blanks = " \t\r\n";
    text.remove_prefix(std::min(text.size(), text.find_first_not_of(blanks)));
    word.clear();
    if (text.empty()) return false;
    bool quoted = false;
    std::size_t used = 0;
    for (; used < text.size() && (quoted || blanks.find(text[used]) == std::string_view::npos); ++used)
        if (text[used] == '"')
            quoted = !quoted;
        else
            word += text[used];
    text.remove_prefix(used);
    return true;
}

}  // namespace

Outcome<const Parameter*> parameterNamed(const Step& step, std::string_view name) {
    const auto p = std::find_if(step.parameters.begin(), step.parameters.end(),
                                [&](const Parameter& x) { return x.name == name; });
    if (p != step.parameters.end()) return &*p;
    const std::vector<std::string_view> names = namesOf(step.parameters);
    return wrongCall(step,
                     fmt::format(" has no parameter '{}'{}; it has: {}", name, didYouMean(name, names), listed(names)));
}

bool saysSomething(const Parameter& p, const Value& value) {
    if (p.kind == ParameterKind::Choice) return value.text() != p.choices.front();
    return value.isText() ? !value.text().empty() : p.propose || value.number() != p.fallback;
}

std::vector<std::string_view> excludedBy(const Step& step, const Parameter& parameter, const Value& value) {
    std::vector<std::string_view> others;
    if (!saysSomething(parameter, value)) return others;
    for (const auto& group : step.oneOf)
        if (std::find(group.begin(), group.end(), parameter.name) != group.end())
            std::copy_if(group.begin(), group.end(), std::back_inserter(others),
                         [&](std::string_view other) { return other != parameter.name; });
    return others;
}

Outcome<void> checkTogether(const StepCall& call) {
    const Step& step = *call.step;
    const auto says = [&](std::string_view name) {
        const auto given = call.given.find(name);
        const auto p = parameterNamed(step, name);
        return p && given != call.given.end() && saysSomething(**p, given->second);
    };
    for (const auto& group : step.oneOf) {
        const auto first = std::find_if(group.begin(), group.end(), says);
        const auto second = first == group.end() ? first : std::find_if(first + 1, group.end(), says);
        if (second != group.end())
            return wrongCall(step, fmt::format(": {} and {} say the same thing in two ways: say one of {}", *first,
                                               *second, listed(group)));
    }
    for (const auto& [name, other] : step.needing)
        if (says(name) && !says(other))
            return wrongCall(step, fmt::format(": {0} needs {1} as well: say {0}=... {1}=...", name, other));
    return {};
}

namespace {

// `key=value` of a call; what every step knows, or one of its own parameters.
Outcome<void> take(StepCall& call, const std::string& name, std::string_view value) {
    if (name == "pick") {
        if (!call.pick.empty()) return wrongCall(*call.step, ": pick is said twice");
        call.pick = value;
        return {};
    }
    if (name == "only-if") {
        if (!call.onlyIf.empty()) return wrongCall(*call.step, ": only-if is said twice");
        call.onlyIf = value;
        if (const auto condition = conditionFromText(call.onlyIf); !condition)
            return wrongCall(*call.step, ": " + condition.error().message);
        return {};
    }
    const auto p = parameterNamed(*call.step, name);
    if (!p) return mesh::errorOf(p);
    Outcome<Value> read = parseValue(*call.step, **p, value);
    if (!read) return mesh::errorOf(read);
    if (!call.given.emplace(name, *read).second) return wrongCall(*call.step, fmt::format(": {} is said twice", name));
    return {};
}

}  // namespace

Outcome<StepCall> parseStepCall(std::string_view text) {
    std::string word;
    StepCall call;
    std::vector<std::string_view> names;
    for (const Step& step : catalogue()) names.push_back(step.name);
    if (!takeWord(text, word))
        return badInput("a step needs a name; there are: " + listed(names), mesh::errorcode::badParameter);
    call.step = findStep(word);
    if (!call.step)
        return badInput(
            fmt::format("there is no step '{}'{}; there are: {}", word, didYouMeanStep(word), listed(names)),
            mesh::errorcode::badParameter);
    while (takeWord(text, word)) {
        const std::size_t equals = word.find('=');
        if (equals == std::string::npos) return wrongCall(*call.step, fmt::format(": '{}' is not key=value", word));
        if (auto taken = take(call, word.substr(0, equals), std::string_view(word).substr(equals + 1)); !taken)
            return mesh::errorOf(taken);
    }
    if (auto ok = checkTogether(call); !ok) return mesh::errorOf(ok);
    return call;
}

namespace {

bool same(const Mesh& a, const Mesh& b) {
    return a.triangles == b.triangles && a.regions == b.regions && a.positions.size() == b.positions.size() &&
           std::equal(a.positions.begin(), a.positions.end(), b.positions.begin());
}

Outcome<void> checkCall(const StepCall& call, const Pick& pick, const Arguments& used) {
    const Step& step = *call.step;
    for (const Parameter& p : step.parameters)
        if (isText(p.kind) && !p.optional && used.find(p.name)->second.text().empty())
            return wrongCall(step, fmt::format(" needs {}={}: {}", p.name,
                                               p.kind == ParameterKind::File ? "FILE" : "x,y,z", p.help));
    const bool picked = !call.pick.empty() || !pick.everything();
    if (step.needsPick && !picked)
        return wrongCall(step, " works on picked triangles alone: pick some first, or give pick=...");
    if (picked && !step.wholeOnly.empty())
        return wrongCall(step, fmt::format(" takes no pick, it works on the whole part: {}", step.wholeOnly));
    return {};
}

}  // namespace

namespace {

// Whoever gave it: a step sees no value that is not one of its parameter.
Outcome<void> checkGiven(const Step& step, std::string_view name, const Value& value) {
    const auto p = parameterNamed(step, name);
    if (!p) return mesh::errorOf(p);
    if (value.isText() != isText((*p)->kind)) return wrongCall(step, fmt::format(": {} is of another kind", name));
    if (!value.isText()) return checkValue(step, **p, value.number());
    if (value.text().empty()) return {};
    const auto read = parseValue(step, **p, value.text());
    return read ? Outcome<void>() : Outcome<void>(mesh::errorOf(read));
}

}  // namespace

Outcome<StepDone> runStep(const StepCall& call, const SurveyedPtr& part, const Pick& pick, Progress& whole) {
    StepDone done;
    mesh::PartOfProgress asking(whole, 0, call.onlyIf.empty() ? 0 : 0.2);
    mesh::PartOfProgress progress(whole, call.onlyIf.empty() ? 0 : 0.2, 1);
    if (!call.onlyIf.empty()) {
        const auto condition = conditionFromText(call.onlyIf);
        if (!condition) return mesh::errorOf(condition);
        const auto so = holds(*condition, *part, asking);
        if (!so) return mesh::errorOf(so);
        if (!*so) {
            done.used = call.given;
            done.part = part;
            done.leftOut = true;
            done.record.headline = "left out";
            done.record.add("left_out", std::size_t{1});
            done.record.say(fmt::format("Left out: it runs {}.", conditionInWords(*condition)));
            return done;
        }
    }
    for (const auto& [name, value] : call.given)
        if (auto ok = checkGiven(*call.step, name, value); !ok) return mesh::errorOf(ok);
    done.used = call.given;
    for (const Parameter& p : call.step->parameters)
        if (!done.used.contains(p.name)) done.used.emplace(p.name, proposedValue(p, *part));
    if (auto ok = checkCall(call, pick, done.used); !ok) return mesh::errorOf(ok);
    if (call.step->memory) {
        const double bytes = std::clamp(call.step->memory(*part, done.used), 0.0, 1e18);
        auto fits = mesh::enoughMemory(fmt::format("step '{}'", call.step->name), static_cast<std::uint64_t>(bytes));
        if (!fits) return mesh::errorOf(fits);
    }
    mesh::PartOfProgress picking(progress, 0, 0.2);
    const Outcome<Pick> own = call.pick.empty() ? pick : pickFromText(call.pick, *part, picking);
    if (!own) return mesh::errorOf(own);
    mesh::PartOfProgress running(progress, call.pick.empty() ? 0 : 0.2, 1);
    Outcome<StepOutput> output = call.step->run(*part, *own, done.used, running);
    if (!output) return mesh::errorOf(output);
    done.record = std::move(output->record);
    done.facts = output->facts;
    if (!output->known) output->known = std::make_shared<const Surveyed>(std::move(output->mesh));
    done.changed = !same(part->mesh(), output->known->mesh());
    done.part = done.changed ? output->known : part;
    return done;
}

}  // namespace zither::steps
