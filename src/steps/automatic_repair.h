// The automatic repair: chooses steps by what the survey finds, judges after each, and says why it did what it did.
#pragma once

#include <functional>
#include <limits>
#include <memory>
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

// What a person has said before it begins.
struct RepairAsked {
    bool closeOpenings = false;  // those that are likely meant
    SheetWay sheets = SheetWay::Ask;
    double thickness = 0;  // of sheets that are thickened; 0: the brief's wall where the unit is known, else as
                           // `enclose` proposes
    double maxDeviation = std::numeric_limits<double>::infinity();
    std::vector<AnswerGiven> answers = {};  // to questions that an earlier run on the same part asked
};

struct RepairOptions {
    Brief brief = builtInBriefs().front();
    double maxDeviation = std::numeric_limits<double>::infinity();  // caps what stitching and slivers move
    bool closeOpenings = false;                                     // those that are likely meant: on the user's word
    SheetWay sheets = SheetWay::Ask;
    double thickness = 0;                          // of sheets that are thickened; 0: as `enclose` proposes
    bool narrow = false;                           // the result is for a file of 32-bit coordinates
    std::shared_ptr<SeenOfImport> seen = nullptr;  // of the part; nullptr: it is looked for
};

struct RepairResult {
    std::vector<DoneStep> steps;           // those that changed something
    std::vector<Listed> left;              // what a person has to decide: openings, counts that fail ...
    std::vector<Question> questions = {};  // the same, typed, with answers
};

// Two ways are tried. A chain of local steps, up to three times, until the brief is met or nothing improves: the best
// state in which no count of the brief is worse than it was. Where that leaves something, or loses what can be seen,
// the step that tells full from empty, on the part as it came, stitched, turned, and as the chain left it. A way counts
// only if it loses at most 0.2 % of what can be seen, and no piece (promise 5), and no count of the brief is worse; of
// those that do, the one in which least fails, and of those that leave as little the one that takes least for sheets. A
// way that would leave less but loses too much is not gone; `left` says which. Where none ends solid, the one that
// leaves the least that plates could cover (fit/cover.h) is gone once more with all of it covered. `left` says what
// a person has to decide, and whether wrapping would help.
Outcome<RepairResult> repairAutomatically(const SurveyedPtr& part, const RepairOptions& options, Progress& progress);

// What is left as a sentence by itself, with what to do.
[[nodiscard]] std::string inWords(const Listed& left);
// A sentence for each count that fails.
[[nodiscard]] std::vector<Listed> failingCounts(const Verdict& verdict);

}  // namespace zither::steps
