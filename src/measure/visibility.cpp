// Directions on a spiral, evenly over the half sphere, the steepest first: what is free is mostly free straight away.
#include "measure/visibility.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "measure/measure_tolerances.h"

namespace zither::measure {
namespace {

using mesh::Point;

constexpr std::size_t directionCount = 48;
// Of these it is asked what they meet first: within a body one of the first few leaves it, unless it meets what else
// lies in there.
constexpr std::size_t tellingRays = 16;

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

Visibility::Visibility(const mesh::Mesh& surface, const space::RayScene& rays, const mesh::Mesh& closing,
                       std::span<const std::int8_t> tight)
    : mesh_(surface),
      tight_(tight),
      surface_(rays),
      closing_(closing),
      hair_(tolerance::hairOffSurface * mesh::boxOf(surface).diagonal()) {}

bool Visibility::leaves(mesh::TriangleId met, const Point& direction) const {
    const auto inside = static_cast<double>(tight_[met]);
    return inside != 0 && inside * mesh::areaVector(mesh_, met).dot(direction) > 0;
}

bool Visibility::isSeen(const Point& at, const Point& side) const {
    const Point x = side.unitOrthogonal();
    const Point y = side.cross(x);
    const Point from = at + hair_ * side;
    const std::size_t telling = tight_.empty() ? 0 : tellingRays;
    for (std::size_t i = 0; i < directionCount; ++i) {
        const Point& d = directions()[i];
        const Point direction = d.x() * x + d.y() * y + d.z() * side;
        if (i < telling) {
            if (const auto met = surface_.firstMet(from, direction)) {
                if (leaves(*met, direction)) return false;
                continue;
            }
        } else if (surface_.blocks(from, direction)) {
            continue;
        }
        if (!closing_.blocks(from, direction)) return true;
    }
    return false;
}

}  // namespace zither::measure
