// What a step can be told. A parameter is declared once, with its type: `arguments[distance]` is a number,
// `arguments[way]` an enumerator, and a name that is not declared does not compile.
#pragma once

#include <map>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <variant>
#include <vector>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"

namespace zither::steps {

using check::Surveyed;
using check::SurveyedPtr;
using mesh::Mesh;
using mesh::Outcome;

enum class ParameterKind {
    Length,   // in the file's unit
    Percent,  // 0 to 100
    Angle,    // in degrees
    Factor,   // a number without a unit
    Volume,   // in the cube of the file's unit
    Count,    // a whole number
    Flag,     // yes or no
    File,     // the path of a surface; may be left out where `optional`
    Place,    // "x,y,z" in the file's unit; may be left out where `optional`
    Places,   // some of them: "x,y,z;x,y,z"; may be left out where `optional`
    Choice,   // one of `choices`, the first where nothing is said
};

// Kinds whose values are text, not numbers.
constexpr bool isText(ParameterKind kind) {
    return kind == ParameterKind::File || kind == ParameterKind::Place || kind == ParameterKind::Places ||
           kind == ParameterKind::Choice;
}

// The value of a parameter: a number (a flag is 0 or 1), or text. Asked for the one while it is the other, it throws
// std::bad_variant_access: a bug.
class Value {
public:
    Value(double number) : held_(number) {}  // NOLINT: a number is a value
    explicit Value(std::string text) : held_(Text{std::move(text)}) {}
    explicit Value(const char* text) : Value(std::string(text)) {}

    [[nodiscard]] bool isText() const { return std::holds_alternative<Text>(held_); }
    [[nodiscard]] double number() const { return std::get<double>(held_); }
    [[nodiscard]] const std::string& text() const { return std::get<Text>(held_).characters; }
    friend bool operator==(const Value&, const Value&) = default;

private:
    // A bare string would do, but of a variant of one libstdc++ 12 believes that it always holds something, also where
    // memory ran out while it was copied.
    struct Text {
        std::string characters;
        friend bool operator==(const Text&, const Text&) = default;
    };
    std::variant<double, Text> held_;
};

// One parameter: its unit, range and default.
struct Parameter {
    std::string_view name;  // as typed: lower case, with dashes
    ParameterKind kind = ParameterKind::Length;
    double min = 0;
    double max = 0;
    double fallback = 0;
    std::string_view help;
    // A sensible value for this mesh; none: the fallback.
    double (*propose)(const Surveyed&) = nullptr;
    bool optional = false;                               // of a file or a place
    enum Means { Spot, Direction, Sizes } means = Spot;  // of a place: what the three numbers are
    std::vector<std::string_view> choices = {};          // of a choice
    std::string_view cautious = {};  // the choice that the window begins with, where a person can still say yes
    // The lengths in this mesh that the value has to be chosen among, for a histogram.
    std::vector<double> (*samples)(const Surveyed&) = nullptr;
    // What the value 0 stands for where it does not mean none, for people: "two walls".
    std::string_view zero = {};
    // Nobody is asked for it: old recipes say it, and steps that run other steps. It stands in no list.
    bool retired = false;
};

// "mm" stands for whatever the file's unit is: "unit". "%", "" for counts, "yes/no".
std::string_view unitOf(const Parameter& p);
// With what 0 stands for.
std::string helpOf(const Parameter& p);

// "x,y,z". Error: it is not of that form.
Outcome<mesh::Point> placeFromText(std::string_view text);
std::string textOfPlace(const mesh::Point& p);
// "x,y,z;x,y,z", and back.
Outcome<std::vector<mesh::Point>> placesFromText(std::string_view text);
std::string textOfPlaces(std::span<const mesh::Point> places);

// The parameter of a step as its code declares it: `Read` is what a value of it means there. Its kind is set here where
// the type leaves no choice.
template <class Read>
struct Declared : Parameter {
    using Meaning = Read;
};

// A length, a share in percent, an angle in degrees, a factor, a volume: what `kind` says.
struct Number : Declared<double> {
    explicit Number(Parameter p) : Declared{std::move(p)} {}
    [[nodiscard]] static double of(const Value& value) { return value.number(); }
};

struct WholeNumber : Declared<std::size_t> {
    explicit WholeNumber(Parameter p) : Declared{std::move(p)} { kind = ParameterKind::Count; }
    [[nodiscard]] static std::size_t of(const Value& value) { return static_cast<std::size_t>(value.number()); }
};

struct Flag : Declared<bool> {
    explicit Flag(Parameter p) : Declared{std::move(p)} {
        kind = ParameterKind::Flag;
        max = 1;
    }
    [[nodiscard]] static bool of(const Value& value) { return value.number() != 0; }
};

// The path of a file; empty where none was given.
struct FilePath : Declared<std::string> {
    explicit FilePath(Parameter p) : Declared{std::move(p)} { kind = ParameterKind::File; }
    [[nodiscard]] static const std::string& of(const Value& value) { return value.text(); }
};

// None where nothing was given. Whatever reaches a step was read before: a text that names no place is refused.
struct Place : Declared<std::optional<mesh::Point>> {
    explicit Place(Parameter p) : Declared{std::move(p)} { kind = ParameterKind::Place; }
    [[nodiscard]] static std::optional<mesh::Point> of(const Value& value);
};

// Empty where nothing was given.
struct PlaceList : Declared<std::vector<mesh::Point>> {
    explicit PlaceList(Parameter p) : Declared{std::move(p)} { kind = ParameterKind::Places; }
    [[nodiscard]] static std::vector<mesh::Point> of(const Value& value);
};

// One of several words, each with what it means; the first where nothing is said.
template <class Meant>
struct Choice : Declared<Meant> {
    Choice(Parameter p, std::vector<std::pair<std::string_view, Meant>> all) : Declared<Meant>{std::move(p)} {
        this->kind = ParameterKind::Choice;
        for (const auto& [word, meaning] : all) {
            this->choices.push_back(word);
            meanings.push_back(meaning);
        }
    }
    [[nodiscard]] Meant of(const Value& value) const {
        for (std::size_t i = 0; i < meanings.size(); ++i)
            if (this->choices[i] == value.text()) return meanings[i];
        throw std::bad_variant_access();  // values are checked before a step sees them
    }
    [[nodiscard]] Value wordFor(Meant meaning) const {
        for (std::size_t i = 0; i < meanings.size(); ++i)
            if (meanings[i] == meaning) return Value(std::string(this->choices[i]));
        throw std::bad_variant_access();
    }

    std::vector<Meant> meanings;
};

// Parameter values by name. Only names of the step's own parameters, within their ranges.
struct Arguments : std::map<std::string, Value, std::less<>> {
    using Values = std::map<std::string, Value, std::less<>>;
    using Values::Values;

    // What lengths are in, and the part that the step works on: "mm", "in" ...; empty where nobody has said.
    std::string unit;

    // What a parameter was given. A step runs with values for all of its parameters; one that it did not list throws
    // std::out_of_range: a bug.
    template <class Kind>
    requires std::is_base_of_v<Parameter, Kind>
    [[nodiscard]] typename Kind::Meaning operator[](const Kind& parameter) const {
        const auto it = find(parameter.name);
        if (it == end()) throw std::out_of_range(std::string(parameter.name));
        return parameter.of(it->second);
    }
    void set(const Parameter& parameter, Value value) {
        insert_or_assign(std::string(parameter.name), std::move(value));
    }
};

}  // namespace zither::steps
