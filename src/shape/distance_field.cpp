// The distance changes no faster than the way: blocks of cells that are farther from the body's surface than they reach
// are left out whole.
#include "shape/distance_field.h"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <numbers>
#include <utility>

#include "arrange/arrange_tolerances.h"
#include "mesh/parallel.h"
#include "shape/shape_tolerances.h"

namespace zither::shape {

using mesh::Point;
using mesh::TriangleId;

DistanceField::DistanceField(const check::Surveyed& s, Body body, double length)
    : m_(s.mesh()), tree_(s.tree()), body_(body), length_(length) {
    if (body != Body::Around) winding_.emplace(m_);
}

Grid DistanceField::gridOf(double cell) const {
    const double beside = (body_ == Body::Shrunk ? 0 : length_) + (2.5 + tolerance::skinOffGrid) * cell;
    return {mesh::boxOf(m_).min - Point::Constant(beside), cell};
}

std::string DistanceField::wrongWith(double cell, mesh::Precision precision) const {
    const mesh::Box box = mesh::boxOf(m_);
    if (!(cell > 0) || !((box.extent().maxCoeff() + 2 * length_) / cell + 6 < mostGridCells))
        return fmt::format("cells of {:.3g} are too small for this part", cell);
    constexpr double steps = 64;  // that a cell should be wide
    if (steps * mesh::unitInLastPlace(precision, box.farthest() + length_) > cell)
        return fmt::format("so far from the origin coordinates do not tell cells of {:.3g} apart: move it there first",
                           cell);
    return {};
}

bool DistanceField::enclosed(const Point& p) const {
    return winding_ && winding_->at(p, tolerance::skinFarAway) > 0.5;
}

std::vector<GridKey> DistanceField::startCells(const Grid& grid) const {
    struct Block {
        GridIndex low;
        bool sideKnown = false;  // it lies on the side of the surface on which the body's skin is
    };
    const double side = (mesh::boxOf(m_).max - grid.origin).maxCoeff() + length_ + 3 * grid.cell;
    int size = 1;
    while (size * grid.cell < side) size *= 2;
    std::vector<Block> blocks{{}};
    while (size > 1) {
        size /= 2;
        const double reach = 0.5 * std::numbers::sqrt3 * size * grid.cell;
        enum : std::uint8_t { Leave, Enter, EnterKnown };
        std::vector<std::uint8_t> found(8 * blocks.size());
        const auto childOf = [&](std::size_t i) {
            const GridIndex& low = blocks[i / 8].low;
            return GridIndex{low.x + static_cast<int>(i & 1U) * size, low.y + static_cast<int>(i >> 1 & 1U) * size,
                             low.z + static_cast<int>(i >> 2 & 1U) * size};
        };
        mesh::parallelFor(found.size(), 64, [&](std::size_t i) {
            const Point centre = grid.place(childOf(i)) + Point::Constant(0.5 * size * grid.cell);
            if (length_ > reach && tree_.reaches(centre, length_ - reach)) return;
            if (!tree_.reaches(centre, length_ + reach)) return;
            bool known = blocks[i / 8].sideKnown || body_ == Body::Around;
            // Whole blocks lie on one side of the surface where it is farther away than they reach.
            if (!known && length_ > 2 * reach) {
                if (enclosed(centre) != (body_ == Body::Shrunk)) return;
                known = true;
            }
            found[i] = known ? EnterKnown : Enter;
        });
        std::vector<Block> next;
        for (std::size_t i = 0; i < found.size(); ++i)
            if (found[i] != Leave) next.push_back({childOf(i), found[i] == EnterKnown});
        blocks = std::move(next);
    }
    std::vector<GridKey> cells;
    cells.reserve(blocks.size());
    for (const Block& b : blocks) cells.push_back(keyOf(b.low));
    sortUnique(cells);
    return cells;
}

bool DistanceField::signs(const Grid& grid, const std::vector<GridKey>& corners, std::vector<std::uint8_t>& signs,
                          mesh::Progress& progress) const {
    std::atomic<bool> stop = false;
    std::vector<std::uint8_t> near(corners.size(), 0);
    mesh::parallelFor(corners.size(), 128, [&](std::size_t i) {
        if (stop) return;
        if (i % 4096 == 0 && !progress.report(0.5 * static_cast<double>(i) / static_cast<double>(corners.size())))
            stop = true;
        near[i] = tree_.reaches(grid.place(indexOf(corners[i])), length_);
        if (!winding_) signs[i] = near[i];
    });
    if (stop) return false;
    if (!winding_) return true;
    // What is farther from the surface than a cell lies on the same side of it as its neighbours.
    std::vector<GridKey> seeds;
    for (std::size_t i = 0; i < corners.size(); ++i)
        if (!near[i]) seeds.push_back(keyOf(seedBeside(indexOf(corners[i]))));
    sortUnique(seeds);
    std::vector<double> winding;
    mesh::PartOfProgress asking(progress, 0.5, 1);
    if (!windingAt(*winding_, grid, seeds, winding, asking)) return false;
    for (std::size_t i = 0; i < corners.size(); ++i) {
        if (near[i]) {
            signs[i] = body_ == Body::Grown;
            continue;
        }
        const GridKey seed = keyOf(seedBeside(indexOf(corners[i])));
        signs[i] =
            winding[static_cast<std::size_t>(std::lower_bound(seeds.begin(), seeds.end(), seed) - seeds.begin())] > 0.5;
    }
    return true;
}

Passing DistanceField::passing(const Point& inside, const Point& outside) const {
    // Regula falsi, Illinois variant (Dowell & Jarratt 1971); cells are so small that the surface itself is not
    // between.
    std::optional<TriangleId> hint;
    const auto at = [&](double t, Point& foot) {
        const Point p = inside + t * (outside - inside);
        const auto nearest = tree_.nearest(p, std::numeric_limits<double>::infinity(), hint);
        hint = nearest->triangle;
        foot = nearest->point;
        return std::sqrt(nearest->distanceSquared) - length_;
    };
    Point foot;
    double from = 0;
    double to = 1;
    double fromValue = at(from, foot);
    double toValue = at(to, foot);
    double t = 0;
    int side = 0;
    constexpr int most = 20;
    for (int i = 0; i < most && fromValue != toValue; ++i) {
        t = std::clamp((from * toValue - to * fromValue) / (toValue - fromValue), 0.0, 1.0);
        const double value = at(t, foot);
        if (std::abs(value) <= tolerance::onLevel * length_) break;
        if ((value < 0) == (fromValue < 0)) {
            from = t;
            fromValue = value;
            if (side == -1) toValue /= 2;
            side = -1;
        } else {
            to = t;
            toValue = value;
            if (side == 1) fromValue /= 2;
            side = 1;
        }
    }
    const Point p = inside + t * (outside - inside);
    const Point away = body_ == Body::Shrunk ? Point(foot - p) : Point(p - foot);
    return {p, away.isZero() ? Point((outside - inside).normalized()) : Point(away.normalized())};
}

Distances distancesFrom(const mesh::Mesh& from, const space::TriangleTree& to) {
    constexpr double none = std::numeric_limits<double>::infinity();
    const std::size_t count = from.triangles.size();
    std::vector<std::uint8_t> isFirst(3 * count, 0);  // corners that stand for their vertex
    std::vector<std::uint8_t> seen(from.positions.size(), 0);
    for (std::size_t h = 0; h < isFirst.size(); ++h)
        isFirst[h] = !std::exchange(seen[from.triangles[h / 3][h % 3]], std::uint8_t{1});
    struct Range {
        double least = none;
        double greatest = 0;
        std::size_t points = 0;
    };
    std::vector<Range> ranges(count);
    mesh::parallelFor(count, 64, [&](std::size_t i) {
        const auto t = static_cast<TriangleId>(i);
        std::optional<TriangleId> hint;
        const auto look = [&](const Point& p) {
            const auto nearest = to.nearest(p, none, hint);
            hint = nearest->triangle;
            const double distance = std::sqrt(nearest->distanceSquared);
            ranges[i] = {std::min(ranges[i].least, distance), std::max(ranges[i].greatest, distance),
                         ranges[i].points + 1};
        };
        look(mesh::centroid(from, t));
        for (unsigned k = 0; k < 3; ++k) {
            if (isFirst[3 * i + k]) look(from.corner(t, k));
            // An edge of two triangles is looked at from one of them.
            if (from.triangles[t][k] < from.triangles[t][(k + 1) % 3])
                look(0.5 * (from.corner(t, k) + from.corner(t, (k + 1) % 3)));
        }
    });
    Distances d{.least = count > 0 ? none : 0};
    for (const Range& r : ranges) {
        d.least = std::min(d.least, r.least);
        d.greatest = std::max(d.greatest, r.greatest);
        d.points += r.points;
    }
    return d;
}

}  // namespace zither::shape
