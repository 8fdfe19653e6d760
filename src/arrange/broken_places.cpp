// Grows by rings, then gathers what hangs together.
#include "arrange/broken_places.h"

#include <algorithm>
#include <set>

namespace zither::arrange {

using mesh::TriangleId;
using mesh::VertexId;

BrokenPlaces::BrokenPlaces(const mesh::Mesh& m, const std::vector<TriangleId>& region,
                           const std::vector<check::TrianglePair>& crossing)
    : m_(m) {
    for (const auto& [a, b] : crossing) {
        crossed_[a].push_back(b);
        crossed_[b].push_back(a);
    }
    for (const TriangleId t : region)
        for (const VertexId v : m.triangles[t]) at_[v].push_back(t);
}

std::vector<std::vector<TriangleId>> BrokenPlaces::around(const std::vector<TriangleId>& broken, int rings) const {
    std::set<TriangleId> all(broken.begin(), broken.end());
    std::vector<TriangleId> frontier(broken);
    for (int ring = 0; ring < rings; ++ring) {
        std::vector<TriangleId> next;
        for (const TriangleId t : frontier)
            for (const VertexId v : m_.triangles[t])
                for (const TriangleId o : at_.at(v))
                    if (all.insert(o).second) next.push_back(o);
        frontier = std::move(next);
    }
    std::vector<std::vector<TriangleId>> places;
    std::set<TriangleId> done;
    for (const TriangleId seed : all) {
        if (!done.insert(seed).second) continue;
        std::vector<TriangleId> place{seed};
        const auto add = [&](TriangleId o) {
            if (all.contains(o) && done.insert(o).second) place.push_back(o);
        };
        for (std::size_t i = 0; i < place.size(); ++i) {
            for (const VertexId v : m_.triangles[place[i]])
                for (const TriangleId o : at_.at(v)) add(o);
            if (const auto crossed = crossed_.find(place[i]); crossed != crossed_.end())
                for (const TriangleId o : crossed->second) add(o);
        }
        std::sort(place.begin(), place.end());
        places.push_back(std::move(place));
    }
    return places;
}

}  // namespace zither::arrange
