// Points found by where they are, while points are still being added.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <unordered_map>
#include <vector>

#include "mesh/mesh.h"

namespace zither::space {

// Points in cubic cells of a given size. Whatever the size, a search looks at no more cells than there are with points
// in them: one much smaller than what is searched finds every point, and the caller tells which are near enough.
class CellGrid {
public:
    // `cell`: in the file's unit; above 0. Coordinates beyond 2^62 cells share the last one.
    explicit CellGrid(double cell) : cell_(std::max(cell, std::numeric_limits<double>::min())) {}

    void add(mesh::VertexId v, const mesh::Point& p) { cells_[cellOf(p)].push_back(v); }

    // Calls visit(v) for each point in a cell that the box touches, and perhaps for others. In an order that does not
    // depend on threads.
    template <class Visit>
    void near(const mesh::Box& box, const Visit& visit) const {
        const Cell low = cellOf(box.min);
        const Cell high = cellOf(box.max);
        double count = 1;
        for (unsigned k = 0; k < 3; ++k) count *= static_cast<double>(high[k]) - static_cast<double>(low[k]) + 1;
        if (count > static_cast<double>(cells_.size()) + fewCells) {
            for (const auto& [cell, points] : cells_)
                if (within(cell, low, high))
                    for (const mesh::VertexId v : points) visit(v);
            return;
        }
        Cell at;
        for (at[0] = low[0]; at[0] <= high[0]; ++at[0])
            for (at[1] = low[1]; at[1] <= high[1]; ++at[1])
                for (at[2] = low[2]; at[2] <= high[2]; ++at[2])
                    if (const auto it = cells_.find(at); it != cells_.end())
                        for (const mesh::VertexId v : it->second) visit(v);
    }

    [[nodiscard]] double cell() const { return cell_; }

private:
    using Cell = std::array<std::int64_t, 3>;
    static constexpr double fewCells = 64;

    struct Hash {
        std::size_t operator()(const Cell& c) const {
            std::uint64_t h = 0;
            for (const std::int64_t x : c) h = (h ^ static_cast<std::uint64_t>(x)) * 0x9E3779B97F4A7C15ULL;
            return static_cast<std::size_t>(h ^ (h >> 32));
        }
    };

    [[nodiscard]] Cell cellOf(const mesh::Point& p) const {
        constexpr double farthest = 4.6e18;  // below 2^62: sums and differences of cells stay whole numbers
        Cell c;
        for (unsigned k = 0; k < 3; ++k)
            c[k] = static_cast<std::int64_t>(std::clamp(std::floor(p[k] / cell_), -farthest, farthest));
        return c;
    }
    static bool within(const Cell& c, const Cell& low, const Cell& high) {
        for (unsigned k = 0; k < 3; ++k)
            if (c[k] < low[k] || c[k] > high[k]) return false;
        return true;
    }

    double cell_;
    std::unordered_map<Cell, std::vector<mesh::VertexId>, Hash> cells_;
};

inline mesh::Box around(const mesh::Point& p, double reach) {
    mesh::Box box;
    box.add(p);
    return box.widened(reach);
}

}  // namespace zither::space
