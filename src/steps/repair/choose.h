// Which of the ways that were tried is taken, and whether another one need be tried.
#pragma once

#include <optional>
#include <span>

#include "steps/repair/score.h"
#include "steps/repair/way_candidates.h"

namespace zither::steps {

// One that may be taken before one that may not; then the one in which less fails, which takes less for sheets, of
// which less is left.
bool isBetter(const Score& a, const Score& b);

// There is less of what was wrong.
bool isProgress(const Score& given, const Score& now);

// What a way may still do for, where these were tried before it.
struct TriedWay {
    Way way;
    Score score;
};
// The best of them; nothing where none was tried.
std::optional<std::size_t> bestOf(std::span<const TriedWay> tried);

// No way can end better than what there is.
bool isEnough(std::span<const TriedWay> tried);

// The next one is not worth its time: others like it have shown how it ends.
bool isWorthTrying(const Way& next, std::span<const TriedWay> tried, const RepairFacts& facts);

}  // namespace zither::steps
