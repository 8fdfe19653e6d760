// The keys of the counts with words for people.
#include "check/worse.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace zither::check {

std::vector<Worse> worseCounts(const Counts& was, const Counts& is) {
    struct Told {
        std::string_view title;
        std::uint64_t Counts::*member;
    };
    static constexpr Told told[] = {
        {"collapsed triangles", &Counts::collapsedTriangles},
        {"degenerate triangles", &Counts::degenerateTriangles},
        {"duplicate triangles", &Counts::duplicateTriangles},
        {"open edges", &Counts::boundaryEdges},
        {"holes", &Counts::holes},
        {"non-manifold edges", &Counts::nonmanifoldEdges},
        {"non-manifold vertices", &Counts::nonmanifoldVertices},
        {"edges whose sides disagree", &Counts::misorientedEdges},
        {"inward shells", &Counts::inwardShells},
        {"pairs of triangles that meet", &Counts::selfIntersectingPairs},
        {"needles", &Counts::needles},
    };
    std::vector<Worse> worse;
    for (const CountKey& key : countKeys)
        for (const Told& t : told)
            if (t.member == key.member && is.*t.member > was.*t.member)
                worse.push_back({key.key, t.title, was.*t.member, is.*t.member});
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
