// Directions on a spiral, evenly over the half sphere, the steepest first: what is free is mostly free straight away.
#include "measure/visibility.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "mesh/tolerances.h"

namespace zither::measure {
namespace {

using mesh::Point;

constexpr std::size_t directionCount = 48;

const std::array<Point, directionCount>& directions() {
    static const std::array<Point, directionCount> all = [] {
        std::array<Point, directionCount> made;
        for (std::size_t i = 0; i < directionCount; ++i) {
            const double z = 1 - (static_cast<double>(i) + 0.5) / directionCount;
            const double turn = static_cast<double>(i) * std::numbers::pi * (3 - std::sqrt(5.0));
            const double r = std::sqrt(1 - z * z);
            made[i] = Point(r * std::cos(turn), r * std::sin(turn), z);
        }
        return made;
    }();
    return all;
}

}  // namespace

Visibility::Visibility(const mesh::Mesh& surface, const mesh::Mesh& closing)
    : surface_(surface), closing_(closing), hair_(tolerance::hairOffSurface * mesh::boxOf(surface).diagonal()) {}

bool Visibility::isSeen(const Point& at, const Point& side) const {
    const Point x = side.unitOrthogonal();
    const Point y = side.cross(x);
    const Point from = at + hair_ * side;
    return std::any_of(directions().begin(), directions().end(), [&](const Point& d) {
        const Point direction = d.x() * x + d.y() * y + d.z() * side;
        return !surface_.blocks(from, direction) && !closing_.blocks(from, direction);
    });
}

}  // namespace zither::measure
