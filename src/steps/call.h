// A step with what it is told: as text, as one line of a recipe, and run.
#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "steps/step.h"

namespace zither::steps {

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

// Parses "NAME key=value ..."; a value with blanks stands in double quotes; the keys "pick" and "only-if" are known to
// every step. Errors say which name or value is wrong, which there are, and which may have been meant; a name that is
// said twice, and two of which only one may be said, are errors too.
Outcome<StepCall> parseStepCall(std::string_view text);

// The parameter of that name. Error: the step has none, with those that it has.
Outcome<const Parameter*> parameterNamed(const Step& step, std::string_view name);
// Error: of what was said two exclude each other, or one needs another that was not said.
Outcome<void> checkTogether(const StepCall& call);
// Names of the parameters that say the same in another way, and so go when this one says something.
std::vector<std::string_view> excludedBy(const Step& step, const Parameter& parameter, const Value& value);
// It says something: what is said is not what stands there where nothing is.
bool saysSomething(const Parameter& parameter, const Value& value);

// Checks one value against its parameter's range.
Outcome<Value> parseValue(const Step& step, const Parameter& parameter, std::string_view text);
Outcome<void> checkValue(const Step& step, const Parameter& parameter, double value);

// What running a step gave.
struct StepDone {
    SurveyedPtr part;  // the one that came in, where nothing changed
    Record record;
    Facts facts;
    Arguments used;  // all values: what was given, and proposals for the rest
    bool changed = false;
    bool leftOut = false;  // by its condition
};

// Runs the call with proposals for what was not given. The call's own pick goes before `pick`. Where its condition does
// not hold nothing is changed, and the record says so. Error also: a step that needs a pick has none, or one that works
// on whole parts has one.
Outcome<StepDone> runStep(const StepCall& call, const SurveyedPtr& part, const Pick& pick, Progress& progress);

}  // namespace zither::steps
