// Distances between words of a few letters: the plain table is fast enough.
#include "steps/words.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <optional>

namespace zither::steps {
namespace {

std::size_t distanceOf(std::string_view a, std::string_view b) {
    std::vector<std::vector<std::size_t>> least(a.size() + 1, std::vector<std::size_t>(b.size() + 1));
    for (std::size_t i = 0; i <= a.size(); ++i)
        for (std::size_t j = 0; j <= b.size(); ++j) {
            if (i == 0 || j == 0) {
                least[i][j] = i + j;
                continue;
            }
            const std::size_t other = a[i - 1] == b[j - 1] ? 0 : 1;
            least[i][j] = std::min({least[i - 1][j] + 1, least[i][j - 1] + 1, least[i - 1][j - 1] + other});
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                least[i][j] = std::min(least[i][j], least[i - 2][j - 2] + 1);
        }
    return least[a.size()][b.size()];
}

// A word is near where at most a third of its letters are other.
std::optional<std::string_view> nearestOf(std::string_view typed, std::span<const std::string_view> known) {
    std::optional<std::string_view> nearest;
    std::size_t least = std::max<std::size_t>(1, typed.size() / 3) + 1;
    for (const std::string_view word : known) {
        const std::size_t distance = distanceOf(typed, word);
        // What begins alike is meant: "param" is "parameters".
        const auto other = std::mismatch(typed.begin(), typed.end(), word.begin(), word.end()).first;
        const auto alike = static_cast<std::size_t>(other - typed.begin());
        const bool begins = alike >= 4 && alike + 2 >= typed.size();
        const std::size_t counted = begins ? std::min<std::size_t>(distance, 1) : distance;
        if (counted >= least) continue;
        least = counted;
        nearest = word;
    }
    return nearest;
}

}  // namespace

std::string didYouMean(std::string_view typed, std::span<const std::string_view> known) {
    const auto nearest = nearestOf(typed, known);
    return nearest ? fmt::format("; did you mean '{}'?", *nearest) : std::string();
}

std::string didYouMeanStep(std::string_view typed) {
    std::vector<std::string_view> names;
    for (const Step& step : catalogue()) names.push_back(step.name);
    for (const Step& step : catalogue())
        if (std::find(step.words.begin(), step.words.end(), typed) != step.words.end())
            return fmt::format("; did you mean '{}'?", step.name);
    return didYouMean(typed, names);
}

std::string listed(std::span<const std::string_view> words) {
    return words.empty() ? "none" : fmt::format("{}", fmt::join(words, ", "));
}

std::vector<std::string_view> namesOf(std::span<const Parameter> parameters) {
    std::vector<std::string_view> names;
    for (const Parameter& p : parameters)
        if (!p.retired) names.push_back(p.name);
    return names;
}

}  // namespace zither::steps
