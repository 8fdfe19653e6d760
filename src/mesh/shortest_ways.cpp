// The caller's vertices and legs as a graph that is seen one vertex at a time; vertices get numbers as they are met.
#include "mesh/shortest_ways.h"

#include <algorithm>
#include <boost/graph/dijkstra_shortest_paths.hpp>
#include <limits>
#include <utility>

namespace zither::mesh {

namespace {

constexpr double notReached = std::numeric_limits<double>::infinity();

// How far, and the vertex: of equal lengths the lower vertex comes first.
using Far = std::pair<double, std::uint32_t>;

}  // namespace

class WayGraph {
public:
    struct Edge {
        std::uint32_t from = ShortestWays::none;
        std::uint32_t to = ShortestWays::none;
        double length = 0;
        std::uint32_t via = ShortestWays::none;
        friend bool operator==(const Edge&, const Edge&) = default;
    };
    using vertex_descriptor = std::uint32_t;
    using edge_descriptor = Edge;
    using out_edge_iterator = std::vector<Edge>::const_iterator;
    using degree_size_type = std::size_t;
    using directed_category = boost::directed_tag;
    using edge_parallel_category = boost::allow_parallel_edge_tag;
    using traversal_category = boost::incidence_graph_tag;

    WayGraph(ShortestWays& ways, const ShortestWays::Leaving& leaving) : ways_(&ways), leaving_(&leaving) {}

    [[nodiscard]] std::uint32_t numbered(std::uint32_t v) const { return ways_->numbered(v); }
    [[nodiscard]] ShortestWays::Reached& reached(std::uint32_t v) const { return ways_->reached_[numbered(v)]; }

    friend std::uint32_t source(const Edge& e, const WayGraph&) { return e.from; }
    friend std::uint32_t target(const Edge& e, const WayGraph&) { return e.to; }
    friend std::pair<out_edge_iterator, out_edge_iterator> out_edges(std::uint32_t v, const WayGraph& g) {
        return {g.edgesFrom(v).begin(), g.edges_.end()};
    }
    friend std::size_t out_degree(std::uint32_t v, const WayGraph& g) { return g.edgesFrom(v).size(); }

private:
    // Holds until the next vertex is asked.
    [[nodiscard]] const std::vector<Edge>& edgesFrom(std::uint32_t v) const {
        legs_.clear();
        edges_.clear();
        (*leaving_)(v, reached(v).away, legs_);
        for (const ShortestWays::Leg& leg : legs_) edges_.push_back({v, leg.to, leg.length, leg.via});
        return edges_;
    }

    ShortestWays* ways_;
    const ShortestWays::Leaving* leaving_;
    mutable std::vector<ShortestWays::Leg> legs_;
    mutable std::vector<Edge> edges_;
};

namespace {

// The maps that the algorithm reads and writes.
struct NumberMap {
    using key_type = std::uint32_t;
    using value_type = std::size_t;
    using reference = std::size_t;
    using category = boost::readable_property_map_tag;
    const WayGraph* graph;
    friend std::size_t get(const NumberMap& map, std::uint32_t v) { return map.graph->numbered(v); }
};
struct FarMap {
    using key_type = std::uint32_t;
    using value_type = Far;
    using reference = Far;
    using category = boost::read_write_property_map_tag;
    const WayGraph* graph;
    friend Far get(const FarMap& map, std::uint32_t v) { return {map.graph->reached(v).away, v}; }
    friend void put(const FarMap& map, std::uint32_t v, const Far& far) { map.graph->reached(v).away = far.first; }
};
struct LengthMap {
    using key_type = WayGraph::Edge;
    using value_type = Far;
    using reference = Far;
    using category = boost::readable_property_map_tag;
    friend Far get(const LengthMap&, const WayGraph::Edge& e) { return {e.length, e.to}; }
};

struct Arrived {};

struct Noting : boost::dijkstra_visitor<> {
    Noting(const WayGraph& seen, std::optional<std::uint32_t> last) : graph(&seen), until(last) {}
    void edge_relaxed(const WayGraph::Edge& e, const WayGraph&) const {
        ShortestWays::Reached& there = graph->reached(e.to);
        there.from = e.from;
        there.via = e.via;
        there.start = graph->reached(e.from).start;
    }
    void examine_vertex(std::uint32_t v, const WayGraph&) const {
        if (v == until) throw Arrived();  // the way that Boost.Graph has for ending early
    }
    const WayGraph* graph;
    std::optional<std::uint32_t> until;
};

}  // namespace

ShortestWays::ShortestWays(std::size_t vertexCount, std::span<const Start> starts, const Leaving& leaving,
                           std::optional<std::uint32_t> until)
    : many_(starts.size() > vertexCount / 16) {
    if (many_) reached_.assign(vertexCount, {notReached});
    std::vector<std::uint32_t> from;
    for (const Start& start : starts) {
        const std::uint32_t number = numbered(start.vertex);
        reached_[number].away = start.away;
        reached_[number].start = start.vertex;
        from.push_back(start.vertex);
    }
    const WayGraph graph(*this, leaving);
    const auto longer = [](const Far& far, const Far& leg) { return Far(far.first + leg.first, leg.second); };
    try {
        boost::dijkstra_shortest_paths_no_init(graph, from.begin(), from.end(), boost::dummy_property_map(),
                                               FarMap{&graph}, LengthMap(), NumberMap{&graph}, std::less<Far>(), longer,
                                               Far(0, 0), Noting(graph, until));
    } catch (const Arrived&) {
    }
}

std::uint32_t ShortestWays::numberOf(std::uint32_t vertex) const {
    if (many_) return vertex;
    const auto found = numbers_.find(vertex);
    return found == numbers_.end() ? none : found->second;
}

std::uint32_t ShortestWays::numbered(std::uint32_t vertex) {
    if (many_) return vertex;
    const auto [at, fresh] = numbers_.try_emplace(vertex, static_cast<std::uint32_t>(reached_.size()));
    if (fresh) reached_.push_back({notReached});
    return at->second;
}

const ShortestWays::Reached* ShortestWays::at(std::uint32_t vertex) const {
    const std::uint32_t number = numberOf(vertex);
    return number == none || !(reached_[number].away < notReached) ? nullptr : &reached_[number];
}

std::vector<std::uint32_t> ShortestWays::viasTo(std::uint32_t vertex) const {
    std::vector<std::uint32_t> vias;
    for (const Reached* here = at(vertex); here && here->from != none; here = at(here->from)) vias.push_back(here->via);
    std::reverse(vias.begin(), vias.end());
    return vias;
}

}  // namespace zither::mesh
