// Patches made at one stroke, without search: between two stretches of the rim, and the fan about its middle.
#include "holes/patches.h"

namespace zither::holes {
namespace {

using mesh::Point;
using mesh::VertexId;

double distance(const std::vector<Point>& positions, VertexId a, VertexId b) {
    return (positions[a] - positions[b]).norm();
}

}  // namespace

Patch ruledPatch(const std::vector<Point>& positions, const Loop& loop) {
    const std::size_t n = loop.vertices.size();
    // From any vertex to the farthest, and from there to the farthest: an end of the hole and nearly the other one.
    const auto farthestFrom = [&](std::size_t i) {
        std::size_t best = i;
        for (std::size_t j = 0; j < n; ++j)
            if (distance(positions, loop.vertices[i], loop.vertices[j]) >
                distance(positions, loop.vertices[i], loop.vertices[best]))
                best = j;
        return best;
    };
    const std::size_t start = farthestFrom(0);
    const std::size_t end = farthestFrom(start);
    const auto at = [&](std::size_t i) { return loop.vertices[i % n]; };
    // One stretch runs on from the start, the other one back from it; both reach the end.
    const std::size_t forward = (end + n - start) % n;
    const std::size_t backward = n - forward;
    if (forward == 0 || backward == 0) return {};
    Patch patch;
    std::size_t i = 1;
    std::size_t j = 1;
    patch.triangles.push_back({at(start), at(start + 1), at(start + n - 1)});
    for (;;) {
        const VertexId a = at(start + i);
        const VertexId b = at(start + n - j);
        const bool canForward = i < forward && !(i + 1 == forward && j == backward);
        const bool canBackward = j < backward && !(j + 1 == backward && i == forward);
        if (!canForward && !canBackward) break;
        const bool takeForward = canForward && (!canBackward || distance(positions, at(start + i + 1), b) <=
                                                                    distance(positions, a, at(start + n - j - 1)));
        if (takeForward)
            patch.triangles.push_back({a, at(start + ++i), b});
        else
            patch.triangles.push_back({a, at(start + n - ++j), b});
    }
    for (mesh::Triangle& t : patch.triangles)
        if (mesh::isCollapsed(t)) return {};
    return patch;
}

Patch fanPatch(const std::vector<Point>& positions, const Loop& loop) {
    Point centre = Point::Zero();
    const std::size_t n = loop.vertices.size();
    for (VertexId v : loop.vertices) centre += positions[v] / static_cast<double>(n);
    Patch fan;
    fan.added.push_back(centre);
    for (std::size_t i = 0; i < n; ++i)
        fan.triangles.push_back(
            {loop.vertices[i], loop.vertices[(i + 1) % n], static_cast<VertexId>(positions.size())});
    return fan;
}

}  // namespace zither::holes
