// Predicates against rational arithmetic, at every size of numbers.
#include <cmath>

#include "exact/expansion.h"
#include "exact/predicates.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using exact::Point2;

std::size_t cases(std::size_t quick) {
    return longMode() ? 10'000'000 : quick;
}

// Coordinates of every kind: small integers, random, nearly equal, far from the origin, denormal, huge.
class Coordinates {
public:
    explicit Coordinates(std::uint64_t seed) : random_(seed) {}
    double next(int kind) {
        switch (kind) {
            case 0:
                return static_cast<double>(random_.below(4));
            case 1:
                return random_.between(-1, 1);
            case 2:
                return std::nextafter(0.5, random_.below(2) ? 1.0 : 0.0) + static_cast<double>(random_.below(3)) * 0.25;
            case 3:
                return 1e6 + static_cast<double>(random_.below(5)) * 0x1p-32;
            case 4:
                return static_cast<double>(random_.below(7)) * std::numeric_limits<double>::denorm_min();
            case 5:
                return random_.between(-1, 1) * 1e300;
            default:
                return std::ldexp(random_.between(-1, 1), static_cast<int>(random_.below(600)) - 300);
        }
    }
    Point point(int kind) {
        const double x = next(kind);
        const double y = next(kind);
        return {x, y, next(kind)};
    }

private:
    rig::Random random_;
};

TEST(Orient2d, AgreesWithRationals) {
    Coordinates c(11);
    for (std::size_t i = 0; i < cases(40'000); ++i) {
        const int kind = static_cast<int>(i % 7);
        const Point a = c.point(kind);
        const Point b = c.point(kind);
        const Point p = c.point(kind);
        const Point2 a2 = a.head<2>();
        const Point2 b2 = b.head<2>();
        const Point2 p2 = p.head<2>();
        ASSERT_EQ(exact::orient2d(a2, b2, p2), exact::orient2dRational(a2, b2, p2)) << "kind " << kind;
    }
}

TEST(Orient3d, AgreesWithRationals) {
    Coordinates c(12);
    for (std::size_t i = 0; i < cases(40'000); ++i) {
        const int kind = static_cast<int>(i % 7);
        const Point a = c.point(kind);
        const Point b = c.point(kind);
        const Point d = c.point(kind);
        const Point e = c.point(kind);
        ASSERT_EQ(exact::orient3d(a, b, d, e), exact::orient3dRational(a, b, d, e)) << "kind " << kind;
    }
}

TEST(Orient3d, AgreesOnPointsMovedByOneUlpFromAPlane) {
    Coordinates c(13);
    for (std::size_t i = 0; i < cases(20'000); ++i) {
        const Point a = c.point(1);
        const Point b = c.point(1);
        const Point d = c.point(1);
        Point e = a + 0.25 * (b - a) + 0.5 * (d - a);
        e[i % 3] = std::nextafter(e[i % 3], i % 2 ? 2.0 : -2.0);
        ASSERT_EQ(exact::orient3d(a, b, d, e), exact::orient3dRational(a, b, d, e));
    }
}

TEST(Orient3d, ChangesSignWithEverySwap) {
    Coordinates c(14);
    for (int i = 0; i < 2000; ++i) {
        const int kind = i % 7;
        const Point a = c.point(kind);
        const Point b = c.point(kind);
        const Point d = c.point(kind);
        const Point e = c.point(kind);
        const int sign = exact::orient3d(a, b, d, e);
        EXPECT_EQ(exact::orient3d(b, a, d, e), -sign);
        EXPECT_EQ(exact::orient3d(a, d, b, e), -sign);
        EXPECT_EQ(exact::orient3d(a, b, e, d), -sign);
    }
}

TEST(Orient3d, BelowThePlaneIsPositive) {
    EXPECT_EQ(exact::orient3d(Point(0, 0, 0), Point(1, 0, 0), Point(0, 1, 0), Point(0, 0, -1)), 1);
    EXPECT_EQ(exact::orient3d(Point(0, 0, 0), Point(1, 0, 0), Point(0, 1, 0), Point(0, 0, 1)), -1);
    EXPECT_EQ(exact::orient3d(Point(0, 0, 0), Point(1, 0, 0), Point(0, 1, 0), Point(5, 5, 0)), 0);
}

TEST(Orient3d, MixedMagnitudesWhereAProductUnderflows) {
    const Point a(0x1p-540, 0x1p-540, 0x1p500);
    const Point b(0x1p-540, -0x1p-540, 0);
    const Point d(1, 2, 0x1p-300);
    const Point e(0, 0, 0);
    EXPECT_EQ(exact::orient3d(a, b, d, e), exact::orient3dRational(a, b, d, e));
}

TEST(Collinear, ExactOnLongLines) {
    EXPECT_TRUE(exact::collinear(Point(0, 0, 0), Point(1, 2, 3), Point(1e9, 2e9, 3e9)));
    EXPECT_FALSE(exact::collinear(Point(0, 0, 0), Point(1, 2, 3), Point(1e9, 2e9, std::nextafter(3e9, 4e9))));
    EXPECT_TRUE(exact::collinear(Point(1, 1, 1), Point(1, 1, 1), Point(2, 3, 4)));
}

TEST(Expansion, ProductsAndSumsAreExact) {
    double high = 0;
    double low = 0;
    exact::twoProduct(1 + 0x1p-52, 1 + 0x1p-52, high, low);
    EXPECT_EQ(low, 0x1p-104);
    exact::twoSum(1, 0x1p-80, high, low);
    EXPECT_EQ(high, 1);
    EXPECT_EQ(low, 0x1p-80);
    const auto a = exact::difference(1, 0x1p-70);
    EXPECT_EQ(exact::sum(a, a, -1).sign(), 0);
    EXPECT_EQ(exact::product(a, exact::difference(0, 0)).sign(), 0);
}

// Rounding to 32 bits must happen: a compiler may not fold it away.
TEST(Rounding, FloatConversionDropsBits) {
    const volatile double hidden = 1.0 + 0x1p-40;
    const double x = hidden;
    EXPECT_EQ(rig::rounded(Point(x, x, x)), Point(1, 1, 1));
}

}  // namespace
}  // namespace zither::tests
