// Numbers sorted into buckets by all cores, each bucket to be worked on by itself within a cache.
#pragma once

#include <cstdint>
#include <span>
#include <utility>
#include <vector>

#include "mesh/parallel.h"

namespace zither::mesh {

// The numbers below a count by their bucket, ascending in each. 4 bytes a number.
class Partition {
public:
    // `bucketOf(i)`, below `buckets`, is asked for twice for each i in [0, count), from several threads.
    template <class BucketOf>
    Partition(std::size_t count, std::size_t buckets, const BucketOf& bucketOf)
        : members_(count), begin_(buckets + 1, 0) {
        const std::size_t blocks = std::min<std::size_t>(64, count / std::max<std::size_t>(4096, 4 * buckets) + 1);
        const auto forEachOf = [&](std::size_t block, const auto& use) {
            for (std::size_t i = count * block / blocks; i < count * (block + 1) / blocks; ++i) use(i, bucketOf(i));
        };
        // Counts, then places, a row a block: members of a bucket come out in ascending order whatever the threads.
        std::vector<std::uint32_t> place(blocks * buckets, 0);
        parallelFor(blocks, 1, [&](std::size_t block) {
            forEachOf(block, [&](std::size_t, std::size_t bucket) { ++place[block * buckets + bucket]; });
        });
        std::uint32_t total = 0;
        for (std::size_t bucket = 0; bucket < buckets; ++bucket) {
            begin_[bucket] = total;
            for (std::size_t block = 0; block < blocks; ++block)
                total += std::exchange(place[block * buckets + bucket], total);
        }
        begin_[buckets] = total;
        parallelFor(blocks, 1, [&](std::size_t block) {
            forEachOf(block, [&](std::size_t i, std::size_t bucket) {
                members_[place[block * buckets + bucket]++] = static_cast<std::uint32_t>(i);
            });
        });
    }

    [[nodiscard]] std::size_t bucketCount() const { return begin_.size() - 1; }
    // How many numbers the buckets before this one hold.
    [[nodiscard]] std::size_t beginOf(std::size_t bucket) const { return begin_[bucket]; }
    [[nodiscard]] std::span<const std::uint32_t> operator[](std::size_t bucket) const {
        return std::span(members_).subspan(begin_[bucket], begin_[bucket + 1] - begin_[bucket]);
    }

    // Those of all buckets, one bucket after another.
    [[nodiscard]] std::span<const std::uint32_t> all() const { return members_; }

private:
    std::vector<std::uint32_t> members_;
    std::vector<std::uint32_t> begin_;
};

}  // namespace zither::mesh
