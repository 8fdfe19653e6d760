// Counts of which more is worse, one by one.
#include "check/worse.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace zither::check {

std::vector<Worse> worseCounts(const Counts& was, const Counts& is) {
    std::vector<Worse> worse;
    for (const CountKey& key : countKeys)
        if (key.isWorse && is.*key.member > was.*key.member)
            worse.push_back({key.key, key.title, was.*key.member, is.*key.member});
    return worse;
}

std::string worseText(const Survey& was, const Survey& is) {
    std::vector<std::string> parts;
    for (const Worse& w : worseCounts(was.counts, is.counts))
        parts.push_back(fmt::format("{} {} -> {}", w.title, w.was, w.is));
    std::string text = parts.empty() ? "" : fmt::format("More than before: {}.", fmt::join(parts, ", "));
    if (was.solid && !is.solid) text += fmt::format("{}It is not solid any more.", text.empty() ? "" : " ");
    return text;
}

}  // namespace zither::check
