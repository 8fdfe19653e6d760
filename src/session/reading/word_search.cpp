// A title that begins with what was typed goes before a word that does, and that before one that only holds it.
#include "session/reading/word_search.h"

#include <algorithm>

#include "session/reading/number_text.h"

namespace zither::session {
namespace {

enum Rank { Whole, TitleBegins, WordBegins, TitleHolds, WordHolds };

bool beginsAWord(const QString& text, const QString& part) {
    for (qsizetype at = text.indexOf(part, 0, Qt::CaseInsensitive); at >= 0;
         at = text.indexOf(part, at + 1, Qt::CaseInsensitive))
        if (at == 0 || !text[at - 1].isLetterOrNumber()) return true;
    return false;
}

std::optional<WordMatch> matchOne(const QString& part, const QString& title, const QStringList& words) {
    std::optional<WordMatch> best;
    const auto offer = [&](int rank, const QString& through) {
        if (!best || rank < best->rank) best = WordMatch{rank, through};
    };
    if (beginsAWord(title, part))
        offer(TitleBegins, {});
    else if (title.contains(part, Qt::CaseInsensitive))
        offer(TitleHolds, {});
    for (const QString& word : words) {
        if (word.compare(part, Qt::CaseInsensitive) == 0)
            offer(Whole, word);
        else if (beginsAWord(word, part))
            offer(WordBegins, word);
        else if (word.contains(part, Qt::CaseInsensitive))
            offer(WordHolds, word);
    }
    return best;
}

}  // namespace

std::optional<WordMatch> matchWords(const QString& typed, const QString& title, const QStringList& words) {
    // Several words may be one term.
    const QString whole = typed.simplified();
    if (whole.isEmpty()) return WordMatch{};
    if (auto together = matchOne(whole, title, words)) return together;
    WordMatch all;
    for (const QString& part : whole.split(' ')) {
        const auto one = matchOne(part, title, words);
        if (!one) return std::nullopt;
        if (one->rank > all.rank) all.rank = one->rank;
        if (all.through.isEmpty()) all.through = one->through;
    }
    return all;
}

QStringList wordsOf(const steps::Step& step) {
    QStringList words = {text(step.name)};
    for (const std::string_view word : step.words) words << text(word);
    return words;
}

std::vector<FoundStep> findSteps(const QString& typed) {
    std::vector<std::pair<int, FoundStep>> ranked;
    for (const steps::Step& step : steps::catalogue())
        if (const auto match = matchWords(typed, text(step.title), wordsOf(step)))
            ranked.push_back({match->rank, {&step, match->through}});
    std::stable_sort(ranked.begin(), ranked.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    std::vector<FoundStep> found;
    found.reserve(ranked.size());
    for (auto& [rank, one] : ranked) found.push_back(std::move(one));
    return found;
}

}  // namespace zither::session
