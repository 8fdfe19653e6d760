// Bounding-volume tree over triangles: nearest point, boxes, rays, overlapping pairs. Built for millions of triangles
// and queries that are near each other.
#pragma once

#include <array>
#include <bit>
#include <cmath>
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
    // By `reach` on every side, rounded outwards.
    [[nodiscard]] FloatBox widened(double reach) const {
        if (!(reach > 0)) return *this;
        FloatBox box;
        for (unsigned k = 0; k < 3; ++k) {
            box.min[k] = std::nextafter(static_cast<float>(min[k] - reach), -std::numeric_limits<float>::infinity());
            box.max[k] = std::nextafter(static_cast<float>(max[k] + reach), std::numeric_limits<float>::infinity());
        }
        return box;
    }
    [[nodiscard]] bool overlaps(const FloatBox& o) const {
        return min[0] <= o.max[0] && o.min[0] <= max[0] && min[1] <= o.max[1] && o.min[1] <= max[1] &&
               min[2] <= o.max[2] && o.min[2] <= max[2];
    }
};

// Four boxes side by side, which are tested at once; those that are not set overlap nothing, not even what is infinite.
class BoxQuad {
public:
    static constexpr unsigned lanes = 4;
    void set(unsigned lane, const FloatBox& box) {
        for (unsigned k = 0; k < 3; ++k) {
            min_[k][lane] = box.min[k];
            max_[k][lane] = box.max[k];
        }
    }
    void unset(unsigned lane) {
        for (unsigned k = 0; k < 3; ++k) min_[k][lane] = max_[k][lane] = none;
    }
    [[nodiscard]] FloatBox box(unsigned lane) const {
        FloatBox box;
        for (unsigned k = 0; k < 3; ++k) {
            box.min[k] = min_[k][lane];
            box.max[k] = max_[k][lane];
        }
        return box;
    }
    [[nodiscard]] FloatBox all() const {
        FloatBox box;
        for (unsigned lane = 0; lane < lanes; ++lane) box.add(this->box(lane));
        return box;
    }
    // One bit a lane.
    [[nodiscard]] unsigned overlapping(const FloatBox& o) const {
        const Int4 in = (min_[0] <= o.max[0]) & (max_[0] >= o.min[0]) & (min_[1] <= o.max[1]) & (max_[1] >= o.min[1]) &
                        (min_[2] <= o.max[2]) & (max_[2] >= o.min[2]);
        const Int4 bits = in & Int4{1, 2, 4, 8};
        return static_cast<unsigned>(bits[0] | bits[1] | bits[2] | bits[3]);
    }
    // Calls use(lane) for each bit.
    template <class Use>
    static void forEachLane(unsigned bits, const Use& use) {
        for (; bits != 0; bits &= bits - 1) use(static_cast<unsigned>(std::countr_zero(bits)));
    }
    using Float4 = float __attribute__((vector_size(16)));

    // What distances are asked from: the box of floats around a point, for all lanes.
    class From {
    public:
        explicit From(const Point& p) {
            Box at;
            at.add(p);
            const FloatBox box(at);
            for (unsigned k = 0; k < 3; ++k) {
                min[k] = Float4{} + box.min[k];
                max[k] = Float4{} + box.max[k];
            }
        }

    private:
        friend class BoxQuad;
        std::array<Float4, 3> min;
        std::array<Float4, 3> max;
    };
    // A lower bound of the squared distance to each; anything for those that are not set.
    [[nodiscard]] Float4 distancesSquared(const From& p) const {
        return (apart(p, 0) + apart(p, 1) + apart(p, 2)) * rounding - least;
    }

private:
    friend class PackedBoxes;
    using Int4 = int __attribute__((vector_size(16)));
    // Each of the few operations errs by 2^-24 of its result, or by the least number.
    static constexpr float rounding = 1 - 0x1p-20F;
    static constexpr float least = 0x1p-120F;
    // Along an axis, squared.
    [[nodiscard]] Float4 apart(const From& p, unsigned k) const {
        // Larger ones would not fit when they are squared.
        constexpr float most = 1e18F;
        constexpr Float4 farthest{most, most, most, most};
        const Float4 below = min_[k] - p.max[k];
        const Float4 above = p.min[k] - max_[k];
        Float4 d = below > above ? below : above;
        d = d > 0 ? d : Float4{};
        d = d < farthest ? d : farthest;
        return d * d;
    }
    static constexpr float none = std::numeric_limits<float>::quiet_NaN();
    std::array<Float4, 3> min_{Float4{none, none, none, none}, Float4{none, none, none, none},
                               Float4{none, none, none, none}};
    std::array<Float4, 3> max_ = min_;
};

// Four boxes within another one, in steps of a 255th of it outwards: a quarter of the memory.
class PackedBoxes {
public:
    PackedBoxes() = default;
    // The first `count` of them, each within `around`.
    PackedBoxes(const FloatBox& around, const BoxQuad& boxes, unsigned count);
    // What was packed and a little more; all of `around` along an axis where such steps are not to be had as floats.
    // Anything within it for those that were not.
    [[nodiscard]] BoxQuad within(const FloatBox& around) const {
        BoxQuad quad;
        for (unsigned k = 0; k < 3; ++k) {
            const float step = stepOf(around, k);
            const BoxQuad::Float4 base = BoxQuad::Float4{} + around.min[k];
            quad.min_[k] = step > 0 ? base + step * floatsOf(min_[k]) : base;
            quad.max_[k] = step > 0 ? base + step * floatsOf(max_[k]) : BoxQuad::Float4{} + around.max[k];
        }
        return quad;
    }

private:
    using Bytes = std::array<std::uint8_t, BoxQuad::lanes>;
    static constexpr float last = 255;
    // A little more than a 255th, so that the last step reaches the end; 0 where that is no ordinary float.
    static float stepOf(const FloatBox& around, unsigned k) {
        constexpr float more = 1 + 0x1p-21F;
        const float step = (around.max[k] - around.min[k]) * (more / last);
        return step >= std::numeric_limits<float>::min() && step < std::numeric_limits<float>::infinity() ? step : 0;
    }
    static BoxQuad::Float4 floatsOf(const Bytes& b) {
        using Four = std::uint8_t __attribute__((vector_size(4)));
        return __builtin_convertvector((Four{b[0], b[1], b[2], b[3]}), BoxQuad::Float4);
    }
    std::array<Bytes, 3> min_{};
    std::array<Bytes, 3> max_{};
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

// A packed tree: triangles in Hilbert order of their box centres, four to a leaf, four nodes to a parent; a node's
// place gives its children, so nothing but boxes is stored (14 bytes a triangle, plus 4 for the order). Keeps a
// reference to the mesh, which must outlive it and not change. Queries are const and may run in parallel. Building is
// O(n log n) and gives the same tree for any number of threads.
class TriangleTree {
public:
    static constexpr std::uint32_t arity = BoxQuad::lanes;

    explicit TriangleTree(const Mesh& m);
    // Only these triangles.
    TriangleTree(const Mesh& m, const std::vector<TriangleId>& triangles);

    [[nodiscard]] const Mesh& surface() const { return *mesh_; }
    [[nodiscard]] bool empty() const { return order_.empty(); }

    // The nearest point of the surface within `within` of p; nothing where there is none. Ties go to the first found.
    // `hint`: a triangle likely to be near (of an earlier query), which makes the search shorter. What is no farther
    // than `nearEnough` ends it: a nearer point is not looked for.
    [[nodiscard]] std::optional<Nearest> nearest(const Point& p,
                                                 double within = std::numeric_limits<double>::infinity(),
                                                 std::optional<TriangleId> hint = std::nullopt,
                                                 double nearEnough = 0) const;

    // Whether some point of the surface is within `within` of p: no farther, but for rounding. Ends at the first.
    [[nodiscard]] bool reaches(const Point& p, double within) const;

    // The first triangle along the ray (t > 0), front or back. Floating-point: for picking, not for decisions.
    [[nodiscard]] std::optional<RayHit> firstHit(const Point& origin, const Point& direction) const;

    // Calls visit(triangle) for each triangle whose box the ray meets.
    void alongRay(const Point& origin, const Point& direction, const std::function<void(TriangleId)>& visit) const;

    // Calls visit(triangle) for each triangle whose (outward rounded) box overlaps the box.
    template <class Visit>
    void overlapping(const Box& box, const Visit& visit) const {
        const FloatBox query(box);
        const auto meets = [&](const BoxQuad& q) { return q.overlapping(query); };
        descendQuads(meets, 0, [&](std::size_t quad, unsigned found) {
            BoxQuad::forEachLane(found, [&](unsigned lane) {
                const std::size_t leaf = quad * arity + lane;
                BoxQuad::forEachLane(meets(trianglesOf(leaf)), [&](unsigned member) {
                    const TriangleId t = order_[leaf * arity + member];
                    if (FloatBox(mesh::boxOf(*mesh_, t)).overlaps(query)) visit(t);
                });
            });
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

    // Leaves in order: slots [arity * i, arity * i + arity) of order(). Four to a group, as they hang from one node.
    [[nodiscard]] const std::vector<TriangleId>& order() const { return order_; }
    [[nodiscard]] std::size_t leafCount() const { return (order_.size() + arity - 1) / arity; }
    [[nodiscard]] std::size_t groupCount() const { return (leafCount() + arity - 1) / arity; }
    [[nodiscard]] FloatBox leafBox(std::size_t leaf) const { return levels_.front()[leaf / arity].box(leaf % arity); }

    // Boxes around a leaf's triangles, each at most a 128th of the leaf's box too large on a side.
    [[nodiscard]] BoxQuad trianglesOf(std::size_t leaf) const {
        BoxQuad boxes = triangles_[leaf].within(leafBox(leaf));
        for (std::size_t i = order_.size(); i < (leaf + 1) * arity; ++i) boxes.unset(static_cast<unsigned>(i % arity));
        return boxes;
    }

    // Calls visit(a, b) for each leaf a of the group and each leaf b >= a whose boxes overlap or are no farther apart
    // than `reach`, a itself included. Taken over all groups this gives every such pair of leaves once.
    template <class Visit>
    void overlappingLeaves(std::size_t group, double reach, const Visit& visit) const {
        const BoxQuad& mine = levels_.front()[group];
        const FloatBox query = mine.all().widened(reach);
        descendQuads([&](const BoxQuad& q) { return q.overlapping(query); }, group * arity,
                     [&](std::size_t other, unsigned found) {
                         for (unsigned lane = 0; lane < arity; ++lane) {
                             unsigned pairs = found & levels_.front()[other].overlapping(mine.box(lane).widened(reach));
                             if (other == group) pairs &= ~0U << lane;
                             BoxQuad::forEachLane(pairs,
                                                  [&](unsigned l) { visit(group * arity + lane, other * arity + l); });
                         }
                     });
    }

    // Says what is inconsistent, or is empty.
    [[nodiscard]] std::string validate() const;

private:
    void build();
    // Of all within `within`, or the first that is come by within `nearEnough`.
    [[nodiscard]] std::optional<Nearest> search(const Point& p, double within, std::optional<TriangleId> hint,
                                                double nearEnough) const;

    // Calls use(quad, lanes) for quads of leaves from the leaf `from` on, below every node that `enter` accepts, which
    // gives one bit for each box of a quad.
    template <class Enter, class Use>
    void descendQuads(const Enter& enter, std::size_t from, const Use& use) const {
        if (levels_.empty()) return;
        struct Open {
            std::uint32_t level;
            std::uint32_t quad;
        };
        std::array<Open, 128> stack;
        std::size_t size = 0;
        stack[size++] = {static_cast<std::uint32_t>(levels_.size() - 1), 0};
        while (size > 0) {
            const Open open = stack[--size];
            const unsigned entered = enter(levels_[open.level][open.quad]);
            if (open.level == 0) {
                if (entered != 0) use(open.quad, entered);
                continue;
            }
            // A node whose last leaf is before `from` has nothing to give. The first goes on top. Behind a lane that is
            // not set there is no quad, whatever `enter` says of it.
            const unsigned bits = 2 * open.level;
            const std::size_t quads = levels_[open.level - 1].size();
            for (unsigned lane = arity; lane-- > 0;)
                if (const std::uint32_t node = open.quad * arity + lane;
                    (entered >> lane & 1U) && node < quads && (std::size_t{node} + 1) << bits > from)
                    stack[size++] = {open.level - 1, node};
        }
    }

    // Calls use(triangle) for those in leaves of which `enter` accepts the box.
    template <class Enter, class Use>
    void descend(const Enter& enter, const Use& use) const {
        descendQuads(enter, 0, [&](std::size_t quad, unsigned found) {
            BoxQuad::forEachLane(found, [&](unsigned lane) {
                const std::size_t begin = (quad * arity + lane) * arity;
                for (std::size_t i = begin; i < std::min<std::size_t>(order_.size(), begin + arity); ++i)
                    use(order_[i]);
            });
        });
    }

    const Mesh* mesh_;
    std::vector<TriangleId> order_;
    std::vector<PackedBoxes> triangles_;        // of each leaf
    std::vector<std::vector<BoxQuad>> levels_;  // leaves first; the last has one quad
};

}  // namespace zither::space
