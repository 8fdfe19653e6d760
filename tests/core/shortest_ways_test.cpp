// Shortest ways against all ways tried, on small random graphs with many equal lengths.
#include "mesh/shortest_ways.h"

#include <gtest/gtest.h>

#include <limits>
#include <random>

namespace zither::tests {
namespace {

using mesh::ShortestWays;

struct Graph {
    std::uint32_t vertices;
    std::vector<std::vector<ShortestWays::Leg>> legs;
};

Graph randomGraph(std::mt19937& random, std::uint32_t vertices) {
    std::uniform_int_distribution<std::uint32_t> vertex(0, vertices - 1);
    std::uniform_int_distribution<int> length(0, 3);
    Graph g{vertices, std::vector<std::vector<ShortestWays::Leg>>(vertices)};
    for (std::uint32_t i = 0; i < 2 * vertices; ++i)
        g.legs[vertex(random)].push_back({vertex(random), static_cast<double>(length(random)), i});
    return g;
}

// Every leg, until nothing gets shorter.
std::vector<double> slowly(const Graph& g, const std::vector<ShortestWays::Start>& starts, double most) {
    std::vector<double> away(g.vertices, std::numeric_limits<double>::infinity());
    for (const auto& start : starts) away[start.vertex] = start.away;
    for (bool any = true; any;) {
        any = false;
        for (std::uint32_t v = 0; v < g.vertices; ++v)
            for (const auto& leg : g.legs[v])
                if (away[v] + leg.length <= most && away[v] + leg.length < away[leg.to]) {
                    away[leg.to] = away[v] + leg.length;
                    any = true;
                }
    }
    return away;
}

TEST(ShortestWays, AreTheShortestOfAll) {
    std::mt19937 random(3);
    int farther = 0;
    for (int round = 0; round < 300; ++round) {
        const std::uint32_t count = 2 + round % 60;
        const Graph g = randomGraph(random, count);
        std::vector<ShortestWays::Start> starts;
        for (int s = 0; s <= round % 4; ++s)
            starts.push_back({static_cast<std::uint32_t>(s) * (count - 1) / 4, 0.5 * (s % 3)});
        if (count < 8) starts.resize(1);
        const double most = 2 + round % 5;
        const auto expected = slowly(g, starts, most);
        const ShortestWays ways(count, starts, [&](std::uint32_t v, double away, std::vector<ShortestWays::Leg>& out) {
            for (const auto& leg : g.legs[v])
                if (away + leg.length <= most) out.push_back(leg);
        });
        for (std::uint32_t v = 0; v < count; ++v) {
            const auto* there = ways.at(v);
            ASSERT_EQ(there != nullptr, expected[v] < std::numeric_limits<double>::infinity()) << round << " " << v;
            if (!there) continue;
            ASSERT_EQ(there->away, expected[v]) << round << " " << v;
            // The legs by name lead from a start to it and are as long as was said.
            const auto vias = ways.viasTo(v);
            farther += vias.size() > 2;
            double length = 0;
            std::uint32_t at = ShortestWays::none;
            for (const std::uint32_t via : vias)
                for (std::uint32_t from = 0; from < count; ++from)
                    for (const auto& leg : g.legs[from])
                        if (leg.via == via) {
                            if (at == ShortestWays::none)
                                length = ways.at(from)->away;
                            else
                                ASSERT_EQ(at, from);
                            length += leg.length;
                            at = leg.to;
                        }
            if (!vias.empty()) {
                ASSERT_EQ(at, v);
                ASSERT_EQ(length, there->away);
            }
        }
    }
    EXPECT_GT(farther, 100);
}

// A row of vertices, one apart.
void alongRow(std::uint32_t v, std::uint32_t count, std::vector<ShortestWays::Leg>& out) {
    if (v > 0) out.push_back({v - 1, 1, v - 1});
    if (v + 1 < count) out.push_back({v + 1, 1, v});
}

TEST(ShortestWays, EndWhereTheyWereToLead) {
    constexpr std::uint32_t count = 1000;
    std::size_t asked = 0;
    const ShortestWays::Start start{500};
    const ShortestWays ways(
        count, std::span(&start, 1),
        [&](std::uint32_t v, double, std::vector<ShortestWays::Leg>& out) {
            ++asked;
            alongRow(v, count, out);
        },
        504);
    EXPECT_EQ(ways.viasTo(504), (std::vector<std::uint32_t>{500, 501, 502, 503}));
    EXPECT_TRUE(ways.viasTo(500).empty());
    EXPECT_LE(asked, 9U);
    EXPECT_EQ(ways.at(900), nullptr);
    EXPECT_TRUE(ways.viasTo(900).empty());
}

// Of two ways of equal length the lower vertex goes on first.
TEST(ShortestWays, AreTheSameForEqualLengths) {
    const ShortestWays::Start start{0};
    const ShortestWays ways(100, std::span(&start, 1),
                            [](std::uint32_t v, double, std::vector<ShortestWays::Leg>& out) {
                                if (v == 0) out = {{7, 1, 70}, {3, 1, 30}};
                                if (v == 7) out = {{9, 1, 79}};
                                if (v == 3) out = {{9, 1, 39}};
                            });
    EXPECT_EQ(ways.viasTo(9), (std::vector<std::uint32_t>{30, 39}));
}

}  // namespace
}  // namespace zither::tests
