// Boost's maximum flow; whole numbers, so that equal costs are equal.
#include "enclose/minimum_cut.h"

#include <algorithm>
#include <boost/graph/adjacency_list.hpp>
#include <boost/graph/boykov_kolmogorov_max_flow.hpp>
#include <cmath>

namespace zither::enclose {
namespace {

using Capacity = std::int64_t;
using Traits = boost::adjacency_list_traits<boost::vecS, boost::vecS, boost::directedS>;
struct Node {
    boost::default_color_type colour = boost::white_color;
    long distance = 0;
    Traits::edge_descriptor predecessor;
};
struct Arc {
    Capacity capacity = 0;
    Capacity residual = 0;
    Traits::edge_descriptor reverse;
};
using Graph = boost::adjacency_list<boost::vecS, boost::vecS, boost::directedS, Node, Arc>;

void connect(Graph& g, std::size_t from, std::size_t to, Capacity there, Capacity back) {
    if (there == 0 && back == 0) return;
    const auto forward = boost::add_edge(from, to, Arc{there, 0, {}}, g).first;
    const auto backward = boost::add_edge(to, from, Arc{back, 0, {}}, g).first;
    g[forward].reverse = backward;
    g[backward].reverse = forward;
}

}  // namespace

std::vector<std::uint8_t> minimumCut(const std::vector<CutNode>& nodes, const std::vector<CutEdge>& edges) {
    double most = 0;
    for (const CutNode& n : nodes) most = std::max({most, n.full, n.empty});
    for (const CutEdge& e : edges) most = std::max({most, e.aFull, e.bFull});
    // Fine enough that a sum of many small costs is not lost beside a large one; a power of two, so that sums that are
    // equal stay equal.
    const double unit = most > 0 ? std::ldexp(1, 40 - std::ilogb(most)) : 1;
    const auto whole = [&](double cost) { return static_cast<Capacity>(std::llround(cost * unit)); };
    Graph g(nodes.size() + 2);
    const std::size_t source = nodes.size();
    const std::size_t sink = nodes.size() + 1;
    for (std::size_t i = 0; i < nodes.size(); ++i) {
        // What both cost is paid anyway.
        const Capacity full = whole(nodes[i].full);
        const Capacity empty = whole(nodes[i].empty);
        const Capacity both = std::min(full, empty);
        connect(g, source, i, empty - both, 0);
        connect(g, i, sink, full - both, 0);
    }
    for (const CutEdge& e : edges) connect(g, e.a, e.b, whole(e.aFull), whole(e.bFull));
    boost::boykov_kolmogorov_max_flow(g, boost::get(&Arc::capacity, g), boost::get(&Arc::residual, g),
                                      boost::get(&Arc::reverse, g), boost::get(&Node::predecessor, g),
                                      boost::get(&Node::colour, g), boost::get(&Node::distance, g),
                                      boost::get(boost::vertex_index, g), source, sink);
    std::vector<std::uint8_t> full(nodes.size());
    for (std::size_t i = 0; i < nodes.size(); ++i) full[i] = g[i].colour == g[source].colour;
    return full;
}

}  // namespace zither::enclose
