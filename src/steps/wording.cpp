// Counts, places and lengths as sentences use them.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "steps/all_steps.h"

namespace zither::steps {

std::string counted(std::size_t count, std::string_view noun, std::string_view plural) {
    if (count == 1) return fmt::format("1 {}", noun);
    return plural.empty() ? fmt::format("{} {}s", count, noun) : fmt::format("{} {}", count, plural);
}

std::string onlyThere(std::initializer_list<CountedWords> all, std::string_view between) {
    std::string said;
    for (const auto& [count, words] : all)
        if (count > 0) said += (said.empty() ? "" : std::string(between)) + words;
    return said;
}

std::string tiedInWords(const check::Counts& c) {
    return onlyThere(
        {{c.nonmanifoldEdges,
          counted(c.nonmanifoldEdges, "edge has more than two triangles", "edges have more than two triangles")},
         {c.nonmanifoldVertices, counted(c.nonmanifoldVertices, "vertex is pinched", "vertices are pinched")}},
        ", ");
}

std::string lengthText(double length) {
    return fmt::format("{:.3g}", length);
}

void listUnsettled(const std::vector<mesh::Point>& places, Record& record) {
    for (const mesh::Point& p : places)
        record.listed.push_back({Listed::Left, p, 0, "Not settled at " + placeText(p) + "."});
}

Outcome<std::optional<mesh::Point>> directionAsked(std::string_view step, const Arguments& a, const Place& which) {
    const std::optional<mesh::Point> direction = a[which];
    if (!direction) return std::nullopt;
    if (!(direction->norm() > 0))
        return mesh::badInput(fmt::format("step '{}': {} must not be 0,0,0", step, which.name),
                              mesh::errorcode::badParameter);
    return direction->normalized();
}

std::string workText(double triangles) {
    constexpr double secondsATriangle = 55e-6;
    const double seconds = secondsATriangle * triangles;
    const std::string count = triangles < 1e6
                                  ? fmt::format("{:.0f} thousand", std::max(1.0, std::round(triangles / 1e3)))
                                  : fmt::format("{:.3g} million", triangles / 1e6);
    const double tens = std::ceil(seconds / 10) * 10;
    const std::string time = seconds < 3    ? "in a moment"
                             : seconds < 90 ? fmt::format("in some {:.0f} seconds", tens)
                                            : fmt::format("in some {:.0f} minutes", std::ceil(seconds / 60));
    return fmt::format("About {} triangles, {}.", count, time);
}

Outcome<StepOutput> leftBecause(const mesh::Error& why, const Mesh& m) {
    if (why.cancelled()) return tl::unexpected(why);
    Record record;
    record.say(fmt::format("Nothing was done: {}.", why.message));
    return StepOutput{m, std::move(record)};
}

}  // namespace zither::steps
