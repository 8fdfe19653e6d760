// Rings of triangles that share a corner.
#include "mesh/pick.h"

namespace zither::mesh {
namespace {

// One flag a vertex: a triangle with that flag uses it.
std::vector<std::uint8_t> cornersWith(const Mesh& m, const std::vector<std::uint8_t>& flags, std::uint8_t flag) {
    std::vector<std::uint8_t> used(m.positions.size(), 0);
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if (flags[t] == flag)
            for (VertexId v : m.triangles[t]) used[v] = 1;
    return used;
}

// Sets every flag at the rim of those that have it to `flag`. Whether there was any to set.
bool spreadByRing(const Mesh& m, std::vector<std::uint8_t>& flags, std::uint8_t flag) {
    bool any = false;
    const std::vector<std::uint8_t> used = cornersWith(m, flags, flag);
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        for (VertexId v : m.triangles[t])
            if (used[v] && flags[t] != flag) {
                flags[t] = flag;
                any = true;
            }
    return any;
}

Pick spread(const Mesh& m, const Pick& pick, unsigned rings, std::uint8_t flag) {
    if (pick.everything()) return pick;
    std::vector<std::uint8_t> flags = pick.mask(m);
    // Where nothing is reached any more, further rings reach nothing either.
    for (unsigned ring = 0; ring < rings && spreadByRing(m, flags, flag); ++ring) {
    }
    std::vector<TriangleId> triangles;
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if (flags[t]) triangles.push_back(t);
    return Pick(std::move(triangles));
}

}  // namespace

std::vector<std::uint8_t> cornersOf(const Mesh& m, const std::vector<std::uint8_t>& flags) {
    return cornersWith(m, flags, 1);
}

void growByRing(const Mesh& m, std::vector<std::uint8_t>& flags) {
    spreadByRing(m, flags, 1);
}

Pick grown(const Mesh& m, const Pick& pick, unsigned rings) {
    return spread(m, pick, rings, 1);
}

Pick shrunk(const Mesh& m, const Pick& pick, unsigned rings) {
    return spread(m, pick, rings, 0);
}

}  // namespace zither::mesh
