// The parser keeps the last of two equal keys without a word; they are looked for as it reads.
#include "steps/json_text.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>
#include <vector>

#include "steps/words.h"

namespace zither::steps {

using mesh::badInput;

mesh::Outcome<Json> jsonFromText(const std::string& bytes, const std::string& file) {
    std::vector<std::set<std::string>> keys;  // of each object that is open
    std::string twice;
    const auto mindKeys = [&](int, Json::parse_event_t event, Json& parsed) {
        if (event == Json::parse_event_t::object_start) keys.emplace_back();
        if (event == Json::parse_event_t::key && !keys.back().insert(parsed.get<std::string>()).second && twice.empty())
            twice = parsed.get<std::string>();
        if (event == Json::parse_event_t::object_end) keys.pop_back();
        return true;
    };
    try {
        Json json = Json::parse(bytes, mindKeys);
        if (twice.empty()) return json;
    } catch (const Json::parse_error& error) {
        const std::string_view read(bytes.data(), std::min(error.byte, bytes.size()));
        const auto line = 1 + std::count(read.begin(), read.end(), '\n');
        const std::size_t start = read.rfind('\n');
        const std::size_t column = start == std::string_view::npos ? read.size() : read.size() - start - 1;
        return badInput(fmt::format("{}: no JSON: line {}, column {} is not what can stand there", file, line, column),
                        mesh::errorcode::badParameter, file);
    }
    return badInput(fmt::format("{}: an object has the key \"{}\" twice: one of them would be lost", file, twice),
                    mesh::errorcode::badParameter, file);
}

mesh::Outcome<void> checkKeys(const Json& object, std::span<const std::string_view> known, const std::string& where) {
    for (const auto& [key, value] : object.items())
        if (std::find(known.begin(), known.end(), key) == known.end())
            return badInput(fmt::format("{}: there is no key \"{}\" here{}; there are: {}", where, key,
                                        didYouMean(key, known), listed(known)),
                            mesh::errorcode::badParameter, where);
    return {};
}

}  // namespace zither::steps
