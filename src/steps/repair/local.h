// Local steps in a chain: each where the part calls for it, judged after, until nothing improves.
#pragma once

#include <functional>

#include "repair/stitch.h"
#include "steps/automatic_repair.h"

namespace zither::steps {

inline constexpr std::string_view easedInWords =
    "The brief forbids what most meshers stop at: needles, folds, gaps of a hair.";

struct LocalWay {
    bool stitches = true;  // false: what looks like cracks may be the rims of a thin part
    // Told when it was cancelled: time is up, and what was reached by then is asked for all the same.
    std::function<bool()> outOfTime = [] { return false; };
    // Of the widest crack to stitch; 0 where there is none.
    std::function<double(const Surveyed&)> crackWidth = repair::proposedStitchDistance;
};

// Up to three times through the chain: the best state in which no count of the brief is worse than it was. Error: a
// step's, or cancelled.
Outcome<RepairResult> repairLocally(const SurveyedPtr& part, const RepairOptions& options, const LocalWay& how,
                                    Progress& progress);

// Counts that fail, and what to do about them; openings that the last fill left; what steps could not do.
std::vector<Listed> whatIsLeft(const Verdict& verdict, bool solid, const std::vector<DoneStep>& done,
                               std::vector<Listed> openings);

}  // namespace zither::steps
