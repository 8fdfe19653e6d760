// Radix partition by hash, then one small open-addressing table a partition: each table stays in the cache, and
// partitions are independent, so that threads never meet.
#include "mesh/vertex_join.h"

#include <bit>
#include <cstring>
#include <limits>

#include "mesh/partition.h"

namespace zither::mesh {
namespace {

constexpr std::uint32_t none = std::numeric_limits<std::uint32_t>::max();

// Adding +0 turns -0 into +0, so that equal coordinates have equal bits.
template <class Scalar>
auto bitsOf(Scalar value) {
    if constexpr (sizeof(Scalar) == 4)
        return std::bit_cast<std::uint32_t>(value + 0.0F);
    else
        return std::bit_cast<std::uint64_t>(value + 0.0);
}

template <class P>
std::uint64_t hashOf(const P& p) {
    constexpr std::uint64_t odd = 0x9E3779B97F4A7C15ULL;
    std::uint64_t h = bitsOf(p[0]);
    h = (h ^ (h >> 29)) * odd;
    h = (h ^ bitsOf(p[1]) ^ (h >> 32)) * odd;
    h = (h ^ bitsOf(p[2]) ^ (h >> 32)) * odd;
    return h ^ (h >> 31);
}

template <class P>
bool equal(const P& a, const P& b) {
    return a[0] == b[0] && a[1] == b[1] && a[2] == b[2];
}

// Finds the first equal point for the members of one partition, which are in ascending order.
template <class P>
void joinPartition(std::span<const P> points, std::span<const std::uint32_t> members, std::vector<VertexId>& first) {
    const std::size_t capacity = std::bit_ceil(members.size() + members.size() / 2 + 2);
    std::vector<std::uint32_t> table(capacity, none);
    for (std::uint32_t i : members) {
        std::size_t slot = (hashOf(points[i]) >> 12) & (capacity - 1);
        while (table[slot] != none && !equal(points[table[slot]], points[i])) slot = (slot + 1) & (capacity - 1);
        if (table[slot] == none) table[slot] = i;
        first[i] = table[slot];
    }
}

template <class P>
std::vector<VertexId> join(std::span<const P> points) {
    constexpr std::size_t partitionCount = 256;
    std::vector<VertexId> first(points.size());
    const Partition parts(points.size(), partitionCount,
                          [&](std::size_t i) { return hashOf(points[i]) & (partitionCount - 1); });
    parallelFor(partitionCount, 1, [&](std::size_t p) { joinPartition<P>(points, parts[p], first); });
    return first;
}

}  // namespace

std::vector<VertexId> firstOfEqual(std::span<const Point> points) {
    return join(points);
}
std::vector<VertexId> firstOfEqual(std::span<const PointF> points) {
    return join(points);
}

std::vector<VertexId> equalIn(const std::vector<Point>& from, const std::vector<Point>& to) {
    std::vector<Point> both = from;
    both.insert(both.end(), to.begin(), to.end());
    std::vector<VertexId> first = join(std::span<const Point>(both));
    first.erase(first.begin(), first.begin() + static_cast<std::ptrdiff_t>(from.size()));
    for (VertexId& v : first)
        if (v >= from.size()) v = noIndex;
    return first;
}

}  // namespace zither::mesh
