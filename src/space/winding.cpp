#include "space/winding.h"

#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "mesh/parallel.h"
#include "space/hilbert.h"

namespace zither::space {
namespace {

using mesh::Point;

constexpr std::size_t fan = 8;
// A group is far where its distance exceeds this many times its radius.
constexpr double farAway = 3;

// Signed solid angle of a triangle seen from p (van Oosterom & Strackee 1983), zero in its plane.
double solidAngle(const Point& p, const Point& a, const Point& b, const Point& c) {
    const Point u = a - p;
    const Point v = b - p;
    const Point w = c - p;
    const double determinant = u.dot(v.cross(w));
    const double lu = u.norm();
    const double lv = v.norm();
    const double lw = w.norm();
    if (std::abs(determinant) <= 1e-14 * lu * lv * lw) return 0;
    return 2 * std::atan2(determinant, lu * lv * lw + u.dot(v) * lw + v.dot(w) * lu + w.dot(u) * lv);
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
    double sum = 0;
    for (std::size_t i = begin; i < end; ++i) {
        const mesh::TriangleId t = items_[i].triangle;
        sum += items_[i].weight * solidAngle(p, mesh_->corner(t, 0), mesh_->corner(t, 1), mesh_->corner(t, 2));
    }
    return sum;
}

double WindingTree::at(const Point& p) const {
    if (items_.empty()) return 0;
    double sum = 0;
    std::vector<std::pair<std::size_t, std::size_t>> stack{{levels_.size() - 1, 0}};
    while (!stack.empty()) {
        const auto [level, index] = stack.back();
        stack.pop_back();
        const Group& group = levels_[level][index];
        const Point to = group.centre - p;
        const double distance = to.norm();
        if (distance > farAway * group.radius) {
            sum += group.dipole.dot(to) / (distance * distance * distance);
            continue;
        }
        const std::size_t begin = index * fan;
        if (level == 0) {
            sum += exactOver(p, begin, std::min(items_.size(), begin + fan));
            continue;
        }
        for (std::size_t i = begin; i < std::min(levels_[level - 1].size(), begin + fan); ++i)
            stack.emplace_back(level - 1, i);
    }
    return sum / (4 * std::numbers::pi);
}

}  // namespace zither::space
