// Counting by slow and obvious code: maps and sets, one rule of definitions.md after another.
#include <algorithm>
#include <array>
#include <functional>
#include <map>
#include <set>

#include "demo/rig.h"

namespace rig {
namespace {

using Vertex = std::array<double, 3>;
using Edge = std::pair<int, int>;

struct Indexed {
    std::map<Vertex, int> vertices;
    std::vector<std::array<int, 3>> triangles;
};

Indexed indexed(const Soup& soup) {
    Indexed m;
    for (const auto& t : soup.triangles) {
        std::array<int, 3> ids{};
        for (std::size_t k = 0; k < 3; ++k) {
            const Point p = rounded(t[k]) + Point::Zero();
            ids[k] = m.vertices.emplace(Vertex{p.x(), p.y(), p.z()}, static_cast<int>(m.vertices.size())).first->second;
        }
        m.triangles.push_back(ids);
    }
    return m;
}

// Number of groups of the items under the links.
template <class Item>
std::size_t groups(const std::set<Item>& items, const std::map<Item, std::set<Item>>& links) {
    std::set<Item> seen;
    std::size_t count = 0;
    for (const Item& start : items) {
        if (!seen.insert(start).second) continue;
        ++count;
        std::vector<Item> open{start};
        while (!open.empty()) {
            const Item at = open.back();
            open.pop_back();
            if (const auto it = links.find(at); it != links.end())
                for (const Item& next : it->second)
                    if (seen.insert(next).second) open.push_back(next);
        }
    }
    return count;
}

// Exact for the rig: its flat triangles have a corner that is the rounded middle of an axis-parallel or 45 degree edge.
bool flat(const std::array<Point, 3>& t) {
    const Eigen::Matrix<long double, 3, 1> a = (t[1].cast<long double>() - t[0].cast<long double>());
    const Eigen::Matrix<long double, 3, 1> b = (t[2].cast<long double>() - t[0].cast<long double>());
    return a.y() * b.z() == a.z() * b.y() && a.z() * b.x() == a.x() * b.z() && a.x() * b.y() == a.y() * b.x();
}

}  // namespace

nlohmann::ordered_json slowCounts(const Soup& soup) {
    const Indexed m = indexed(soup);
    std::size_t collapsed = 0;
    std::size_t degenerate = 0;
    std::size_t duplicates = 0;
    std::map<Edge, std::vector<std::pair<int, bool>>> edges;  // triangles, and whether they run from low to high
    std::set<std::array<int, 3>> seen;
    std::set<int> sound;
    for (int t = 0; t < static_cast<int>(m.triangles.size()); ++t) {
        const auto& tri = m.triangles[static_cast<std::size_t>(t)];
        const bool isCollapsed = tri[0] == tri[1] || tri[1] == tri[2] || tri[2] == tri[0];
        degenerate += isCollapsed || flat(soup.triangles[static_cast<std::size_t>(t)]);
        collapsed += isCollapsed;
        if (isCollapsed) continue;
        sound.insert(t);
        auto sorted = tri;
        std::sort(sorted.begin(), sorted.end());
        duplicates += !seen.insert(sorted).second;
        for (std::size_t k = 0; k < 3; ++k) {
            const int a = tri[k];
            const int b = tri[(k + 1) % 3];
            edges[std::minmax(a, b)].emplace_back(t, a < b);
        }
    }
    std::size_t boundary = 0;
    std::size_t nonmanifold = 0;
    std::size_t misoriented = 0;
    std::set<int> rimVertices;
    std::map<int, std::set<int>> rimLinks;
    std::map<int, std::set<int>> shellLinks;
    std::map<int, std::map<int, std::set<int>>> fanLinks;  // at each vertex, triangles linked over edges there
    for (const auto& [edge, around] : edges) {
        if (around.size() == 1) {
            ++boundary;
            rimVertices.insert({edge.first, edge.second});
            rimLinks[edge.first].insert(edge.second);
            rimLinks[edge.second].insert(edge.first);
        }
        nonmanifold += around.size() > 2;
        misoriented += around.size() == 2 && around[0].second == around[1].second;
        for (const auto& [t, dir] : around)
            for (const auto& [other, otherDir] : around) {
                shellLinks[t].insert(other);
                fanLinks[edge.first][t].insert(other);
                fanLinks[edge.second][t].insert(other);
            }
    }
    std::size_t nonmanifoldVertices = 0;
    for (const auto& [v, links] : fanLinks) {
        std::set<int> here;
        for (const auto& [t, others] : links) here.insert(t);
        nonmanifoldVertices += groups(here, links) > 1;
    }
    return {{"triangles", m.triangles.size()},
            {"vertices", m.vertices.size()},
            {"collapsed_triangles", collapsed},
            {"degenerate_triangles", degenerate},
            {"duplicate_triangles", duplicates},
            {"boundary_edges", boundary},
            {"holes", groups(rimVertices, rimLinks)},
            {"nonmanifold_edges", nonmanifold},
            {"nonmanifold_vertices", nonmanifoldVertices},
            {"misoriented_edges", misoriented},
            {"shells", groups(sound, shellLinks)}};
}

}  // namespace rig
