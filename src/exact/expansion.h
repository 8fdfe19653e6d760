// Sums of doubles that do not overlap, smallest first: exact results of +, -, * as long as nothing over- or
// underflows. Shewchuk 1997, sections 2.2 to 2.7.
#pragma once

#include <array>
#include <cstddef>

namespace zither::exact {

// a + b = sum + error, exactly.
inline void twoSum(double a, double b, double& sum, double& error) {
    sum = a + b;
    const double bVirtual = sum - a;
    const double aVirtual = sum - bVirtual;
    error = (a - aVirtual) + (b - bVirtual);
}

// a * b = product + error, exactly (Dekker's split: no fused multiply-add is assumed).
inline void twoProduct(double a, double b, double& product, double& error) {
    constexpr double splitter = 134217729.0;  // 2^27 + 1
    product = a * b;
    const double ca = splitter * a;
    const double aHigh = ca - (ca - a);
    const double aLow = a - aHigh;
    const double cb = splitter * b;
    const double bHigh = cb - (cb - b);
    const double bLow = b - bHigh;
    error = aLow * bLow - (((product - aHigh * bHigh) - aLow * bHigh) - aHigh * bLow);
}

// At most Capacity components, increasing in magnitude, zeros left out.
template <std::size_t Capacity>
struct Expansion {
    std::array<double, Capacity> part;
    std::size_t size = 0;

    void push(double x) {
        if (x != 0) part[size++] = x;
    }
    // The largest component has the sign of the whole.
    [[nodiscard]] int sign() const { return size == 0 ? 0 : (part[size - 1] > 0 ? 1 : -1); }
};

inline Expansion<2> difference(double a, double b) {
    double sum = 0;
    double error = 0;
    twoSum(a, -b, sum, error);
    Expansion<2> e;
    e.push(error);
    e.push(sum);
    return e;
}

// e + b (GROW-EXPANSION with zero elimination), in place; e must have room for one more component.
template <std::size_t N>
void grow(Expansion<N>& e, double b) {
    double q = b;
    std::size_t out = 0;
    for (std::size_t i = 0; i < e.size; ++i) {
        double sum = 0;
        double error = 0;
        twoSum(q, e.part[i], sum, error);
        q = sum;
        if (error != 0) e.part[out++] = error;
    }
    if (q != 0) e.part[out++] = q;
    e.size = out;
}

template <std::size_t N, std::size_t M>
Expansion<N + M> sum(const Expansion<N>& a, const Expansion<M>& b, double signOfB = 1) {
    Expansion<N + M> result;
    result.size = a.size;
    for (std::size_t i = 0; i < a.size; ++i) result.part[i] = a.part[i];
    for (std::size_t i = 0; i < b.size; ++i) grow(result, signOfB * b.part[i]);
    return result;
}

template <std::size_t N, std::size_t M>
Expansion<2 * N * M> product(const Expansion<N>& a, const Expansion<M>& b) {
    Expansion<2 * N * M> result;
    for (std::size_t i = 0; i < a.size; ++i)
        for (std::size_t j = 0; j < b.size; ++j) {
            double high = 0;
            double low = 0;
            twoProduct(a.part[i], b.part[j], high, low);
            if (low != 0) grow(result, low);
            grow(result, high);
        }
    return result;
}

}  // namespace zither::exact
