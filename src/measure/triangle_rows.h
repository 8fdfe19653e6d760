// Points spread evenly over a triangle, each with the area that it stands for.
#pragma once

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <cstdint>

#include "mesh/mesh.h"

namespace zither::measure {

// Rows across the longest edge, not wider apart than the step, as the points in them are; a single point in the middle
// of a short triangle.
class TriangleRows {
public:
    // `limit`: longer triangles get rows.
    TriangleRows(const mesh::Mesh& m, mesh::TriangleId t, double limit, double step) {
        unsigned longest = 0;
        for (unsigned k = 0; k < 3; ++k) {
            const double length = (m.corner(t, (k + 1) % 3) - m.corner(t, k)).norm();
            if (!(length > length_)) continue;
            length_ = length;
            longest = k;
        }
        area_ = 0.5 * mesh::areaVector(m, t).norm();
        middle_ = mesh::centroid(m, t);
        if (!(length_ > limit)) return;
        from_ = m.corner(t, longest);
        along_ = (m.corner(t, (longest + 1) % 3) - from_) / length_;
        const mesh::Point apex = m.corner(t, (longest + 2) % 3) - from_;
        foot_ = std::clamp(apex.dot(along_), 0.0, length_);
        up_ = apex - foot_ * along_;
        rows_ = parts(length_, step);
        step_ = step;
    }

    [[nodiscard]] bool gridded() const { return rows_ > 0; }

    // About how many points there are, without going through them.
    [[nodiscard]] double expected() const {
        constexpr double half = 0.5;  // a row has half as many as the highest one, and is rounded up
        return gridded() ? static_cast<double>(rows_) * std::max(1.0, half * up_.norm() / step_ + half) : 1;
    }

    // Where a point stands among the others: height over the longest edge; whether it is the outermost on some side.
    struct Spot {
        double up = 0;
        std::uint32_t row = 0;
        bool outermost = true;
    };
    // visit(point, area that it stands for, spot); row by row, upwards.
    template <class Visit>
    void forEach(const Visit& visit) const {
        if (!gridded()) return visit(middle_, area_, Spot());
        const double wide = length_ / static_cast<double>(rows_);
        for (std::size_t r = 0; r < rows_; ++r) {
            const double begin = static_cast<double>(r) * wide;
            const double share = shareBefore(std::min(begin + wide, length_)) - shareBefore(begin);
            const double at = begin + 0.5 * wide;
            const double height = at < foot_ ? at / foot_ : (length_ - at) / (length_ - foot_);  // of the whole
            const std::size_t n = parts(height * up_.norm(), step_);
            for (std::size_t i = 0; i < n; ++i) {
                const double up = height * (static_cast<double>(i) + 0.5) / static_cast<double>(n);
                const bool outermost = r == 0 || r + 1 == rows_ || i == 0 || i + 1 == n;
                visit(mesh::Point(from_ + at * along_ + up * up_), share * area_ / static_cast<double>(n),
                      Spot{up * up_.norm(), static_cast<std::uint32_t>(r), outermost});
            }
        }
    }

private:
    static std::size_t parts(double length, double step) {
        constexpr double most = 1e9;  // beyond what is ever measured
        return static_cast<std::size_t>(std::clamp(std::ceil(length / step), 1.0, most));
    }
    // Of the area, up to so far along the longest edge.
    [[nodiscard]] double shareBefore(double at) const {
        const double rest = length_ - at;
        return at <= foot_ && foot_ > 0 ? at * at / (length_ * foot_)
                                        : 1 - (rest > 0 ? rest * rest / (length_ * (length_ - foot_)) : 0);
    }

    mesh::Point middle_ = mesh::Point::Zero();
    mesh::Point from_ = mesh::Point::Zero();
    mesh::Point along_ = mesh::Point::Zero();  // the longest edge, of length 1
    mesh::Point up_ = mesh::Point::Zero();     // from it to the apex, at right angles
    double length_ = 0;
    double foot_ = 0;  // below the apex
    double area_ = 0;
    double step_ = 0;
    std::size_t rows_ = 0;
};

}  // namespace zither::measure
