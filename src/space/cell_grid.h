// Points found by where they are.
#pragma once

#include <cstdint>
#include <unordered_map>
#include <vector>

#include "mesh/mesh.h"

namespace zither::space {

// Points in cubic cells of a given size.
class CellGrid {
public:
    explicit CellGrid(double cell) : cell_(cell) {}

    void add(mesh::VertexId v, const mesh::Point& p) { cells_[keyOf(cellOf(p))].push_back(v); }

    template <class Visit>
    void near(const mesh::Box& box, const Visit& visit) const {
        const Eigen::Array3d low = cellOf(box.min);
        const Eigen::Array3d high = cellOf(box.max);
        for (double x = low[0]; x <= high[0]; ++x)
            for (double y = low[1]; y <= high[1]; ++y)
                for (double z = low[2]; z <= high[2]; ++z)
                    if (const auto it = cells_.find(keyOf({x, y, z})); it != cells_.end())
                        for (mesh::VertexId v : it->second) visit(v);
    }

private:
    [[nodiscard]] Eigen::Array3d cellOf(const mesh::Point& p) const { return (p.array() / cell_).floor(); }
    static std::uint64_t keyOf(const Eigen::Array3d& c) {
        std::uint64_t h = 0;
        for (int k = 0; k < 3; ++k)
            h = (h ^ static_cast<std::uint64_t>(static_cast<std::int64_t>(c[k]))) * 0x9E3779B97F4A7C15ULL;
        return h;
    }

    double cell_;
    std::unordered_map<std::uint64_t, std::vector<mesh::VertexId>> cells_;
};

inline mesh::Box around(const mesh::Point& p, double reach) {
    mesh::Box box;
    box.add(mesh::Point(p.array() - reach));
    box.add(mesh::Point(p.array() + reach));
    return box;
}

}  // namespace zither::space
