// Numbers of twice the precision of a double: an unevaluated sum high + low with |low| <= ulp(high) / 2. Sums and
// products are off by at most 2^-100 of the magnitudes that went in, as long as nothing over- or underflows.
#pragma once

#include "exact/expansion.h"

namespace zither::exact {

struct DoubleDouble {
    double high = 0;
    double low = 0;

    // a - b, exactly.
    static DoubleDouble difference(double a, double b) {
        DoubleDouble d;
        twoSum(a, -b, d.high, d.low);
        return d;
    }
};

inline DoubleDouble quickTwoSum(double a, double b) {
    const double sum = a + b;
    return {sum, b - (sum - a)};
}

inline DoubleDouble operator+(const DoubleDouble& a, const DoubleDouble& b) {
    double sum = 0, error = 0, lowSum = 0, lowError = 0;
    twoSum(a.high, b.high, sum, error);
    twoSum(a.low, b.low, lowSum, lowError);
    const DoubleDouble first = quickTwoSum(sum, error + lowSum);
    return quickTwoSum(first.high, first.low + lowError);
}

inline DoubleDouble operator-(const DoubleDouble& a) {
    return {-a.high, -a.low};
}

inline DoubleDouble operator-(const DoubleDouble& a, const DoubleDouble& b) {
    return a + -b;
}

inline DoubleDouble operator*(const DoubleDouble& a, const DoubleDouble& b) {
    double high = 0, low = 0;
    twoProduct(a.high, b.high, high, low);
    return quickTwoSum(high, low + (a.high * b.low + a.low * b.high));
}

// Off by at most 2^-98 of the quotient.
inline DoubleDouble operator/(const DoubleDouble& a, const DoubleDouble& b) {
    const double first = a.high / b.high;
    const DoubleDouble rest = a - b * DoubleDouble{first, 0};
    const double second = rest.high / b.high;
    const DoubleDouble rest2 = rest - b * DoubleDouble{second, 0};
    const DoubleDouble sum = quickTwoSum(first, second);
    return sum + DoubleDouble{rest2.high / b.high, 0};
}

}  // namespace zither::exact
