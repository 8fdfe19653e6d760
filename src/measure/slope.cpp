// Angles between planes, from their normals.
#include "measure/slope.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "measure/measure_tolerances.h"
#include "mesh/parallel.h"

namespace zither::measure {

double slopeDeg(const Mesh& m, TriangleId t, const Point& up) {
    const Point normal = mesh::areaVector(m, t);
    const double length = normal.norm();
    if (!(length > 0) || !(normal.dot(up) < 0)) return 90;
    return std::acos(std::clamp(-normal.dot(up) / length, 0.0, 1.0)) * 180 / std::numbers::pi;
}

Overhangs::Overhangs(const Mesh& m, const Point& up, double limitDeg) : m_(m), up_(up), limitDeg_(limitDeg) {
    struct Range {
        double low = std::numeric_limits<double>::infinity();
        double high = -std::numeric_limits<double>::infinity();
    };
    const Range range = mesh::parallelBlocks(
        m.triangles.size(), Range{},
        [&](std::size_t begin, std::size_t end) {
            Range r;
            for (std::size_t t = begin; t < end; ++t)
                for (const mesh::VertexId v : m.triangles[t]) {
                    const double height = up.dot(m.positions[v]);
                    r.low = std::min(r.low, height);
                    r.high = std::max(r.high, height);
                }
            return r;
        },
        [](const Range& a, const Range& b) {
            return Range{std::min(a.low, b.low), std::max(a.high, b.high)};
        });
    floor_ = range.low + tolerance::onFloor * (range.high - range.low);
}

bool Overhangs::has(TriangleId t) const {
    if (!(slopeDeg(m_, t, up_) < limitDeg_ - tolerance::slopeDeg)) return false;
    return std::max({up_.dot(m_.corner(t, 0)), up_.dot(m_.corner(t, 1)), up_.dot(m_.corner(t, 2))}) > floor_;
}

}  // namespace zither::measure
