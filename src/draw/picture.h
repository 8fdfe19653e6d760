// A picture in the making: colours, and how far away what is seen in each pixel lies.
#pragma once

#include <algorithm>
#include <cstdint>
#include <limits>
#include <vector>

#include "mesh/mesh.h"

namespace zither::draw {

// Red, green and blue from 0 to 1, as a screen takes them.
using Colour = Eigen::Vector3f;

inline Colour colourOf(std::uint32_t rgb) {
    return Colour(static_cast<float>(rgb >> 16 & 0xFF), static_cast<float>(rgb >> 8 & 0xFF),
                  static_cast<float>(rgb & 0xFF)) /
           255.0F;
}

// Where a parallel view is looked from, in the part's unit. Pixels are numbered from the top left.
struct Eye {
    mesh::Point corner = mesh::Point::Zero();  // behind the middle of the first pixel, at any depth
    mesh::Point right = mesh::Point::UnitX();
    mesh::Point up = mesh::Point::UnitY();
    double pixel = 1;  // width of one
    int width = 0;
    int height = 0;

    [[nodiscard]] mesh::Point into() const { return up.cross(right); }  // the direction of sight
    [[nodiscard]] mesh::Point through(double x, double y) const { return corner + pixel * (x * right - y * up); }
    // In pixels, and the depth behind `corner`.
    [[nodiscard]] mesh::Point seen(const mesh::Point& p) const {
        const mesh::Point d = p - corner;
        return {d.dot(right) / pixel, -d.dot(up) / pixel, d.dot(into())};
    }
};

struct Picture {
    int width = 0;
    int height = 0;
    std::vector<Colour> colours;  // row by row
    std::vector<float> depths;    // behind the eye's corner; infinite where nothing is

    Picture() = default;
    Picture(int w, int h, const Colour& ground)
        : width(w),
          height(h),
          colours(static_cast<std::size_t>(w) * static_cast<std::size_t>(h), ground),
          depths(colours.size(), std::numeric_limits<float>::infinity()) {}

    [[nodiscard]] std::size_t at(int x, int y) const {
        return static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x);
    }
    // 0xFFRRGGBB of each pixel.
    [[nodiscard]] std::vector<std::uint32_t> packed() const;
};

// Two pictures of one height as one.
Picture besideEachOther(const Picture& left, const Picture& right);

}  // namespace zither::draw
