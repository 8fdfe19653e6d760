// Groups of groups in Hilbert order, each with its dipole; what is far counts as that.
#include "space/winding.h"

#include <Eigen/Geometry>
#include <array>
#include <cmath>
#include <numbers>

#include "mesh/hilbert.h"
#include "mesh/parallel.h"
#include "space/space_tolerances.h"

namespace zither::space {
namespace {

using mesh::Point;

constexpr std::size_t fan = 8;
// A level leaves fan - 1 behind when one of its groups is opened; twelve levels hold more than any mesh.
constexpr std::size_t mostOpen = 12 * fan;

// Adds up angles as the argument of a product of complex numbers: one arctangent for many triangles.
class AngleSum {
public:
    // The argument of x + iy, between minus and plus half a turn.
    void add(double x, double y) {
        const double size = std::abs(x) + std::abs(y);
        if (size == 0) return;
        x /= size;
        y /= size;
        const double re = re_ * x - im_ * y;
        const double im = re_ * y + im_ * x;
        // Past half a turn the argument of the product jumps by a whole one.
        if (im_ >= 0 && y >= 0 && im < 0) ++turns_;
        if (im_ < 0 && y < 0 && im >= 0) --turns_;
        re_ = re;
        im_ = im;
        constexpr double small = 0x1p-500;
        if (std::abs(re_) + std::abs(im_) > small) return;
        re_ /= small;
        im_ /= small;
    }
    [[nodiscard]] double total() const { return std::atan2(im_, re_) + 2 * std::numbers::pi * turns_; }

private:
    double re_ = 1;
    double im_ = 0;
    int turns_ = 0;
};

// Half the signed solid angle of a triangle seen from p (van Oosterom & Strackee 1983), nothing in its plane, added
// `weight` times.
void addSolidAngle(AngleSum& sum, int weight, const Point& p, const Point& a, const Point& b, const Point& c) {
    const Point u = a - p;
    const Point v = b - p;
    const Point w = c - p;
    const double determinant = u.dot(v.cross(w));
    const double lu = u.norm();
    const double lv = v.norm();
    const double lw = w.norm();
    if (std::abs(determinant) <= tolerance::inPlane * lu * lv * lw) return;
    const double real = lu * lv * lw + u.dot(v) * lw + v.dot(w) * lu + w.dot(u) * lv;
    for (int n = std::abs(weight); n > 0; --n) sum.add(real, weight < 0 ? -determinant : determinant);
}

}  // namespace

WindingTree::WindingTree(const mesh::Mesh& m, const std::vector<mesh::TriangleId>& triangles,
                         const std::vector<int>& weightOf)
    : mesh_(&m) {
    for (mesh::TriangleId t : mesh::hilbertOrder(m, triangles)) items_.push_back({t, weightOf[t]});
    if (!items_.empty()) build();
}

WindingTree::WindingTree(const mesh::Mesh& m) : mesh_(&m) {
    for (mesh::TriangleId t : mesh::hilbertOrder(m)) items_.push_back({t, 1});
    if (!items_.empty()) build();
}

void WindingTree::build() {
    std::vector<Group> level(items_.size());
    mesh::parallelFor(items_.size(), 4096, [&](std::size_t i) {
        const auto [t, weight] = items_[i];
        const Point areaVector = 0.5 * mesh::areaVector(*mesh_, t);
        Group& g = level[i];
        g = {mesh::centroid(*mesh_, t), weight * areaVector, areaVector.norm(), 0, 0};
        for (unsigned k = 0; k < 3; ++k) {
            const double squared = (mesh_->corner(t, k) - g.centre).squaredNorm();
            g.radius = std::max(g.radius, std::sqrt(squared));
            g.spread += squared / 24;
        }
    });
    levels_.push_back(std::move(level));
    while (levels_.back().size() > 1) {
        const std::vector<Group>& below = levels_.back();
        std::vector<Group> groups((below.size() + fan - 1) / fan);
        mesh::parallelFor(groups.size(), 256, [&](std::size_t g) {
            Group& group = groups[g];
            const std::size_t begin = g * fan;
            const std::size_t end = std::min(below.size(), begin + fan);
            // Weighted by area, so that the first moment about the centre is small.
            Point plain = Point::Zero();
            for (std::size_t i = begin; i < end; ++i) {
                group.centre += below[i].area * below[i].centre;
                group.area += below[i].area;
                group.dipole += below[i].dipole;
                plain += below[i].centre / static_cast<double>(end - begin);
            }
            group.centre = group.area > 0 ? Point(group.centre / group.area) : plain;
            for (std::size_t i = begin; i < end; ++i) {
                const double squared = (below[i].centre - group.centre).squaredNorm();
                group.radius = std::max(group.radius, std::sqrt(squared) + below[i].radius);
                if (group.area > 0) group.spread += below[i].area / group.area * (0.5 * squared + below[i].spread);
            }
        });
        levels_.push_back(std::move(groups));
    }
}

std::size_t WindingTree::endOf(const Node& n) const {
    return std::min(levels_[n.level - 1].size(), (std::size_t{n.index} + 1) * fan);
}

// Of a group that is far away: its dipole as that of a disc with the same spread, which is seen smaller from the front
// and larger from the side than one point would be.
double WindingTree::solidAngle(const Group& group, const Point& to, double squared) {
    const double along = group.dipole.dot(to);
    if (along == 0) return 0;
    const double steep = along * along / (group.dipole.squaredNorm() * squared);
    return along / (squared * std::sqrt(squared)) * (1 + group.spread * (4.5 - 7.5 * steep) / squared);
}

// Solid angles of all that is under the nodes.
double WindingTree::sumFrom(std::span<const Node> nodes, const Point& p, double farAway) const {
    double sum = 0;
    AngleSum angles;
    std::array<Node, mostOpen> stack;
    for (const Node& first : nodes) {
        std::size_t size = 0;
        stack[size++] = first;
        while (size > 0) {
            const Node node = stack[--size];
            const Group& group = levels_[node.level][node.index];
            const Point to = group.centre - p;
            const double squared = to.squaredNorm();
            if (squared > farAway * farAway * group.radius * group.radius) {
                sum += solidAngle(group, to, squared);
            } else if (node.level == 0) {
                const auto [t, weight] = items_[node.index];
                addSolidAngle(angles, weight, p, mesh_->corner(t, 0), mesh_->corner(t, 1), mesh_->corner(t, 2));
            } else {
                for (std::size_t i = std::size_t{node.index} * fan; i < endOf(node); ++i)
                    stack[size++] = {node.level - 1, static_cast<std::uint32_t>(i)};
            }
        }
    }
    return sum + 2 * angles.total();
}

double WindingTree::at(const Point& p, double farAway) const {
    if (items_.empty()) return 0;
    const Node whole = root();
    return sumFrom({&whole, 1}, p, farAway) / (4 * std::numbers::pi);
}

void WindingTree::at(std::span<const Point> points, std::span<double> values, double farAway) const {
    constexpr std::size_t bundle = 16;
    for (std::size_t begin = 0; begin < points.size(); begin += bundle) {
        const std::size_t count = std::min(bundle, points.size() - begin);
        atBundle(points.subspan(begin, count), values.subspan(begin, count), farAway);
    }
}

std::vector<double> WindingTree::atMiddles(const mesh::Mesh& of, const std::vector<std::uint8_t>& flags) const {
    std::vector<mesh::TriangleId> asked;
    for (mesh::TriangleId t = 0; t < flags.size(); ++t)
        if (flags[t]) asked.push_back(t);
    asked = mesh::hilbertOrder(of, asked);
    std::vector<double> values(flags.size(), 0);
    constexpr std::size_t block = 64;
    mesh::parallelFor((asked.size() + block - 1) / block, 1, [&](std::size_t b) {
        std::array<Point, block> middles;
        std::array<double, block> means{};
        const std::size_t count = std::min(block, asked.size() - b * block);
        for (std::size_t i = 0; i < count; ++i) middles[i] = mesh::centroid(of, asked[b * block + i]);
        at(std::span(middles).first(count), std::span(means).first(count));
        for (std::size_t i = 0; i < count; ++i) values[asked[b * block + i]] = means[i];
    });
    return values;
}

// What is far from all of them is summed about their middle, with its slope; what is as small as they lie apart is left
// to each.
void WindingTree::atBundle(std::span<const Point> points, std::span<double> values, double farAway) const {
    std::fill(values.begin(), values.end(), 0);
    if (items_.empty()) return;
    mesh::Box box;
    for (const Point& p : points) box.add(p);
    const Point middle = box.centre();
    const double apart = 0.5 * box.diagonal();
    double common = 0;
    Point slope = Point::Zero();
    std::vector<Node> near;
    std::array<Node, mostOpen> stack;
    std::size_t size = 0;
    stack[size++] = root();
    while (size > 0) {
        const Node node = stack[--size];
        const Group& group = levels_[node.level][node.index];
        const Point to = group.centre - middle;
        const double squared = to.squaredNorm();
        const double reach = farAway * (group.radius + apart);
        if (squared > reach * reach) {
            common += solidAngle(group, to, squared);
            slope += (3 * group.dipole.dot(to) / squared * to - group.dipole) / (squared * std::sqrt(squared));
        } else if (node.level == 0 || group.radius <= apart) {
            near.push_back(node);
        } else {
            for (std::size_t i = std::size_t{node.index} * fan; i < endOf(node); ++i)
                stack[size++] = {node.level - 1, static_cast<std::uint32_t>(i)};
        }
    }
    for (std::size_t i = 0; i < points.size(); ++i)
        values[i] =
            (common + slope.dot(points[i] - middle) + sumFrom(near, points[i], farAway)) / (4 * std::numbers::pi);
}

}  // namespace zither::space
