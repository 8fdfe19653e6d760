// Union-find with path halving and union by lower index: the root of a set is its smallest member, so that results do
// not depend on the order of unions.
#pragma once

#include <cstdint>
#include <numeric>
#include <vector>

namespace zither::mesh {

class DisjointSets {
public:
    explicit DisjointSets(std::size_t count) : parent_(count) { std::iota(parent_.begin(), parent_.end(), 0U); }

    std::uint32_t find(std::uint32_t x) {
        while (parent_[x] != x) {
            parent_[x] = parent_[parent_[x]];
            x = parent_[x];
        }
        return x;
    }

    // False where both were in one set already.
    bool join(std::uint32_t a, std::uint32_t b) {
        a = find(a);
        b = find(b);
        if (a == b) return false;
        if (a < b)
            parent_[b] = a;
        else
            parent_[a] = b;
        return true;
    }

    // The set of each member, numbered by their first members; `count`: how many there are.
    std::vector<std::uint32_t> numbered(std::uint32_t& count) {
        std::vector<std::uint32_t> numberOf(parent_.size());
        count = 0;
        // The root of a set is its first member.
        for (std::uint32_t x = 0; x < parent_.size(); ++x) {
            const std::uint32_t root = find(x);
            numberOf[x] = root == x ? count++ : numberOf[root];
        }
        return numberOf;
    }

private:
    std::vector<std::uint32_t> parent_;
};

}  // namespace zither::mesh
