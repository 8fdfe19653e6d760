// What came of a way of mending, in the few numbers that ways are chosen by.
#pragma once

#include <compare>
#include <cstddef>

#include "steps/brief.h"

namespace zither::steps {

// Requirements that a repair can meet, and that are not met: first those that keep a surface from being sound.
struct Failing {
    std::size_t unsound = 0;
    std::size_t unfit = 0;  // needles, small angles, shells ...
    [[nodiscard]] std::size_t all() const { return unsound + unfit; }
    auto operator<=>(const Failing&) const = default;
};

struct Score {
    Failing failing;
    double left = 0;             // of what is unsound: how much there is, all together
    double thin = 0;             // of needles, folds and hair gaps that may not be
    bool anyWorse = false;       // some count with a limit is further from it than it was
    bool keepsAll = true;        // at most so much of what can be seen is lost as may be, and no piece (promise 5)
    double lost = 0;             // share of what can be seen, of what was neither listed nor asked for
    double emptied = 0;          // share of what closed shells enclosed that is empty now (promise 7)
    double sheets = 0;           // share of the part's area that bounds no volume: it stays, went or became bodies
    bool onlyQuestions = false;  // all that is left is for a person to decide
    bool tooDense = false;       // no file holds its pieces apart: other ways of telling full from empty end alike
    double coverable = 0;        // triangles in trouble that plates could cover

    // So much of what is full may become empty.
    static constexpr double mostEmptied = 1e-3;
    // It may be taken.
    [[nodiscard]] bool isAdmissible() const { return !anyWorse && keepsAll && emptied <= mostEmptied; }
    // Nothing unsound is left, and nothing was taken that was not asked for.
    [[nodiscard]] bool isWhole() const { return isAdmissible() && failing.unsound == 0; }
};

Failing failing(const Verdict& v);
// It limits what meshers stop at: needles, folds, hair gaps.
bool limitsThin(const Requirement& r);
// How much there is of what is unsound, and of places that are too thin.
double leftOf(const Verdict& v);
double thinOf(const Verdict& v);
// It is further from its limit than it was, and that tells of what is sound.
bool isWorse(const Judged& before, const Judged& after);
// Some count with a limit is.
bool anyWorse(const Verdict& before, const Verdict& after);

}  // namespace zither::steps
