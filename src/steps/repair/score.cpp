// Verdicts in numbers.
#include "steps/repair/score.h"

#include "check/catalogue.h"

namespace zither::steps {

namespace {

// A surface that fails it is not sound.
bool isOfSoundness(const Requirement& r) {
    return r.measure->mendable && r.measure->topological && r.measure->marks != check::shells;
}

template <class Counts>
double sumOf(const Verdict& v, Counts counts) {
    double sum = 0;
    for (const Judged& j : v.judged)
        if (!j.met && j.value && counts(j.requirement)) sum += *j.value;
    return sum;
}

}  // namespace

Failing failing(const Verdict& v) {
    Failing failing;
    for (const Judged& j : v.judged)
        if (!j.met && j.requirement.measure->mendable)
            ++(isOfSoundness(j.requirement) ? failing.unsound : failing.unfit);
    return failing;
}

bool limitsThin(const Requirement& r) {
    return r.limits(check::needles) || r.limits(check::folds) || r.limits(check::hairGaps);
}

double leftOf(const Verdict& v) {
    return sumOf(v, isOfSoundness);
}

double thinOf(const Verdict& v) {
    return sumOf(v, limitsThin);
}

// Needles, folds and hair gaps tell nothing of a surface that is not sound yet, and a step takes them out.
bool isWorse(const Judged& before, const Judged& after) {
    if (after.met || !isOfSoundness(after.requirement) || !before.value || !after.value) return false;
    return before.requirement.measure->atLeast ? *after.value < *before.value : *after.value > *before.value;
}

bool anyWorse(const Verdict& before, const Verdict& after) {
    for (std::size_t i = 0; i < before.judged.size(); ++i)
        if (isWorse(before.judged[i], after.judged[i])) return true;
    return false;
}

}  // namespace zither::steps
