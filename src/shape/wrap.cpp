// The surface as a field: the winding number says what is inside, triangles where the skin passes.
#include "shape/wrap.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <optional>

#include "arrange/arrange_tolerances.h"
#include "measure/mass.h"
#include "mesh/parallel.h"
#include "shape/contour.h"
#include "shape/shape_tolerances.h"
#include "space/triangle_tree.h"
#include "space/winding.h"

namespace zither::shape {
namespace {

using mesh::Mesh;
using mesh::Outcome;
using mesh::Point;
using mesh::TriangleId;

// What is reachable from outside by a ball: nodes of a coarse grid.
class Reach {
public:
    Reach(const space::TriangleTree& tree, const mesh::Box& box, double width) : tree_(tree), half_(0.5 * width) {
        step_ = std::max(width / 4, box.extent().maxCoeff() / 160);
        origin_ = box.min - Point::Constant(width + 2 * step_);
        const Point extent = box.extent() + Point::Constant(2 * width + 4 * step_);
        for (int k = 0; k < 3; ++k) size_[static_cast<unsigned>(k)] = static_cast<int>(extent[k] / step_) + 2;
        const std::size_t count = std::size_t{1} * size_[0] * size_[1] * size_[2];
        std::vector<std::uint8_t> wide(count, 0);
        mesh::parallelFor(count, 256, [&](std::size_t i) { wide[i] = !tree_.nearest(place(i), half_).has_value(); });
        // From a corner of the grid wherever the ball fits; then on, as far as its radius, wherever nothing is between.
        reached_.assign(count, 0);
        std::vector<std::size_t> front{0};
        reached_[0] = 1;
        for (std::size_t i = 0; i < front.size(); ++i)
            neighbours(front[i], [&](std::size_t n) {
                if (reached_[n] || !wide[n]) return;
                reached_[n] = 1;
                front.push_back(n);
            });
        const int rings = static_cast<int>(std::ceil(half_ / step_)) + 1;
        for (int ring = 0; ring < rings; ++ring) {
            std::vector<std::size_t> next;
            for (const std::size_t i : front)
                neighbours(i, [&](std::size_t n) {
                    if (reached_[n] || blocked(place(i), place(n))) return;
                    reached_[n] = 1;
                    next.push_back(n);
                });
            front = std::move(next);
        }
    }

    // Some reached node near by is seen from p.
    [[nodiscard]] bool from(const Point& p) const {
        std::array<int, 3> base{};
        for (int k = 0; k < 3; ++k)
            base[static_cast<unsigned>(k)] = static_cast<int>(std::floor((p[k] - origin_[k]) / step_));
        for (int dx = 0; dx < 2; ++dx)
            for (int dy = 0; dy < 2; ++dy)
                for (int dz = 0; dz < 2; ++dz) {
                    const int x = base[0] + dx;
                    const int y = base[1] + dy;
                    const int z = base[2] + dz;
                    if (x < 0 || y < 0 || z < 0 || x >= size_[0] || y >= size_[1] || z >= size_[2]) return true;
                    const std::size_t node = (static_cast<std::size_t>(x) * size_[1] + y) * size_[2] + z;
                    if (reached_[node] && !blocked(p, place(node))) return true;
                }
        return false;
    }

private:
    [[nodiscard]] Point place(std::size_t i) const {
        const std::size_t z = i % size_[2];
        const std::size_t y = i / size_[2] % size_[1];
        const std::size_t x = i / size_[2] / size_[1];
        return origin_ + step_ * Point(static_cast<double>(x), static_cast<double>(y), static_cast<double>(z));
    }
    template <class Visit>
    void neighbours(std::size_t i, const Visit& visit) const {
        const std::size_t z = i % size_[2];
        const std::size_t y = i / size_[2] % size_[1];
        const std::size_t x = i / size_[2] / size_[1];
        const std::size_t layer = std::size_t{1} * size_[1] * size_[2];
        if (z > 0) visit(i - 1);
        if (z + 1 < static_cast<std::size_t>(size_[2])) visit(i + 1);
        if (y > 0) visit(i - size_[2]);
        if (y + 1 < static_cast<std::size_t>(size_[1])) visit(i + size_[2]);
        if (x > 0) visit(i - layer);
        if (x + 1 < static_cast<std::size_t>(size_[0])) visit(i + layer);
    }
    [[nodiscard]] bool blocked(const Point& a, const Point& b) const {
        const auto hit = tree_.firstHit(a, b - a);
        return hit && hit->t <= 1;
    }

    const space::TriangleTree& tree_;
    double half_;
    double step_ = 0;
    Point origin_;
    std::array<int, 3> size_{};
    std::vector<std::uint8_t> reached_;
};

class SurfaceField final : public Field {
public:
    // With `sealing`, what a ball of that width does not reach from outside is inside too.
    SurfaceField(const check::Surveyed& s, double cell, double sealing)
        : m_(s.mesh()), cell_(cell), tree_(s.tree()), winding_(m_) {
        if (sealing > 0) reach_.emplace(tree_, mesh::boxOf(m_), sealing);
    }

    // The cells that triangles may run through: of their boxes, those near the plane.
    [[nodiscard]] std::vector<GridKey> startCells(const Grid& grid) const override {
        std::vector<std::vector<GridKey>> parts((m_.triangles.size() + mesh::blockSize - 1) / mesh::blockSize);
        mesh::parallelFor(parts.size(), 1, [&](std::size_t b) {
            for (std::size_t i = b * mesh::blockSize; i < std::min(m_.triangles.size(), (b + 1) * mesh::blockSize);
                 ++i) {
                const auto t = static_cast<TriangleId>(i);
                const mesh::Box box = mesh::boxOf(m_, t);
                const GridIndex low = grid.cellAt(box.min);
                const GridIndex high = grid.cellAt(box.max);
                const Point n = mesh::areaVector(m_, t).normalized();
                const double reach = 0.5 * grid.cell * n.cwiseAbs().sum() + tolerance::skinTouch * grid.cell;
                for (int x = low.x; x <= high.x; ++x)
                    for (int y = low.y; y <= high.y; ++y)
                        for (int z = low.z; z <= high.z; ++z) {
                            const Point centre = grid.place({x, y, z}) + Point::Constant(0.5 * grid.cell);
                            if (std::abs(n.dot(centre - m_.corner(t, 0))) <= reach)
                                parts[b].push_back(keyOf({x, y, z}));
                        }
                if (parts[b].size() > 1U << 20) sortUnique(parts[b]);
            }
            sortUnique(parts[b]);
        });
        std::vector<GridKey> cells;
        for (const auto& part : parts) cells.insert(cells.end(), part.begin(), part.end());
        sortUnique(cells);
        return cells;
    }

    // Winding numbers are dear. They are asked for at seeds alone; where no triangle crosses the edge to one, and its
    // winding number is nearly whole, that says on which side a corner is: in one step it does not change by a half.
    bool signs(const Grid& grid, const std::vector<GridKey>& corners, std::vector<std::uint8_t>& signs,
               mesh::Progress& progress) const override {
        std::vector<GridKey> seeds;
        seeds.reserve(corners.size());
        for (GridKey k : corners) seeds.push_back(keyOf(seedBeside(indexOf(k))));
        sortUnique(seeds);
        std::vector<double> winding;
        mesh::PartOfProgress asking(progress, 0, 0.5);
        if (!reach_ && !windingAt(winding_, grid, seeds, winding, asking)) return false;
        std::atomic<bool> stop = false;
        mesh::parallelFor(corners.size(), 128, [&](std::size_t i) {
            if (stop) return;
            if (i % 4096 == 0 &&
                !progress.report(0.5 + 0.5 * static_cast<double>(i) / static_cast<double>(corners.size())))
                stop = true;
            const GridIndex corner = indexOf(corners[i]);
            if (!reach_) {
                const GridKey seed = keyOf(seedBeside(corner));
                const double w = winding[static_cast<std::size_t>(std::lower_bound(seeds.begin(), seeds.end(), seed) -
                                                                  seeds.begin())];
                const bool whole = std::abs(w - std::round(w)) < tolerance::skinNearlyWhole;
                if (seed == corners[i] || (whole && !crossed(grid.place(indexOf(seed)), grid.place(corner)))) {
                    signs[i] = w > 0.5;
                    return;
                }
            }
            signs[i] = isInside(grid.place(corner));
        });
        return !stop;
    }

    [[nodiscard]] Passing passing(const Point& in, const Point& out) const override {
        const Point along = out - in;
        struct Hit {
            double t;
            TriangleId triangle;
        };
        std::vector<Hit> hits;
        mesh::Box box;
        box.add(in);
        box.add(out);
        tree_.overlapping(box, [&](TriangleId t) {
            const Point n = mesh::areaVector(m_, t);
            const double slope = n.dot(along);
            if (slope == 0) return;
            const double s = n.dot(m_.corner(t, 0) - in) / slope;
            if (!(s >= 0 && s <= 1)) return;
            const Point p = in + s * along;
            if ((space::nearestOnTriangle(p, m_.corner(t, 0), m_.corner(t, 1), m_.corner(t, 2)) - p).norm() <=
                tolerance::skinTouch * cell_)
                hits.push_back({s, t});
        });
        if (hits.empty()) {
            // The skin passes where no surface is: over a gap.
            double from = 0;
            double to = 1;
            for (int i = 0; i < 6; ++i) {
                const double middle = 0.5 * (from + to);
                (isInside(in + middle * along) ? from : to) = middle;
            }
            return {in + 0.5 * (from + to) * along, along.normalized()};
        }
        std::sort(hits.begin(), hits.end(),
                  [](const Hit& a, const Hit& b) { return a.t != b.t ? a.t < b.t : a.triangle < b.triangle; });
        // From outside, the first surface behind which is inside.
        std::size_t chosen = hits.size() - 1;
        while (chosen > 0 && !isInside(in + 0.5 * (hits[chosen].t + hits[chosen - 1].t) * along)) --chosen;
        Point n = mesh::areaVector(m_, hits[chosen].triangle).normalized();
        if (n.dot(along) < 0) n = -n;
        return {in + hits[chosen].t * along, n};
    }

private:
    [[nodiscard]] bool isInside(const Point& p) const {
        if (winding_.at(p, tolerance::skinFarAway) > 0.5) return true;
        return reach_ && !reach_->from(p);
    }

    // Some triangle may cross or touch the segment.
    [[nodiscard]] bool crossed(const Point& a, const Point& b) const {
        mesh::Box box;
        box.add(a);
        box.add(b);
        bool found = false;
        tree_.overlapping(box, [&](TriangleId t) {
            if (found) return;
            const Point n = mesh::areaVector(m_, t);
            const double slope = n.dot(b - a);
            const double s = slope != 0 ? n.dot(m_.corner(t, 0) - a) / slope : 0.5;
            if (!(s > -tolerance::skinOnEdge && s < 1 + tolerance::skinOnEdge)) return;
            const Point p = a + s * (b - a);
            found = (space::nearestOnTriangle(p, m_.corner(t, 0), m_.corner(t, 1), m_.corner(t, 2)) - p).norm() <=
                    tolerance::skinOnEdge * cell_;
        });
        return found;
    }

    const Mesh& m_;
    double cell_;
    const space::TriangleTree& tree_;
    space::WindingTree winding_;
    std::optional<Reach> reach_;
};

}  // namespace

double cellForTriangles(const Mesh& m, double triangles) {
    return std::sqrt(trianglesASquare * measure::massOf(m).area / std::max(triangles, 1.0));
}

double trianglesForCell(const Mesh& m, double cell) {
    return cell > 0 ? trianglesASquare * measure::massOf(m).area / (cell * cell) : 0;
}

Outcome<Skin> wrap(const check::Surveyed& s, const WrapOptions& options, mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    if (!progress.report(0)) return mesh::cancelled();
    if (m.triangles.empty()) return Skin{m};
    const double side = mesh::boxOf(m).extent().maxCoeff();
    if (!(options.cell > 0) || !(side / options.cell < mostGridCells))
        return mesh::badInput(fmt::format("wrap: the cell must be above {:.3g}, a {:.0f}th of the part, not {:.3g}",
                                          side / mostGridCells, mostGridCells, options.cell));
    mesh::PartOfProgress reaching(progress, 0, 0.1);
    const SurfaceField field(s, options.cell, options.sealing);
    if (!reaching.report(1)) return mesh::cancelled();
    // About a surface that is no solid the winding number may exceed a half well outside its box.
    const Grid grid{mesh::boxOf(m).min - Point::Constant(0.45 * side + (2.5 + tolerance::skinOffGrid) * options.cell),
                    options.cell};
    mesh::PartOfProgress contouring(progress, 0.1, 1);
    return contour(field, grid, options.precision, contouring);
}

}  // namespace zither::shape
