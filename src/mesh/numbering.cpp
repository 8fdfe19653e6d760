// Steps from each triangle to the next, sampled by their first corners, tell how it lies.
#include "mesh/numbering.h"

#include "mesh/hilbert.h"
#include "mesh/parallel.h"

namespace zither::mesh {
namespace {

// What fits a cache is quick in any order.
constexpr std::size_t large = 100'000;
// A step to the next triangle is far where it is longer than this share of the whole.
constexpr double farShare = 0.05;
// Many are, where it is more than one in so many.
constexpr std::size_t oneIn = 4;

bool manyAreFar(std::size_t steps, const auto& isFar) {
    const std::size_t farSteps = parallelBlocks(
        steps, std::size_t{0},
        [&](std::size_t begin, std::size_t end) {
            std::size_t count = 0;
            for (std::size_t i = begin; i < end; ++i) count += isFar(i) ? 1 : 0;
            return count;
        },
        [](std::size_t a, std::size_t b) { return a + b; });
    return oneIn * farSteps > steps;
}

void numberTriangles(Mesh& m) {
    const std::vector<TriangleId> order = hilbertOrder(m);
    std::vector<Triangle> triangles(order.size());
    std::vector<std::uint32_t> regions(m.regions.size());
    parallelFor(order.size(), 16384, [&](std::size_t i) {
        triangles[i] = m.triangles[order[i]];
        if (!regions.empty()) regions[i] = m.regions[order[i]];
    });
    m.triangles = std::move(triangles);
    m.regions = std::move(regions);
}

void numberVertices(Mesh& m) {
    std::vector<VertexId> numberOf(m.positions.size(), noIndex);
    std::vector<Point> positions;
    positions.reserve(m.positions.size());
    for (Triangle& t : m.triangles)
        for (VertexId& v : t) {
            if (numberOf[v] == noIndex) {
                numberOf[v] = static_cast<VertexId>(positions.size());
                positions.push_back(m.positions[v]);
            }
            v = numberOf[v];
        }
    m.positions = std::move(positions);
}

}  // namespace

bool isScattered(const Mesh& m) {
    const std::size_t count = m.triangles.size();
    if (count < large) return false;
    const double farInSpace = farShare * boxOf(m).diagonal();
    const double farInMemory = farShare * static_cast<double>(m.positions.size());
    const auto first = [&](std::size_t t) { return m.triangles[t][0]; };
    return manyAreFar(count - 1,
                      [&](std::size_t t) {
                          return (m.positions[first(t)] - m.positions[first(t + 1)]).norm() > farInSpace;
                      }) ||
           manyAreFar(count - 1, [&](std::size_t t) {
               return std::abs(static_cast<double>(first(t)) - static_cast<double>(first(t + 1))) > farInMemory;
           });
}

void putInOrder(Mesh& m) {
    numberTriangles(m);
    numberVertices(m);
}

}  // namespace zither::mesh
