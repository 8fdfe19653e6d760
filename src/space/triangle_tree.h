// Bounding-volume tree over triangles: nearest point, boxes, rays, overlapping pairs. Built for millions of triangles
// and queries that are near each other.
#pragma once

#include <array>
#include <functional>
#include <limits>
#include <optional>
#include <utility>
#include <vector>

#include "mesh/mesh.h"

namespace zither::space {

using mesh::Box;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

// Nearest point of a triangle to p, both in one unit. For a degenerate triangle, of its longest edge or its point.
Point nearestOnTriangle(const Point& p, const Point& a, const Point& b, const Point& c);

// Box in 32-bit floats, rounded outwards, so that it always contains what it was made of.
struct FloatBox {
    std::array<float, 3> min{std::numeric_limits<float>::infinity(), std::numeric_limits<float>::infinity(),
                             std::numeric_limits<float>::infinity()};
    std::array<float, 3> max{-std::numeric_limits<float>::infinity(), -std::numeric_limits<float>::infinity(),
                             -std::numeric_limits<float>::infinity()};

    FloatBox() = default;
    explicit FloatBox(const Box& box);
    void add(const FloatBox& o) {
        for (unsigned k = 0; k < 3; ++k) {
            min[k] = std::min(min[k], o.min[k]);
            max[k] = std::max(max[k], o.max[k]);
        }
    }
    [[nodiscard]] bool overlaps(const FloatBox& o) const {
        return min[0] <= o.max[0] && o.min[0] <= max[0] && min[1] <= o.max[1] && o.min[1] <= max[1] &&
               min[2] <= o.max[2] && o.min[2] <= max[2];
    }
    // Lower bound of the squared distance to p.
    [[nodiscard]] double distanceSquared(const Point& p) const {
        double sum = 0;
        for (unsigned k = 0; k < 3; ++k) {
            const double d = std::max({static_cast<double>(min[k]) - p[k], p[k] - static_cast<double>(max[k]), 0.0});
            sum += d * d;
        }
        return sum;
    }
};

struct Nearest {
    TriangleId triangle = 0;
    Point point;
    double distanceSquared = std::numeric_limits<double>::infinity();
};

struct RayHit {
    TriangleId triangle = 0;
    double t = 0;  // hit = origin + t * direction
};

// A packed tree: triangles in Hilbert order of their box centres, `arity` to a leaf, `arity` nodes to a parent; a
// node's place gives its children, so nothing but boxes is stored (about 8 bytes a triangle, plus 4 for the order).
// Keeps a reference to the mesh, which must outlive it and not change. Queries are const and may run in parallel.
// Building is O(n log n) and gives the same tree for any number of threads.
class TriangleTree {
public:
    static constexpr std::uint32_t arity = 4;

    explicit TriangleTree(const Mesh& m);
    // Only these triangles.
    TriangleTree(const Mesh& m, std::vector<TriangleId> triangles);

    [[nodiscard]] const Mesh& surface() const { return *mesh_; }
    [[nodiscard]] bool empty() const { return order_.empty(); }

    // The nearest point of the surface within `within` of p; nothing where there is none. Ties go to the first found.
    // `hint`: a triangle likely to be near (of an earlier query), which makes the search shorter.
    [[nodiscard]] std::optional<Nearest> nearest(const Point& p,
                                                 double within = std::numeric_limits<double>::infinity(),
                                                 std::optional<TriangleId> hint = std::nullopt) const;

    // The first triangle along the ray (t > 0), front or back. Floating-point: for picking, not for decisions.
    [[nodiscard]] std::optional<RayHit> firstHit(const Point& origin, const Point& direction) const;

    // Calls visit(triangle) for each triangle whose box the ray meets.
    void alongRay(const Point& origin, const Point& direction, const std::function<void(TriangleId)>& visit) const;

    // Calls visit(triangle) for each triangle whose (outward rounded) box overlaps the box.
    template <class Visit>
    void overlapping(const Box& box, const Visit& visit) const {
        const FloatBox query(box);
        descend([&](const FloatBox& b) { return b.overlaps(query); },
                [&](TriangleId t) {
                    if (FloatBox(mesh::boxOf(*mesh_, t)).overlaps(query)) visit(t);
                });
    }

    // Calls visit(triangle) for each triangle whose box meets the line through p along `axis`, at or beyond p.
    template <class Visit>
    void alongAxis(const Point& p, int axis, const Visit& visit) const {
        Box line;
        line.add(p);
        line.max[axis] = std::numeric_limits<double>::infinity();
        overlapping(line, visit);
    }

    // Leaves in order: slots [arity * i, arity * i + arity) of order().
    [[nodiscard]] const std::vector<TriangleId>& order() const { return order_; }
    [[nodiscard]] std::size_t leafCount() const { return levels_.empty() ? 0 : levels_.front().size(); }
    [[nodiscard]] const FloatBox& leafBox(std::size_t leaf) const { return levels_.front()[leaf]; }

    // Calls visit(leaf) for each leaf with index at least `from` whose box overlaps that of leaf `from`, itself
    // included. Taken over all leaves this gives every overlapping pair of leaves once.
    template <class Visit>
    void leavesOverlappingFrom(std::size_t from, const Visit& visit) const {
        const FloatBox query = leafBox(from);
        descendLeaves([&](const FloatBox& b) { return b.overlaps(query); }, from, visit);
    }

    // Says what is inconsistent, or is empty.
    [[nodiscard]] std::string validate() const;

private:
    struct Node {
        std::uint32_t level;
        std::uint32_t index;
    };

    void build();

    // Leaves from `from` on below every node that `enter` accepts.
    template <class Enter, class Leaf>
    void descendLeaves(const Enter& enter, std::size_t from, const Leaf& leaf) const {
        if (levels_.empty()) return;
        std::array<Node, 128> stack;
        std::size_t size = 0;
        const auto top = static_cast<std::uint32_t>(levels_.size() - 1);
        stack[size++] = {top, 0};
        while (size > 0) {
            const Node node = stack[--size];
            if (!enter(levels_[node.level][node.index])) continue;
            if (node.level == 0) {
                if (node.index >= from) leaf(node.index);
                continue;
            }
            const std::vector<FloatBox>& below = levels_[node.level - 1];
            const std::uint32_t begin = node.index * arity;
            const auto end = static_cast<std::uint32_t>(std::min<std::size_t>(begin + arity, below.size()));
            // A subtree whose last leaf is before `from` has nothing to give.
            const std::uint32_t span = 1U << (2 * (node.level - 1));
            for (std::uint32_t i = end; i-- > begin;)
                if (static_cast<std::size_t>(i + 1) * span > from) stack[size++] = {node.level - 1, i};
        }
    }

    template <class Enter, class Use>
    void descend(const Enter& enter, const Use& use) const {
        descendLeaves(enter, 0, [&](std::uint32_t leaf) {
            const std::size_t end = std::min<std::size_t>(order_.size(), (leaf + 1) * std::size_t{arity});
            for (std::size_t i = leaf * std::size_t{arity}; i < end; ++i) use(order_[i]);
        });
    }

    const Mesh* mesh_;
    std::vector<TriangleId> order_;
    std::vector<std::vector<FloatBox>> levels_;  // leaves first, the root last
};

}  // namespace zither::space
