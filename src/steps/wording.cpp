// Counts, places and lengths as sentences use them.
#include <fmt/format.h>

#include "steps/steps_list.h"

namespace zither::steps {

std::string counted(std::size_t count, std::string_view noun, std::string_view plural) {
    if (count == 1) return fmt::format("1 {}", noun);
    return plural.empty() ? fmt::format("{} {}s", count, noun) : fmt::format("{} {}", count, plural);
}

std::string placeText(const mesh::Point& p) {
    return fmt::format("({:.4g}, {:.4g}, {:.4g})", p.x(), p.y(), p.z());
}

std::string lengthText(double length) {
    return fmt::format("{:.3g}", length);
}

void listUnsettled(const std::vector<mesh::Point>& places, Record& record) {
    for (const mesh::Point& p : places)
        record.listed.push_back({Listed::Left, p, 0, "Not settled at " + placeText(p) + "."});
}

Outcome<std::optional<mesh::Point>> directionAsked(std::string_view step, const Arguments& a, std::string_view name) {
    const std::string& text = a.find(name)->second.text;
    if (text.empty()) return std::nullopt;
    const auto direction = placeFromText(text);
    if (!direction) return tl::unexpected(direction.error());
    if (!(direction->norm() > 0))
        return mesh::badInput(fmt::format("step '{}': {} must not be 0,0,0", step, name),
                              mesh::errorcode::badParameter);
    return direction->normalized();
}

Outcome<StepOutput> leftBecause(const mesh::Error& why, const Mesh& m) {
    if (why.cancelled()) return tl::unexpected(why);
    Record record;
    record.say(fmt::format("Nothing was done: {}.", why.message));
    return StepOutput{m, std::move(record)};
}

}  // namespace zither::steps
