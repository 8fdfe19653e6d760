// Rules over scores; none of them looks at a surface.
#include "steps/repair/choose.h"

#include <algorithm>
#include <cmath>

namespace zither::steps {
namespace {

// Shares of area that differ by less are alike.
constexpr double fewSheets = 0.05;

}  // namespace

bool isBetter(const Score& a, const Score& b) {
    if (a.isAdmissible() != b.isAdmissible()) return a.isAdmissible();
    if (a.failing != b.failing) return a.failing < b.failing;
    if (std::abs(a.sheets - b.sheets) > fewSheets) return a.sheets < b.sheets;
    return a.left != b.left ? a.left < b.left : a.thin < b.thin;
}

bool isProgress(const Score& given, const Score& now) {
    if (now.failing < given.failing || now.left < given.left) return true;
    return now.failing == given.failing && now.left == given.left && now.thin < given.thin;
}

std::optional<std::size_t> bestOf(std::span<const TriedWay> tried) {
    if (tried.empty()) return std::nullopt;
    const auto best = std::min_element(tried.begin(), tried.end(),
                                       [](const TriedWay& a, const TriedWay& b) { return isBetter(a.score, b.score); });
    return static_cast<std::size_t>(best - tried.begin());
}

bool isEnough(std::span<const TriedWay> tried) {
    const auto best = bestOf(tried);
    // Where much was taken for sheets another way may find that it bounds a body.
    return best && tried[*best].score.isWhole() && tried[*best].score.sheets <= fewSheets;
}

bool isWorthTrying(const Way& next, std::span<const TriedWay> tried, const RepairFacts& facts) {
    const auto best = bestOf(tried);
    if (!best) return true;
    const Score& score = tried[*best].score;
    // A gentler twin, for where sheets come to hang on bodies.
    if (next.has(Stage::StitchApart) && score.isAdmissible()) return false;
    // Where much crosses local steps take long, and only come where nothing else will do.
    if (!next.encloses()) return !(isHeavy(facts.ready) && score.isAdmissible());
    if (std::any_of(tried.begin(), tried.end(), [](const TriedWay& t) { return t.score.tooDense; })) return false;
    // Where only questions are left another way of telling full from empty has no other answer; but where much bounds
    // no volume it may have been turned the wrong way, or not been turned, or what closes it was left unstitched.
    const Way& taken = tried[*best].way;
    const bool mayBeFuller = score.sheets > fewSheets && (next.has(Stage::Orient) != taken.has(Stage::Orient) ||
                                                          (next.has(Stage::Stitch) && !taken.has(Stage::Stitch)));
    return !(score.isAdmissible() && score.onlyQuestions) || mayBeFuller;
}

}  // namespace zither::steps
