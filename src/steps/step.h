// A step: the unit of change. Its descriptor is all that the command line, the desk, recipes, help and tests know of
// it.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <vector>

#include "check/surveyed.h"
#include "measure/loss.h"
#include "mesh/mesh.h"
#include "mesh/motion.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"

namespace zither::steps {

using check::Survey;
using check::Surveyed;
using check::SurveyedPtr;
using mesh::Mesh;
using mesh::Outcome;
using mesh::Pick;
using mesh::Progress;

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
inline bool isText(ParameterKind kind) {
    return kind == ParameterKind::File || kind == ParameterKind::Place || kind == ParameterKind::Places ||
           kind == ParameterKind::Choice;
}

// The value of a parameter: a number (a flag is 0 or 1), or text.
struct Value {
    double number = 0;
    std::string text;

    Value(double n) : number(n) {}  // NOLINT: a number is a value
    explicit Value(std::string t) : text(std::move(t)) {}
    operator double() const { return number; }  // NOLINT: and a value a number
    friend bool operator==(const Value& a, const Value& b) { return a.number == b.number && a.text == b.text; }
    template <class Number>
    requires std::is_arithmetic_v<Number>
    friend bool operator==(const Value& a, Number b) { return a.text.empty() && a.number == static_cast<double>(b); }
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
};

// "mm" stands for whatever the file's unit is: "unit". "%", "" for counts, "yes/no".
std::string_view unitOf(const Parameter& p);
// With what 0 stands for.
std::string helpOf(const Parameter& p);

// Parameter values by name. Only names of the step's own parameters, within their ranges.
using Arguments = std::map<std::string, Value, std::less<>>;

// One thing that a record lists: where it is and how large.
struct Listed {
    enum Kind {
        Goes,       // something that is removed
        Within,     // the same, because it lies inside others and nobody sees it
        LeftOpen,   // an opening that waits for a person's yes
        Sheet,      // what bounds no volume, and waits for an answer
        AsItCame,   // a place that would have been worse, put back
        Left,       // something that this step could not do, or must not without a word
        NeedsSkin,  // what only a new skin would close
        Made,       // something that was put there
    };
    Kind kind = Left;
    mesh::Point position = mesh::Point::Zero();
    double size = 0;
    std::string text;                             // a sentence
    std::shared_ptr<const Mesh> piece = nullptr;  // of a sheet: its triangles
};

// As in JSON: "goes", "left-open" ...
std::string_view nameOf(Listed::Kind kind);

// What a step did: numbers with a stable key, sentences for people, and lists of things.
struct Record {
    struct Number {
        std::string key;
        double value = 0;
    };
    std::vector<Number> numbers;
    std::string headline;  // two or three words for what changed where no count does: "12 flipped"
    std::vector<std::string> sentences;
    std::vector<Listed> listed;
    // Patches, sheets and bodies that were listed. nullptr: none.
    std::shared_ptr<const measure::Told> told;
    // The part moved as a whole: it is compared with its import moved alike. None: it stands where it stood.
    std::optional<mesh::Motion> motion;

    void add(std::string key, double value) { numbers.push_back({std::move(key), value}); }
    void add(std::string key, std::size_t value) { numbers.push_back({std::move(key), static_cast<double>(value)}); }
    void say(std::string sentence) { sentences.push_back(std::move(sentence)); }
    [[nodiscard]] double number(std::string_view key) const;  // 0 where there is none
    [[nodiscard]] std::size_t count(Listed::Kind kind) const;
};

struct StepOutput {
    Mesh mesh;
    Record record;
    SurveyedPtr known = nullptr;  // the mesh (which is empty then) with what the step has found out of it
};

// Something in the view that can be dragged in place of typing the values that it stands for.
struct Handle {
    enum Kind {
        Arrow,  // from `at` along `direction`
        Plane,  // through `at` across `direction`, which points at what stays
        Spot,   // a place on the surface
        Free,   // a place anywhere
    };
    Kind kind = Arrow;
    std::string name = {};                         // what it says: "up"
    mesh::Point at = mesh::Point::Zero();          // on the part as it came, or where the step tried brought it
    mesh::Point direction = mesh::Point::UnitZ();  // of length 1
    double length = 0;                             // of the arrow, or of half a side of the plane
    bool slides = false;                           // along the direction
    bool turns = false;                            // the direction does
    std::optional<mesh::Point> about = {};         // of length 1: it turns about this alone
};

// What steps are for: so they stand together at the desk, and in menus.
struct Family {
    std::string_view key;
    std::string_view title;
};
extern const Family familyClose;
extern const Family familyJoin;
extern const Family familyCutAway;
extern const Family familyTurn;
extern const Family familyShape;
extern const Family familyTriangles;
extern const Family familyByHand;
std::span<const std::reference_wrapper<const Family>> families();

struct Step {
    std::string_view name;     // as typed
    std::string_view title;    // as on a button
    std::string_view summary;  // one sentence
    const Family* family = nullptr;
    // What people call it, or would look for: terms of the trade, lower case.
    std::vector<std::string_view> words;
    std::vector<Parameter> parameters;
    std::vector<check::DefectClass> helpsWith;
    Outcome<StepOutput> (*run)(const Surveyed&, const Pick&, const Arguments&, Progress&) = nullptr;
    bool needsPick = false;  // does nothing to a whole mesh
    bool byHand = false;     // for a few triangles, at a person's will
    // What the triangles that come with it are: "new", "moved" or "cut".
    std::string_view brings = "new";
    // Why it would help this part as it stands, by the part's own numbers, with the values that are proposed: a
    // sentence. Empty: it would not. nullptr: the places that it helps with say it.
    std::string (*reason)(const Survey&, const Arguments& proposed, std::span<const double> samples) = nullptr;
    // A row of what the value of one parameter would lead to, drawn at the desk as a curve to choose on; may take long.
    struct CurvePoint {
        double value = 0;     // of the parameter
        double count = 0;     // of triangles that are left
        double distance = 0;  // of the surface from what came in, about
    };
    Outcome<std::vector<CurvePoint>> (*curve)(const Surveyed&, Progress&) = nullptr;
    std::string_view curveOf = {};  // the parameter
    // What is to be expected of these values, said before anything is done.
    std::string (*foresee)(const Surveyed&, const Arguments&) = nullptr;
    // About how many bytes it takes at its peak; asked before it runs, where that can be gigabytes.
    double (*memory)(const Surveyed&, const Arguments&) = nullptr;
    // Why it takes no pick, as the end of "works on the whole part: ..."; empty where it works on one.
    std::string_view wholeOnly = {};
    // What can be dragged, with these values; `tried`: what the step said of them, nullptr where it has not run.
    std::vector<Handle> (*handles)(const Surveyed&, const Arguments&, const Record* tried) = nullptr;
    // The values that stand for handle `i` being where `to` is, after `tried` ran on these values.
    Arguments (*dragged)(const Surveyed&, Arguments, const Record* tried, std::size_t i, const Handle& to) = nullptr;
};

// Every step, in the order in which work usually goes. Each stands once in the program: steps are compared by address.
std::span<const std::reference_wrapper<const Step>> catalogue();

// nullptr where there is none.
const Step* findStep(std::string_view name);

// Defaults of a step for this mesh: proposals where there are any.
Arguments proposedArguments(const Step& step, const Surveyed& s);

// One step with its arguments, as in a recipe.
struct StepCall {
    const Step* step = nullptr;
    Arguments given = {};   // only what was said; the rest is proposed when the mesh is known
    std::string pick = {};  // the triangles that it works on, as pickFromText reads them; empty: all
    // It runs only where this is so of the part as it stands then, as conditionFromText reads it; empty: always.
    std::string onlyIf = {};

    // It works on triangles by their numbers, which mean nothing on another part.
    [[nodiscard]] bool isByHand() const { return pick.starts_with("triangles:"); }
};

// A pick as it is typed: "ball:x,y,z,r", "box:x,y,z,x,y,z", "shell:n" (by their first triangles, from 0),
// "triangles:0-5,9" or the id of a requirement with places ("self_intersecting_pairs", "smallest_angle:5" with its
// limit); then "+n" or "-n" to grow or shrink it by n rings of neighbours. Error: not of that form, or nothing is
// picked.
Outcome<Pick> pickFromText(std::string_view text, const Surveyed& s, Progress& progress);
// The places of a class as such a text, with the limit that they were found by where it matters.
std::string pickOfPlaces(check::DefectClass defect, const check::SurveyOptions& options);
// As "triangles:...".
std::string textOfPick(const Pick& pick);

// "x,y,z".
Outcome<mesh::Point> placeFromText(std::string_view text);
std::string textOfPlace(const mesh::Point& p);
// "x,y,z;x,y,z", and back.
Outcome<std::vector<mesh::Point>> placesFromText(std::string_view text);
std::string textOfPlaces(std::span<const mesh::Point> places);

// Parses "NAME key=value ..."; a value with blanks stands in double quotes; the keys "pick" and "only-if" are known to
// every step. Errors say which name or value is wrong and which there are.
Outcome<StepCall> parseStepCall(std::string_view text);

// Checks one value against its parameter's range.
Outcome<Value> parseValue(const Step& step, const Parameter& parameter, std::string_view text);
Outcome<void> checkValue(const Step& step, const Parameter& parameter, double value);

// What running a step gave.
struct StepDone {
    SurveyedPtr part;  // the one that came in, where nothing changed
    Record record;
    Arguments used;  // all values: what was given, and proposals for the rest
    bool changed = false;
};

// Runs the call with proposals for what was not given. The call's own pick goes before `pick`. Where its condition does
// not hold nothing is changed, and the record says so. Error also: a step that needs a pick has none, or one that works
// on whole parts has one.
Outcome<StepDone> runStep(const StepCall& call, const SurveyedPtr& part, const Pick& pick, Progress& progress);

}  // namespace zither::steps
