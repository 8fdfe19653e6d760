// Shortest ways from some vertices to others (Dijkstra 1959), through Boost.Graph.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <unordered_map>
#include <vector>

namespace zither::mesh {

// Vertices are whatever the caller numbers, below `vertexCount`. Of ways of equal length the one that is found first
// stays, and of vertices equally far the lower one goes on first: the same input gives the same ways.
class ShortestWays {
public:
    static constexpr std::uint32_t none = static_cast<std::uint32_t>(-1);

    struct Start {
        std::uint32_t vertex;
        double away = 0;  // what its own way counts already
    };
    // From a vertex to another; `via` is the caller's name for it. `length` is no less than 0.
    struct Leg {
        std::uint32_t to;
        double length;
        std::uint32_t via = none;
    };
    // Appends the legs that leave a vertex, which is `away` from its start.
    using Leaving = std::function<void(std::uint32_t vertex, double away, std::vector<Leg>& legs)>;

    struct Reached {
        double away;
        std::uint32_t from = none;  // the vertex before; none at a start
        std::uint32_t via = none;
        std::uint32_t start = none;  // where the way begins
    };

    // Goes on until `until` is reached, if it is given, or until no leg leads farther.
    ShortestWays(std::size_t vertexCount, std::span<const Start> starts, const Leaving& leaving,
                 std::optional<std::uint32_t> until = {});

    // nullptr: no way leads there.
    [[nodiscard]] const Reached* at(std::uint32_t vertex) const;
    // The names of the legs on the way to a vertex, from the start on; empty where no way leads there.
    [[nodiscard]] std::vector<std::uint32_t> viasTo(std::uint32_t vertex) const;

private:
    friend class WayGraph;
    [[nodiscard]] std::uint32_t numberOf(std::uint32_t vertex) const;
    [[nodiscard]] std::uint32_t numbered(std::uint32_t vertex);

    bool many_;  // of the vertices may be reached: each has a place of its own
    std::unordered_map<std::uint32_t, std::uint32_t> numbers_;
    std::vector<Reached> reached_;
};

}  // namespace zither::mesh
