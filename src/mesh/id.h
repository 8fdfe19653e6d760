// Indices that know what they count: a vertex is not taken for a triangle.
#pragma once

#include <concepts>
#include <cstdint>
#include <functional>
#include <limits>

namespace zither::mesh {

// A 32-bit index into an array of What. It is made from any whole number and is read as one, so that arrays are indexed
// and counted through as usual; an index of another kind is neither taken nor compared (it does not compile).
template <class What>
class Id {
public:
    constexpr Id() = default;
    template <std::integral Number>
    constexpr Id(Number value) : value_(static_cast<std::uint32_t>(value)) {}
    template <class Other>
    Id(Id<Other>) = delete;

    constexpr operator std::uint32_t() const { return value_; }

    constexpr Id& operator++() {
        ++value_;
        return *this;
    }
    constexpr Id operator++(int) { return value_++; }
    constexpr Id& operator--() {
        --value_;
        return *this;
    }
    constexpr Id operator--(int) { return value_--; }

private:
    std::uint32_t value_ = 0;
};

template <class A, class B>
requires(!std::same_as<A, B>) bool operator==(Id<A>, Id<B>) = delete;
template <class A, class B>
requires(!std::same_as<A, B>) auto operator<=>(Id<A>, Id<B>) = delete;

// Stands for no vertex, triangle, edge, shell ...: the one value that every kind of index takes.
struct NoIndex {
    template <class What>
    constexpr operator Id<What>() const {
        return Id<What>(0xFFFFFFFFU);
    }
    constexpr operator std::uint32_t() const { return 0xFFFFFFFFU; }
};
inline constexpr NoIndex noIndex;

// One number for two indices in this order, for tables of edges above all.
constexpr std::uint64_t pairKey(std::uint32_t a, std::uint32_t b) {
    return std::uint64_t{a} << 32 | b;
}

}  // namespace zither::mesh

// An index has no limits of its own; the general template would say 0.
template <class What>
class std::numeric_limits<zither::mesh::Id<What>>;

template <class What>
struct std::hash<zither::mesh::Id<What>> {
    std::size_t operator()(zither::mesh::Id<What> id) const { return std::hash<std::uint32_t>()(id); }
};
