// What a surface has more of than another: so that no step makes a count worse without a word.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "check/survey.h"

namespace zither::check {

struct Worse {
    std::string_view key;    // of the count
    std::string_view title;  // for people, of several
    std::uint64_t was = 0;
    std::uint64_t is = 0;
};

// Of the counts of defects (not of triangles, vertices or shells), in their order.
std::vector<Worse> worseCounts(const Counts& was, const Counts& is);

// "More than before: open edges 3 -> 12, holes 1 -> 2.", and that it was solid; empty where nothing is worse.
std::string worseText(const Survey& was, const Survey& is);

}  // namespace zither::check
