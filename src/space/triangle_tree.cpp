// Four children a node, levels as arrays; leaves in Hilbert order.
#include "space/triangle_tree.h"

#include <fmt/format.h>
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "mesh/hilbert.h"
#include "mesh/parallel.h"

namespace zither::space {
namespace {

float roundDown(double x) {
    const auto f = static_cast<float>(x);
    return static_cast<double>(f) > x ? std::nextafter(f, -std::numeric_limits<float>::infinity()) : f;
}
float roundUp(double x) {
    const auto f = static_cast<float>(x);
    return static_cast<double>(f) < x ? std::nextafter(f, std::numeric_limits<float>::infinity()) : f;
}

Point nearestOnSegment(const Point& p, const Point& a, const Point& b) {
    const Point ab = b - a;
    const double lengthSquared = ab.squaredNorm();
    if (!(lengthSquared > 0)) return a;
    return a + std::clamp(ab.dot(p - a) / lengthSquared, 0.0, 1.0) * ab;
}

Point nearestOnEdges(const Point& p, const Point& a, const Point& b, const Point& c) {
    Point best = nearestOnSegment(p, a, b);
    for (const Point& candidate : {nearestOnSegment(p, b, c), nearestOnSegment(p, c, a)})
        if ((candidate - p).squaredNorm() < (best - p).squaredNorm()) best = candidate;
    return best;
}

}  // namespace

FloatBox::FloatBox(const Box& box) {
    for (unsigned k = 0; k < 3; ++k) {
        min[k] = roundDown(box.min[k]);
        max[k] = roundUp(box.max[k]);
    }
}

PackedBoxes::PackedBoxes(const FloatBox& around, const BoxQuad& boxes, unsigned count) {
    for (unsigned lane = 0; lane < count; ++lane)
        for (unsigned k = 0; k < 3; ++k) {
            const float base = around.min[k];
            const float step = stepOf(around, k);
            if (!(step > 0)) continue;
            const FloatBox box = boxes.box(lane);
            float low = std::clamp(std::floor((box.min[k] - base) / step), 0.0F, last);
            float high = std::clamp(std::ceil((box.max[k] - base) / step), 0.0F, last);
            while (low > 0 && base + step * low > box.min[k]) --low;
            while (high < last && base + step * high < box.max[k]) ++high;
            min_[k][lane] = static_cast<std::uint8_t>(low);
            max_[k][lane] = static_cast<std::uint8_t>(high);
        }
}

// Ericson 2005, "Real-Time Collision Detection", section 5.1.5: by Voronoi region.
Point nearestOnTriangle(const Point& p, const Point& a, const Point& b, const Point& c) {
    const Point ab = b - a;
    const Point ac = c - a;
    const Point ap = p - a;
    const double d1 = ab.dot(ap);
    const double d2 = ac.dot(ap);
    if (d1 <= 0 && d2 <= 0) return a;
    const Point bp = p - b;
    const double d3 = ab.dot(bp);
    const double d4 = ac.dot(bp);
    if (d3 >= 0 && d4 <= d3) return b;
    const double vc = d1 * d4 - d3 * d2;
    if (vc <= 0 && d1 >= 0 && d3 <= 0) return d1 - d3 > 0 ? Point(a + d1 / (d1 - d3) * ab) : nearestOnEdges(p, a, b, c);
    const Point cp = p - c;
    const double d5 = ab.dot(cp);
    const double d6 = ac.dot(cp);
    if (d6 >= 0 && d5 <= d6) return c;
    const double vb = d5 * d2 - d1 * d6;
    if (vb <= 0 && d2 >= 0 && d6 <= 0) return d2 - d6 > 0 ? Point(a + d2 / (d2 - d6) * ac) : nearestOnEdges(p, a, b, c);
    const double va = d3 * d6 - d5 * d4;
    if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
        const double sum = (d4 - d3) + (d5 - d6);
        return sum > 0 ? Point(b + (d4 - d3) / sum * (c - b)) : nearestOnEdges(p, a, b, c);
    }
    const double sum = va + vb + vc;
    if (!(sum > 0)) return nearestOnEdges(p, a, b, c);
    return a + vb / sum * ab + vc / sum * ac;
}

TriangleTree::TriangleTree(const Mesh& m) : mesh_(&m), order_(mesh::hilbertOrder(m)) {
    build();
}

TriangleTree::TriangleTree(const Mesh& m, const std::vector<TriangleId>& triangles)
    : mesh_(&m), order_(mesh::hilbertOrder(m, triangles)) {
    build();
}

void TriangleTree::build() {
    const std::size_t n = order_.size();
    if (n == 0) return;
    const auto quadsOf = [](std::size_t boxes) { return (boxes + arity - 1) / arity; };
    triangles_.resize(leafCount());
    std::vector<BoxQuad> leaves(quadsOf(leafCount()));
    mesh::parallelFor(leaves.size(), 256, [&](std::size_t quad) {
        for (std::size_t leaf = quad * arity; leaf < std::min(leafCount(), (quad + 1) * arity); ++leaf) {
            BoxQuad boxes;
            const auto count = static_cast<unsigned>(std::min<std::size_t>(arity, n - leaf * arity));
            for (unsigned i = 0; i < count; ++i) boxes.set(i, FloatBox(mesh::boxOf(*mesh_, order_[leaf * arity + i])));
            leaves[quad].set(leaf % arity, boxes.all());
            triangles_[leaf] = {boxes.all(), boxes, count};
        }
    });
    levels_.push_back(std::move(leaves));
    while (levels_.back().size() > 1) {
        const std::vector<BoxQuad>& below = levels_.back();
        std::vector<BoxQuad> level(quadsOf(below.size()));
        for (std::size_t i = 0; i < below.size(); ++i) level[i / arity].set(i % arity, below[i].all());
        levels_.push_back(std::move(level));
    }
}

std::optional<Nearest> TriangleTree::nearest(const Point& p, double within, std::optional<TriangleId> hint,
                                             double nearEnough) const {
    return search(p, within, hint, nearEnough);
}

bool TriangleTree::reaches(const Point& p, double within) const {
    return search(p, within, std::nullopt, within).has_value();
}

std::optional<Nearest> TriangleTree::search(const Point& p, double within, std::optional<TriangleId> hint,
                                            double nearEnough) const {
    if (levels_.empty()) return std::nullopt;
    Nearest best;
    best.distanceSquared = within * within;
    bool found = false;
    const auto tryTriangle = [&](TriangleId t) {
        const Point q = nearestOnTriangle(p, mesh_->corner(t, 0), mesh_->corner(t, 1), mesh_->corner(t, 2));
        const double d = (q - p).squaredNorm();
        if (d < best.distanceSquared || (!found && d == best.distanceSquared)) {
            best = {t, q, d};
            found = true;
        }
    };
    const auto isEnough = [&] { return found && best.distanceSquared <= nearEnough * nearEnough; };
    if (hint) tryTriangle(*hint);
    if (isEnough()) return best;

    const BoxQuad::From from(p);
    struct Open {
        float bound;
        std::uint32_t depth;  // 0: a leaf; else one more than the level of the quad
        std::uint32_t index;
    };
    std::array<Open, 128> stack;
    std::size_t size = 0;
    stack[size++] = {0, static_cast<std::uint32_t>(levels_.size()), 0};
    while (size > 0) {
        const Open open = stack[--size];
        const double bound = open.bound;
        if (bound > best.distanceSquared || (found && bound == best.distanceSquared)) continue;
        if (open.depth == 0) {
            const std::size_t begin = open.index * std::size_t{arity};
            const auto bounds = trianglesOf(open.index).distancesSquared(from);
            for (std::uint32_t lane = 0; lane < std::min<std::size_t>(arity, order_.size() - begin); ++lane)
                if (!(bounds[lane] > best.distanceSquared)) tryTriangle(order_[begin + lane]);
            if (isEnough()) break;
            continue;
        }
        // Children go on the stack farthest first, so that the nearest is searched next.
        const auto bounds = levels_[open.depth - 1][open.index].distancesSquared(from);
        const std::size_t base = size;
        // Behind a lane that is not set there is nothing.
        const std::size_t children = open.depth == 1 ? leafCount() : levels_[open.depth - 2].size();
        for (std::uint32_t lane = 0; lane < arity; ++lane) {
            if (bounds[lane] > best.distanceSquared || open.index * std::size_t{arity} + lane >= children) continue;
            std::size_t slot = size++;
            for (; slot > base && stack[slot - 1].bound < bounds[lane]; --slot) stack[slot] = stack[slot - 1];
            stack[slot] = {bounds[lane], open.depth - 1, open.index * arity + lane};
        }
    }
    if (!found) return std::nullopt;
    return best;
}

namespace {

// Interval of the ray inside the box; empty where it misses.
bool rayMeets(const FloatBox& box, const Point& origin, const Point& inverse, double farthest) {
    double near = 0;
    double far = farthest;
    for (unsigned k = 0; k < 3; ++k) {
        double a = (box.min[k] - origin[k]) * inverse[k];
        double b = (box.max[k] - origin[k]) * inverse[k];
        if (a > b) std::swap(a, b);
        if (!(a <= far)) return std::isnan(a);
        near = std::max(near, a);
        if (b < far) far = b;
    }
    return near <= far;
}

// One bit a box.
unsigned rayMeets(const BoxQuad& quad, const Point& origin, const Point& inverse, double farthest) {
    unsigned meets = 0;
    for (unsigned lane = 0; lane < BoxQuad::lanes; ++lane)
        if (rayMeets(quad.box(lane), origin, inverse, farthest)) meets |= 1U << lane;
    return meets;
}

// Moller & Trumbore 1997.
std::optional<double> rayMeetsTriangle(const Point& origin, const Point& direction, const Point& a, const Point& b,
                                       const Point& c) {
    const Point ab = b - a;
    const Point ac = c - a;
    const Point h = direction.cross(ac);
    const double det = ab.dot(h);
    if (det == 0) return std::nullopt;
    const Point s = origin - a;
    const double u = s.dot(h) / det;
    if (!(u >= 0 && u <= 1)) return std::nullopt;
    const Point q = s.cross(ab);
    const double v = direction.dot(q) / det;
    if (!(v >= 0 && u + v <= 1)) return std::nullopt;
    const double t = ac.dot(q) / det;
    if (!(t > 0)) return std::nullopt;
    return t;
}

}  // namespace

std::optional<RayHit> TriangleTree::firstHit(const Point& origin, const Point& direction) const {
    std::optional<RayHit> best;
    const Point inverse = direction.cwiseInverse();
    descend(
        [&](const BoxQuad& q) {
            return rayMeets(q, origin, inverse, best ? best->t : std::numeric_limits<double>::infinity());
        },
        [&](TriangleId t) {
            const auto hit =
                rayMeetsTriangle(origin, direction, mesh_->corner(t, 0), mesh_->corner(t, 1), mesh_->corner(t, 2));
            if (hit && (!best || *hit < best->t)) best = RayHit{t, *hit};
        });
    return best;
}

void TriangleTree::alongRay(const Point& origin, const Point& direction,
                            const std::function<void(TriangleId)>& visit) const {
    const Point inverse = direction.cwiseInverse();
    constexpr double farthest = std::numeric_limits<double>::infinity();
    descend([&](const BoxQuad& q) { return rayMeets(q, origin, inverse, farthest); },
            [&](TriangleId t) {
                if (rayMeets(FloatBox(mesh::boxOf(*mesh_, t)), origin, inverse, farthest)) visit(t);
            });
}

std::string TriangleTree::validate() const {
    for (std::size_t i = 0; i < order_.size(); ++i) {
        const FloatBox box = trianglesOf(i / arity).box(i % arity);
        const FloatBox own(mesh::boxOf(*mesh_, order_[i]));
        FloatBox both = box;
        both.add(own);
        if (both.min != box.min || both.max != box.max) return fmt::format("triangle {} is out of its box", order_[i]);
        const FloatBox before = leafBox(i / arity);
        FloatBox joined = before;
        joined.add(own);
        if (joined.min != before.min || joined.max != before.max)
            return fmt::format("leaf {} misses its triangle", i / arity);
    }
    for (std::size_t level = 1; level < levels_.size(); ++level)
        for (std::size_t i = 0; i < levels_[level - 1].size(); ++i) {
            const FloatBox above = levels_[level][i / arity].box(i % arity);
            FloatBox joined = above;
            joined.add(levels_[level - 1][i].all());
            if (joined.min != above.min || joined.max != above.max)
                return fmt::format("level {} misses quad {}", level, i);
        }
    return {};
}

}  // namespace zither::space
