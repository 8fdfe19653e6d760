// The automatic repair: chooses steps by what the survey finds, judges after each, and says why it did what it did.
#pragma once

#include <functional>
#include <limits>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "steps/brief.h"
#include "steps/done_step.h"
#include "steps/question.h"

namespace zither::steps {

class SeenOfImport;

// What is done with what bounds no volume.
enum class SheetWay { Ask, Drop, Thicken };
// "ask", "drop", "thicken".
std::vector<std::string> sheetWayNames();
std::optional<SheetWay> sheetWayNamed(std::string_view name);
std::string_view wordOf(SheetWay way);

// What a body is that lies within another one.
enum class BuriedWay { Material, Void, Keep };
// "material", "void", "keep".
std::vector<std::string> buriedWayNames();
std::optional<BuriedWay> buriedWayNamed(std::string_view name);
std::string_view wordOf(BuriedWay way);

// What a person has said before it begins.
struct RepairAsked {
    bool closeOpenings = false;  // those that are likely meant
    SheetWay sheets = SheetWay::Ask;
    double thickness = 0;  // of sheets that are thickened; 0: the brief's wall where the unit is known, else as
                           // `enclose` proposes
    BuriedWay buried = BuriedWay::Material;
    double maxDeviation = std::numeric_limits<double>::infinity();
    double timeLimit = 0;                   // seconds; 0: usualTimeLimit
    std::vector<AnswerGiven> answers = {};  // to questions that an earlier run on the same part asked
};

struct RepairOptions {
    Brief brief = builtInBriefs().front();
    double maxDeviation = std::numeric_limits<double>::infinity();  // caps what stitching and slivers move
    bool closeOpenings = false;                                     // those that are likely meant: on the user's word
    SheetWay sheets = SheetWay::Ask;
    double thickness = 0;  // of sheets that are thickened; 0: as `enclose` proposes
    BuriedWay buried = BuriedWay::Material;
    double timeLimit = std::numeric_limits<double>::infinity();  // seconds
    bool narrow = false;                                         // the result is for a file of 32-bit coordinates
    std::shared_ptr<SeenOfImport> seen = nullptr;                // of the part; nullptr: it is looked for
};

// A way that was tried, and what it would have come to.
struct TriedWayLog {
    std::string way;          // "clean, stitch, enclose"
    bool mayBeTaken = false;  // it loses nothing that can be seen, and no count is worse
    std::size_t failing = 0;  // requirements that it leaves
    double left = 0;          // of what fails: how much, all together
    double lost = 0;          // share of what can be seen
    double sheets = 0;        // share of the area that bounds no volume
    double seconds = 0;
    std::string why;  // it could not be gone, or not be taken; empty: it could
    bool taken = false;
};

struct RepairResult {
    std::vector<DoneStep> steps;           // those that changed something
    std::vector<Listed> left;              // what a person has to decide: openings, counts that fail ...
    std::vector<Question> questions = {};  // the same, typed, with answers
    std::vector<TriedWayLog> tried = {};   // in their order
    bool timeWasUp = false;                // more time might have led further
};

// 5 s, and 10 s for each 100 thousand triangles.
double usualTimeLimit(std::uint64_t triangles);

// A search: ways are made from facts of the survey (steps/repair/way_candidates.h), gone one after the other, the
// simplest first, scored, and the best is taken (steps/repair/choose.h). A way counts only if it loses at most 0.2 % of
// what can be seen, and no piece (promise 5), no count of the brief is worse, and what closed shells enclosed is full
// still but for a thousandth (promise 7). The first that leaves nothing ends it. A way that would leave less but loses
// too much is not gone; `left` says which. Where none ends solid, the one that leaves the least that plates could cover
// (fit/cover.h) is gone once more with all of it covered. When time is up, the best that there is by then is the
// result. `left` says what a person has to decide, and whether wrapping would help.
Outcome<RepairResult> repairAutomatically(const SurveyedPtr& part, const RepairOptions& options, Progress& progress);

// The automatic repair goes the step by itself, where a part calls for it.
[[nodiscard]] bool isOfRepair(const Step& step);

// What is left as a sentence by itself, with what to do.
[[nodiscard]] std::string inWords(const Listed& left);
// All of it in at most twenty lines: of each kind the largest, then how many more, and what mends them.
[[nodiscard]] std::vector<std::string> leftInLines(std::span<const Listed> left);
// A sentence for each count that fails.
[[nodiscard]] std::vector<Listed> failingCounts(const Verdict& verdict);

}  // namespace zither::steps
