// What came of a way of mending, in the few numbers that ways are chosen by.
#pragma once

#include <cstddef>

#include "steps/brief.h"

namespace zither::steps {

struct Score {
    std::size_t failing = 0;     // requirements that a repair can meet, and that are not met
    double left = 0;             // of what fails: how much there is, all together
    bool anyWorse = false;       // some count with a limit is further from it than it was
    bool keepsAll = true;        // at most so much of what can be seen is lost as may be, and no piece (promise 5)
    double lost = 0;             // share of what can be seen, of what was neither listed nor asked for
    double sheets = 0;           // share of the part's area that bounds no volume: it stays, went or became bodies
    bool onlyQuestions = false;  // all that is left is for a person to decide
    bool tooDense = false;       // no file holds its pieces apart: other ways of telling full from empty end alike
    double coverable = 0;        // triangles in trouble that plates could cover

    // It may be taken.
    [[nodiscard]] bool isAdmissible() const { return !anyWorse && keepsAll; }
    // Nothing is left, and nothing was taken that was not asked for.
    [[nodiscard]] bool isWhole() const { return isAdmissible() && failing == 0; }
};

// Requirements that fail, but for those that no repair can change.
std::size_t failing(const Verdict& v);
// How much there is of what fails, all together.
double leftOf(const Verdict& v);
// It is further from its limit than it was.
bool isWorse(const Judged& before, const Judged& after);
// Some count with a limit is.
bool anyWorse(const Verdict& before, const Verdict& after);

}  // namespace zither::steps
