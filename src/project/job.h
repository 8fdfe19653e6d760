// The whole job on a part, put together once: how it is repaired, and how what came of it is handed over. The command
// line, batches, the example, the window and programs of others call this and assemble nothing themselves.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "project/comparing.h"
#include "project/delivery.h"
#include "steps/automatic_repair.h"
#include "steps/lost.h"
#include "steps/recipe.h"

namespace zither::project {

// A part as a repair finds it.
struct Subject {
    check::SurveyedPtr part;
    steps::Brief brief;                                   // in the part's unit
    std::string unit;                                     // empty: nobody has said
    std::shared_ptr<steps::SeenOfImport> seen = nullptr;  // of the part; nullptr: it is looked for
};

// `format`: of the file that the part is for; nullptr: not known.
steps::RepairOptions repairOptions(const Subject& subject, const steps::RepairAsked& asked, const io::Format* format);
// The automatic repair, then the steps that the answers stand for; with what is still asked then. Error also: an answer
// to what nothing asks, or that is none.
Outcome<steps::RepairResult> repair(const Subject& subject, const steps::RepairAsked& asked, const io::Format* format,
                                    Progress& progress);

// A recipe on a part: the automatic repair where it asks for one, then its steps.
Outcome<steps::RepairResult> run(const Subject& subject, const steps::Recipe& recipe, const io::Format* format,
                                 Progress& progress);

// What the lengths of a part are in after these steps.
std::string unitAfter(const std::vector<steps::DoneStep>& done, std::string unit);
// Where a part came from, along the steps that were done to it.
steps::Origin originAfter(std::shared_ptr<steps::SeenOfImport> seen, const std::vector<steps::DoneStep>& done);

// What is handed over: where to, by which brief (in millimetres) it is judged, and what it came from.
struct Order {
    Destination to;
    steps::Brief brief;
    steps::Origin origin;         // without an import nothing is compared, and `lost` is not judged
    bool measureDistance = true;  // how far it lies from the import, too, and not only what was lost of it
};

struct Delivered {
    Judged file;                                // read back, and judged with what was lost
    std::shared_ptr<const measure::Loss> loss;  // of the import; nullptr: there is none to compare with
    std::optional<Compared> compared;           // the same with distances; none: not measured
};

// Writes to a temporary file, reads it back, compares it with the import, judges it, and only then puts it in its
// place: cancelled, every file is as it was. What the surface was judged by is given back as soon as it is not needed,
// where nobody else holds it.
Outcome<Delivered> deliver(check::SurveyedPtr surface, const Order& order, Progress& progress);

// So much of what can be seen is gone that it is said first, though it was listed; what steps cut away or moved because
// they are for that (trim, offset) does not count.
inline constexpr double muchLost = 0.1;
// "84 % of what could be seen is gone"; empty where at most a tenth is. A call that nobody watches ends with 1 then.
std::string muchLostText(const measure::Loss& loss);

// A step changed nothing, and was not left out by its own condition.
bool anyIdle(const std::vector<steps::DoneStep>& done);
// What has to be said before anything else: much that is lost, steps that did nothing. Sentences.
std::vector<std::string> warningsOf(const std::vector<steps::DoneStep>& done, const measure::Loss& loss);

// Two files brought into one unit, that of the first.
struct TwoSurfaces {
    io::Surface first;
    io::Surface second;
    std::string said;  // of their units; empty where there is nothing to say
    std::string unit;  // of both; empty where nobody has said
};
// Of what was read and judged already.
Outcome<Compared> compareJudged(const Judged& first, const Judged& second, Progress& progress);
Outcome<TwoSurfaces> readTwo(const std::filesystem::path& first, const std::filesystem::path& second,
                             Progress& progress);

}  // namespace zither::project
