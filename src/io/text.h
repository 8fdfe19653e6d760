// A cursor over text in memory: words, numbers (fast_float), lines. No allocation.
#pragma once

#include <fast_float/fast_float.h>

#include <algorithm>
#include <charconv>
#include <string_view>

namespace zither::io {

inline bool isLineEnd(char c) {
    return c == '\n' || c == '\r';
}
inline bool isBlank(char c) {
    return c == ' ' || c == '\t' || c == '\v' || c == '\f';
}
inline bool isSpace(char c) {
    return isBlank(c) || isLineEnd(c);
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

// The text without a byte order mark.
inline std::string_view withoutMark(std::string_view text) {
    return text.starts_with("\xEF\xBB\xBF") ? text.substr(3) : text;
}

// Lines end with LF, CR LF or a bare CR.
class TextCursor {
public:
    // `continued`: a backslash at the end of a line joins it with the next one.
    explicit TextCursor(std::string_view text, bool continued = false)
        : at_(text.data()), begin_(text.data()), end_(text.data() + text.size()), continued_(continued) {}

    [[nodiscard]] bool atEnd() const { return at_ == end_; }
    [[nodiscard]] std::size_t offset() const { return static_cast<std::size_t>(at_ - begin_); }

    void goTo(std::size_t offset) { at_ = begin_ + offset; }

    // Next word; over line ends. Empty at the end.
    std::string_view word() {
        while (at_ != end_ && isSpace(*at_)) ++at_;
        return takeWord();
    }
    // Next word of this line; empty at its end.
    std::string_view wordOfLine() {
        for (;;) {
            while (at_ != end_ && isBlank(*at_)) ++at_;
            if (!atContinuation()) return takeWord();
            passContinuation();
        }
    }
    // The rest of this line, without its end; the cursor moves to the next line. Of a continued line: up to the first
    // backslash.
    std::string_view restOfLine() {
        const char* from = at_;
        const char* to = nullptr;
        for (;;) {
            while (at_ != end_ && !isLineEnd(*at_) && !atContinuation()) ++at_;
            if (!to) to = at_;
            if (!atContinuation()) break;
            passContinuation();
        }
        passLineEnd();
        return trimmed({from, static_cast<std::size_t>(to - from)});
    }
    // Next word as a number. False where it is none; the word is passed over all the same.
    template <class Number>
    bool number(Number& value) {
        const std::string_view w = word();
        return parseNumber(w, value);
    }

    template <class Number>
    static bool parseNumber(std::string_view w, Number& value) {
        if (!w.empty() && w.front() == '+') {
            w.remove_prefix(1);
            if (!w.empty() && w.front() == '-') return false;
        }
        const auto [end, error] = fast_float::from_chars(w.data(), w.data() + w.size(), value);
        return error == std::errc() && end == w.data() + w.size();
    }

    // The whole word as a whole number; no sign but a minus.
    template <class Integer>
    static bool parseInteger(std::string_view w, Integer& value) {
        const auto [end, error] = std::from_chars(w.data(), w.data() + w.size(), value);
        return error == std::errc() && end == w.data() + w.size();
    }

private:
    std::string_view takeWord() {
        const char* from = at_;
        while (at_ != end_ && !isSpace(*at_) && !atContinuation()) ++at_;
        return {from, static_cast<std::size_t>(at_ - from)};
    }
    // A backslash with nothing but blanks behind it on its line.
    [[nodiscard]] bool atContinuation() const {
        if (!continued_ || at_ == end_ || *at_ != '\\') return false;
        const char* p = at_ + 1;
        while (p != end_ && isBlank(*p)) ++p;
        return p != end_ && isLineEnd(*p);
    }
    void passContinuation() {
        while (!isLineEnd(*at_)) ++at_;
        passLineEnd();
    }
    void passLineEnd() {
        if (at_ == end_) return;
        const bool carriage = *at_ == '\r';
        ++at_;
        if (carriage && at_ != end_ && *at_ == '\n') ++at_;
    }

    const char* at_;
    const char* begin_;
    const char* end_;
    bool continued_;
};

// Line number (from 1) of a place in the text.
inline std::size_t lineAt(std::string_view text, std::size_t offset) {
    std::size_t line = 1;
    for (std::size_t i = 0; i < std::min(offset, text.size()); ++i)
        line += text[i] == '\n' || (text[i] == '\r' && (i + 1 == text.size() || text[i + 1] != '\n'));
    return line;
}

}  // namespace zither::io
