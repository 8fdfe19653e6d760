// Splitting polygons into triangles as they are read. Ears are cut in turn (Meisters 1975); only reflex corners can lie
// in one, and they are found in a grid (Held 2001), so that large polygons take little more than linear time.
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "io/reading.h"
#include "io/text.h"

namespace zither::io {
namespace {

using mesh::Point;
using mesh::VertexId;
using Flat = Eigen::Vector2d;

// Tests of a corner against an ear, over a whole file: a few seconds.
constexpr std::size_t mostWork = 400'000'000;
// Larger polygons become fans at once: the grid would take more memory than their text.
constexpr std::size_t mostCorners = 1U << 20;
// Below this every corner is looked at: a grid would cost more.
constexpr std::size_t leastGrid = 32;

// Newell's normal: right for concave and for slightly bent polygons.
Point newellNormal(std::span<const VertexId> polygon, const std::vector<Point>& positions) {
    Point normal = Point::Zero();
    for (std::size_t i = 0; i < polygon.size(); ++i)
        normal += (positions[polygon[i]] - positions[polygon[0]])
                      .cross(positions[polygon[(i + 1) % polygon.size()]] - positions[polygon[0]]);
    return normal;
}

double turn(const Flat& a, const Flat& b, const Flat& c) {
    return (b.x() - a.x()) * (c.y() - a.y()) - (b.y() - a.y()) * (c.x() - a.x());
}

}  // namespace

void PolygonSplitter::project(std::span<const VertexId> polygon, const std::vector<Point>& positions) {
    const Point normal = newellNormal(polygon, positions);
    int drop = 0;
    normal.cwiseAbs().maxCoeff(&drop);
    const int u = (drop + 1) % 3;
    const int v = (drop + 2) % 3;
    const double sign = normal[drop] < 0 ? -1 : 1;
    flat_.clear();
    for (VertexId i : polygon) flat_.emplace_back(positions[i][u], sign * positions[i][v]);
}

void PolygonSplitter::link(std::size_t count) {
    const auto n = static_cast<std::uint32_t>(count);
    next_.resize(count);
    previous_.resize(count);
    gone_.assign(count, 0);
    for (std::uint32_t i = 0; i < n; ++i) {
        next_[i] = i + 1 == n ? 0 : i + 1;
        previous_[i] = i == 0 ? n - 1 : i - 1;
    }
}

bool PolygonSplitter::isReflex(std::uint32_t i) const {
    return !(turn(flat_[previous_[i]], flat_[i], flat_[next_[i]]) > 0);
}

std::size_t PolygonSplitter::cellOf(double x, double y) const {
    const auto along = [&](double value, int k) {
        const double cell = (value - low_[k]) * perCell_[k];
        // Coordinates at the ends of what a number holds give no number here: they share the first cell.
        return cell > 0 ? static_cast<std::size_t>(std::min(cell, static_cast<double>(side_ - 1))) : std::size_t{0};
    };
    return along(y, 1) * side_ + along(x, 0);
}

// What is convex once stays so while ears are cut; corners that stop being reflex are only tested for nothing.
void PolygonSplitter::gridReflex() {
    side_ = 0;
    if (flat_.size() < leastGrid) return;
    Flat high = flat_[0];
    low_ = flat_[0];
    std::vector<std::uint32_t> reflex;
    for (std::uint32_t i = 0; i < flat_.size(); ++i) {
        low_ = low_.cwiseMin(flat_[i]);
        high = high.cwiseMax(flat_[i]);
        if (isReflex(i)) reflex.push_back(i);
    }
    side_ = static_cast<std::size_t>(std::sqrt(static_cast<double>(reflex.size()))) + 1;
    for (int k = 0; k < 2; ++k) {
        const double extent = high[k] - low_[k];
        perCell_[k] = extent > 0 && std::isfinite(extent) ? static_cast<double>(side_) / extent : 0;
    }
    cellBegin_.assign(side_ * side_ + 1, 0);
    for (std::uint32_t i : reflex) ++cellBegin_[cellOf(flat_[i].x(), flat_[i].y()) + 1];
    for (std::size_t c = 1; c < cellBegin_.size(); ++c) cellBegin_[c] += cellBegin_[c - 1];
    cellCorners_.resize(reflex.size());
    std::vector<std::uint32_t> at(cellBegin_.begin(), cellBegin_.end() - 1);
    for (std::uint32_t i : reflex) cellCorners_[at[cellOf(flat_[i].x(), flat_[i].y())]++] = i;
}

bool PolygonSplitter::holds(std::uint32_t j, const Flat& a, const Flat& b, const Flat& c) const {
    const Flat& p = flat_[j];
    if (gone_[j] || p == a || p == b || p == c) return false;
    return turn(a, b, p) >= 0 && turn(b, c, p) >= 0 && turn(c, a, p) >= 0;
}

bool PolygonSplitter::isEar(std::uint32_t i) {
    const Flat& a = flat_[previous_[i]];
    const Flat& b = flat_[i];
    const Flat& c = flat_[next_[i]];
    if (!(turn(a, b, c) > 0)) return false;
    if (side_ == 0) {
        work_ += flat_.size();
        for (std::uint32_t j = 0; j < flat_.size(); ++j)
            if (holds(j, a, b, c)) return false;
        return true;
    }
    const Flat low = a.cwiseMin(b).cwiseMin(c);
    const Flat high = a.cwiseMax(b).cwiseMax(c);
    const std::size_t first = cellOf(low.x(), low.y());
    const std::size_t last = cellOf(high.x(), high.y());
    for (std::size_t y = first / side_; y <= last / side_; ++y)
        for (std::size_t x = first % side_; x <= last % side_; ++x) {
            const std::size_t cell = y * side_ + x;
            work_ += 1 + cellBegin_[cell + 1] - cellBegin_[cell];
            for (std::uint32_t k = cellBegin_[cell]; k < cellBegin_[cell + 1]; ++k)
                if (holds(cellCorners_[k], a, b, c)) return false;
        }
    return true;
}

void PolygonSplitter::fanFrom(std::uint32_t i, std::size_t left) {
    for (std::uint32_t a = next_[i]; left > 2; --left, a = next_[a]) triangles_.push_back({i, a, next_[a]});
}

bool PolygonSplitter::isTooMuch(std::size_t corners) const {
    return corners > mostCorners || work_ > mostWork;
}

void PolygonSplitter::cut(std::span<const VertexId> polygon, const std::vector<Point>& positions) {
    triangles_.clear();
    project(polygon, positions);
    link(polygon.size());
    gridReflex();
    std::size_t left = polygon.size();
    std::uint32_t at = 0;
    std::uint32_t first = 0;  // a corner that is still there, the earliest
    for (std::size_t passed = 0; left > 3 && passed <= left && work_ <= mostWork;) {
        if (!isEar(at)) {
            at = next_[at];
            ++passed;
            continue;
        }
        triangles_.push_back({previous_[at], at, next_[at]});
        gone_[at] = 1;
        next_[previous_[at]] = next_[at];
        previous_[next_[at]] = previous_[at];
        at = next_[at];
        --left;
        passed = 0;
    }
    if (left > 3 && work_ > mostWork) ++fans_;
    while (gone_[first]) ++first;
    fanFrom(first, left);
}

void PolygonSplitter::remark(Surface& out) const {
    if (fans_ > 0)
        out.remarks.push_back(fmt::format(
            "{} polygons with very many corners were split as fans: their triangles may lie outside them", fans_));
}

std::string unusableRemark(std::size_t count) {
    return fmt::format("{} left out: a corner is not a finite number or does not exist",
                       count == 1 ? std::string("1 triangle was") : fmt::format("{} triangles were", count));
}

bool speaksOfUnit(std::string_view comment) {
    TextCursor words(comment);
    for (std::string_view word = words.word(); !word.empty(); word = words.word()) {
        while (!word.empty() && (word.back() == ':' || word.back() == '=')) word.remove_suffix(1);
        if (equalsIgnoringCase(word, "unit") || equalsIgnoringCase(word, "units")) return true;
    }
    return false;
}

void noteUnitComment(std::string_view comment, Surface& out) {
    constexpr std::size_t shown = 60;
    if (!comment.empty()) out.doesNotKeep(fmt::format("a comment on its unit ('{}')", comment.substr(0, shown)));
}

}  // namespace zither::io
