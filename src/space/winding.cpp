// Groups of groups in Hilbert order, each with its dipole.
#include "space/winding.h"

#include <Eigen/Geometry>
#include <array>
#include <cmath>
#include <numbers>

#include "mesh/parallel.h"
#include "mesh/tolerances.h"
#include "space/hilbert.h"

namespace zither::space {
namespace {

using mesh::Point;

constexpr std::size_t fan = 8;

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
    }
    [[nodiscard]] double total() const { return std::atan2(im_, re_) + 2 * std::numbers::pi * turns_; }

private:
    double re_ = 1;
    double im_ = 0;
    int turns_ = 0;
};

// Adds half the signed solid angle of a triangle seen from p (van Oosterom & Strackee 1983), nothing in its plane.
void addSolidAngle(AngleSum& sum, double weight, const Point& p, const Point& a, const Point& b, const Point& c) {
    const Point u = a - p;
    const Point v = b - p;
    const Point w = c - p;
    const double determinant = u.dot(v.cross(w));
    const double lu = u.norm();
    const double lv = v.norm();
    const double lw = w.norm();
    if (std::abs(determinant) <= tolerance::inPlane * lu * lv * lw) return;
    sum.add(lu * lv * lw + u.dot(v) * lw + v.dot(w) * lu + w.dot(u) * lv, weight * determinant);
}

}  // namespace

WindingTree::WindingTree(const mesh::Mesh& m, std::vector<mesh::TriangleId> triangles, const std::vector<int>& weightOf)
    : mesh_(&m) {
    for (mesh::TriangleId t : hilbertOrder(m, std::move(triangles))) items_.push_back({t, weightOf[t]});

    std::size_t below = items_.size();
    while (below > 1 || levels_.empty()) {
        const std::size_t count = (below + fan - 1) / fan;
        std::vector<Group> level(count);
        const std::vector<Group>* under = levels_.empty() ? nullptr : &levels_.back();
        mesh::parallelFor(count, 256, [&](std::size_t g) {
            Group group;
            const std::size_t end = std::min(below, (g + 1) * fan);
            // Weighted by area, so that the first moment about the centre is small.
            Point plain = Point::Zero();
            for (std::size_t i = g * fan; i < end; ++i) {
                const Point areaVector = under ? Point::Zero() : mesh::areaVector(m, items_[i].triangle);
                const double area = under ? (*under)[i].area : 0.5 * areaVector.norm();
                const Point centre = under ? (*under)[i].centre : mesh::centroid(m, items_[i].triangle);
                group.centre += area * centre;
                group.area += area;
                plain += centre / static_cast<double>(end - g * fan);
                group.dipole += under ? (*under)[i].dipole : Point(0.5 * items_[i].weight * areaVector);
            }
            group.centre = group.area > 0 ? Point(group.centre / group.area) : plain;
            for (std::size_t i = g * fan; i < end; ++i)
                if (under)
                    group.radius =
                        std::max(group.radius, ((*under)[i].centre - group.centre).norm() + (*under)[i].radius);
                else
                    for (unsigned k = 0; k < 3; ++k)
                        group.radius = std::max(group.radius, (m.corner(items_[i].triangle, k) - group.centre).norm());
            level[g] = group;
        });
        levels_.push_back(std::move(level));
        below = count;
        if (below <= 1) break;
    }
}

double WindingTree::exactOver(const Point& p, std::size_t begin, std::size_t end) const {
    AngleSum sum;
    for (std::size_t i = begin; i < end; ++i) {
        const mesh::TriangleId t = items_[i].triangle;
        // A triangle that counts more than once, or the other way round.
        for (int n = std::abs(items_[i].weight); n > 0; --n)
            addSolidAngle(sum, items_[i].weight < 0 ? -1 : 1, p, mesh_->corner(t, 0), mesh_->corner(t, 1),
                          mesh_->corner(t, 2));
    }
    return 2 * sum.total();
}

double WindingTree::at(const Point& p, double farAway) const {
    if (items_.empty()) return 0;
    double sum = 0;
    struct Node {
        std::uint32_t level;
        std::uint32_t index;
    };
    // A level leaves fan - 1 behind when one of its groups is opened; eleven levels hold more than any mesh.
    std::array<Node, 11 * fan> stack;
    std::size_t size = 0;
    stack[size++] = {static_cast<std::uint32_t>(levels_.size() - 1), 0};
    while (size > 0) {
        const auto [level, index] = stack[--size];
        const Group& group = levels_[level][index];
        const Point to = group.centre - p;
        const double squared = to.squaredNorm();
        if (squared > farAway * farAway * group.radius * group.radius) {
            sum += group.dipole.dot(to) / (squared * std::sqrt(squared));
            continue;
        }
        const std::size_t begin = std::size_t{index} * fan;
        if (level == 0) {
            sum += exactOver(p, begin, std::min(items_.size(), begin + fan));
            continue;
        }
        for (std::size_t i = begin; i < std::min(levels_[level - 1].size(), begin + fan); ++i)
            stack[size++] = {level - 1, static_cast<std::uint32_t>(i)};
    }
    return sum / (4 * std::numbers::pi);
}

}  // namespace zither::space
