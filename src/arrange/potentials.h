// Sheets whose winding numbers are known relative to each other.
#pragma once

#include <cstdint>
#include <utility>
#include <vector>

#include "arrange/cut_surface.h"

namespace zither::arrange {

// Union-find that carries the difference to the root.
class Potentials {
public:
    explicit Potentials(std::size_t count) : parent_(count), size_(count, 1), toParent_(count) {
        for (std::uint32_t i = 0; i < count; ++i) parent_[i] = i;
    }
    // The root, and what to add to the root's value to get that of x.
    std::pair<std::uint32_t, Windings> find(std::uint32_t x) {
        std::uint32_t root = x;
        Windings sum{};
        while (parent_[root] != root) {
            sum = sum + toParent_[root];
            root = parent_[root];
        }
        Windings rest = sum;
        while (parent_[x] != root && x != root) {
            const std::uint32_t up = parent_[x];
            const Windings own = toParent_[x];
            parent_[x] = root;
            toParent_[x] = rest;
            rest = rest - own;
            x = up;
        }
        return {root, sum};
    }
    // value(a) + da = value(b) + db.
    void link(std::uint32_t a, const Windings& da, std::uint32_t b, const Windings& db) {
        const auto [ra, sa] = find(a);
        const auto [rb, sb] = find(b);
        if (ra == rb) return;
        // value(ra) + sa + da = value(rb) + sb + db
        if (size_[ra] >= size_[rb]) {
            parent_[rb] = ra;
            size_[ra] += size_[rb];
            toParent_[rb] = sa + da - sb - db;
        } else {
            parent_[ra] = rb;
            size_[rb] += size_[ra];
            toParent_[ra] = sb + db - sa - da;
        }
    }

private:
    std::vector<std::uint32_t> parent_;
    std::vector<std::uint32_t> size_;
    std::vector<Windings> toParent_;
};

}  // namespace zither::arrange
