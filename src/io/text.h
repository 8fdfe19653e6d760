// A cursor over text in memory: words, numbers (fast_float), lines. No allocation.
#pragma once

#include <fast_float/fast_float.h>

#include <algorithm>
#include <string_view>

namespace zither::io {

inline bool isBlank(char c) {
    return c == ' ' || c == '\t' || c == '\r' || c == '\v' || c == '\f';
}
inline bool isSpace(char c) {
    return isBlank(c) || c == '\n';
}
inline char lower(char c) {
    return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
}

inline bool equalsIgnoringCase(std::string_view word, std::string_view lowerCase) {
    return word.size() == lowerCase.size() &&
           std::equal(word.begin(), word.end(), lowerCase.begin(), [](char a, char b) { return lower(a) == b; });
}

inline std::string_view trimmed(std::string_view s) {
    while (!s.empty() && isSpace(s.front())) s.remove_prefix(1);
    while (!s.empty() && isSpace(s.back())) s.remove_suffix(1);
    return s;
}

class TextCursor {
public:
    explicit TextCursor(std::string_view text)
        : at_(text.data()), begin_(text.data()), end_(text.data() + text.size()) {}

    [[nodiscard]] bool atEnd() const { return at_ == end_; }
    [[nodiscard]] std::size_t offset() const { return static_cast<std::size_t>(at_ - begin_); }

    // Next word; over line ends. Empty at the end.
    std::string_view word() {
        while (at_ != end_ && isSpace(*at_)) ++at_;
        return takeWord();
    }
    // Next word of this line; empty at its end.
    std::string_view wordOfLine() {
        while (at_ != end_ && isBlank(*at_)) ++at_;
        return takeWord();
    }
    // The rest of this line, without its end; the cursor moves to the next line.
    std::string_view restOfLine() {
        const char* lineEnd = std::find(at_, end_, '\n');
        const std::string_view rest(at_, static_cast<std::size_t>(lineEnd - at_));
        at_ = lineEnd == end_ ? end_ : lineEnd + 1;
        return trimmed(rest);
    }
    // Next word as a number. False where it is none; the word is passed over all the same.
    template <class Number>
    bool number(Number& value) {
        const std::string_view w = word();
        return parseNumber(w, value);
    }

    template <class Number>
    static bool parseNumber(std::string_view w, Number& value) {
        if (!w.empty() && w.front() == '+') w.remove_prefix(1);
        const auto [end, error] = fast_float::from_chars(w.data(), w.data() + w.size(), value);
        return error == std::errc() && end == w.data() + w.size();
    }

private:
    std::string_view takeWord() {
        const char* from = at_;
        while (at_ != end_ && !isSpace(*at_)) ++at_;
        return {from, static_cast<std::size_t>(at_ - from)};
    }

    const char* at_;
    const char* begin_;
    const char* end_;
};

// Line number (from 1) of a place in the text.
inline std::size_t lineAt(std::string_view text, std::size_t offset) {
    return 1 +
           static_cast<std::size_t>(std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(offset), '\n'));
}

}  // namespace zither::io
