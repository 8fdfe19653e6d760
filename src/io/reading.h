// What the readers and writers share, over bytes in memory.
#pragma once

#include <fmt/format.h>

#include <array>
#include <cstdint>
#include <iterator>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "io/format.h"

namespace zither::io {

// Why a file cannot be read: "FILE: what".
inline tl::unexpected<mesh::Error> cannotRead(const std::string& file, const std::string& what) {
    return mesh::badInput(fmt::format("{}: {}", file, what), mesh::errorcode::unreadable, file);
}
tl::unexpected<mesh::Error> tooManyTriangles(const std::string& file, std::size_t count);

// Text on its way into a file, handed over in large pieces; each piece reports the share of the items that is done.
class TextWriter {
public:
    TextWriter(AtomicFile& file, Progress& progress, std::size_t items, std::string head)
        : file_(file), progress_(progress), items_(items), buffer_(std::move(head)) {}

    // One more item: what it begins with, and its numbers, each so short that it reads back the same. Error: not
    // written, or cancelled.
    Outcome<void> addPoint(std::string_view head, const mesh::Point& p);
    Outcome<void> addNumbers(std::string_view head, const std::array<std::uint32_t, 3>& numbers);
    // Text that is no item of its own.
    void append(std::string_view text) { buffer_ += text; }
    // What is left; must come last.
    Outcome<void> flush();

private:
    Outcome<void> added();

    static constexpr std::size_t flushAt = 1U << 20;
    AtomicFile& file_;
    Progress& progress_;
    std::size_t items_;
    std::size_t done_ = 0;
    std::string buffer_;
};

// Splits polygons into triangles: ears of the projection along the mean normal, so that a concave polygon is not folded
// over itself; a fan where no ear is left. One for a whole file: its work is bounded, and polygons that would take more
// (tens of thousands of corners that hide each other) become fans; `fans()` tells how many.
class PolygonSplitter {
public:
    // `polygon`: at least three indices into positions, which are finite. Calls use(a, b, c) for each triangle.
    template <class Use>
    void split(std::span<const mesh::VertexId> polygon, const std::vector<mesh::Point>& positions, const Use& use) {
        if (polygon.size() == 3) return use(polygon[0], polygon[1], polygon[2]);
        if (isTooMuch(polygon.size())) {
            ++fans_;
            for (std::size_t k = 2; k < polygon.size(); ++k) use(polygon[0], polygon[k - 1], polygon[k]);
            return;
        }
        cut(polygon, positions);
        for (const auto& t : triangles_) use(polygon[t[0]], polygon[t[1]], polygon[t[2]]);
    }
    [[nodiscard]] std::size_t fans() const { return fans_; }
    // Adds a remark where a polygon became a fan.
    void remark(Surface& out) const;

private:
    using Flat = Eigen::Vector2d;

    [[nodiscard]] bool isTooMuch(std::size_t corners) const;
    void cut(std::span<const mesh::VertexId> polygon, const std::vector<mesh::Point>& positions);
    void project(std::span<const mesh::VertexId> polygon, const std::vector<mesh::Point>& positions);
    void link(std::size_t count);
    void gridReflex();
    [[nodiscard]] bool isReflex(std::uint32_t i) const;
    [[nodiscard]] bool isEar(std::uint32_t i);
    [[nodiscard]] bool holds(std::uint32_t j, const Flat& a, const Flat& b, const Flat& c) const;
    [[nodiscard]] std::size_t cellOf(double x, double y) const;
    void fanFrom(std::uint32_t i, std::size_t left);

    std::vector<std::array<std::uint32_t, 3>> triangles_;  // places in the polygon
    std::vector<Flat> flat_;
    std::vector<std::uint32_t> next_;
    std::vector<std::uint32_t> previous_;
    std::vector<std::uint8_t> gone_;
    // Reflex corners in a grid of side_ x side_ cells: only they can lie in an ear.
    std::vector<std::uint32_t> cellBegin_;
    std::vector<std::uint32_t> cellCorners_;
    Flat low_ = Flat::Zero();
    Flat perCell_ = Flat::Zero();
    std::size_t side_ = 0;
    std::size_t work_ = 0;
    std::size_t fans_ = 0;
};

// The remark for left-out triangles.
std::string unusableRemark(std::size_t count);

// A comment on the unit is worth a word: the format has no place for one, and it is not kept.
bool speaksOfUnit(std::string_view comment);
void noteUnitComment(std::string_view comment, Surface& out);

}  // namespace zither::io
