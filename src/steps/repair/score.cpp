// Verdicts in numbers.
#include "steps/repair/score.h"

#include <algorithm>

namespace zither::steps {

std::size_t failing(const Verdict& v) {
    return static_cast<std::size_t>(std::count_if(
        v.judged.begin(), v.judged.end(), [](const Judged& j) { return !j.met && j.requirement.measure->mendable; }));
}

double leftOf(const Verdict& v) {
    double sum = 0;
    for (const Judged& j : v.judged)
        if (!j.met && j.requirement.measure->mendable) sum += *j.value;
    return sum;
}

bool isWorse(const Judged& before, const Judged& after) {
    if (after.met || !after.requirement.measure->mendable || !before.value || !after.value) return false;
    return before.requirement.measure->atLeast ? *after.value < *before.value : *after.value > *before.value;
}

bool anyWorse(const Verdict& before, const Verdict& after) {
    for (std::size_t i = 0; i < before.judged.size(); ++i)
        if (isWorse(before.judged[i], after.judged[i])) return true;
    return false;
}

}  // namespace zither::steps
