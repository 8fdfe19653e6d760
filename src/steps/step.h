// A step: the unit of change. Its descriptor is all that the command line, the desk, recipes, help and tests know of
// it.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"
#include "steps/facts.h"
#include "steps/parameter.h"
#include "steps/record.h"

namespace zither::steps {

using check::Survey;
using mesh::Pick;
using mesh::Progress;

struct StepOutput {
    Mesh mesh;
    Record record;
    SurveyedPtr known = nullptr;  // the mesh (which is empty then) with what the step has found out of it
    Facts facts = {};             // what a repair decides by
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
    // Names of parameters that say the same thing in other ways: of each group at most one may be said.
    std::vector<std::vector<std::string_view>> oneOf = {};
    // The first means nothing unless the second is said as well.
    std::vector<std::pair<std::string_view, std::string_view>> needing = {};
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

}  // namespace zither::steps
