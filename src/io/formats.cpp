// The list of formats. A new one: its own file with its descriptor, and one line here.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "io/format.h"

namespace zither::io {

std::span<const std::reference_wrapper<const Format>> formats() {
    static const std::reference_wrapper<const Format> all[] = {
        threeMf, plyBinaryLittle, plyBinaryBig, plyAscii, off, stlAscii, obj, stlBinary,
    };
    return all;
}

std::vector<const Format*> writableFormats() {
    std::vector<const Format*> writable;
    for (const Format& f : formats())
        if (!f.written.empty()) writable.push_back(&f);
    // From Z to A, which puts STL first: most programs take it.
    std::stable_sort(writable.begin(), writable.end(), [](const Format* a, const Format* b) {
        return a->title != b->title ? a->title > b->title : a->extension > b->extension;
    });
    return writable;
}

std::string_view extensionOf(const Format& format) {
    for (const Format& f : formats())
        if (f.title == format.title && !f.extension.empty()) return f.extension;
    return format.extension;
}

std::string formatTitles(std::string_view last) {
    std::vector<std::string_view> titles;
    for (const Format& f : formats())
        if (std::find(titles.begin(), titles.end(), f.title) == titles.end()) titles.push_back(f.title);
    const std::string_view end = titles.back();
    titles.pop_back();
    return fmt::format("{} {} {}", fmt::join(titles, ", "), last, end);
}

void Surface::doesNotKeep(std::string_view what) {
    if (std::find(notKept.begin(), notKept.end(), what) == notKept.end()) notKept.emplace_back(what);
}

}  // namespace zither::io
