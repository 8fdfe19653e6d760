// Constructed points against rational arithmetic.
#include <boost/multiprecision/cpp_int.hpp>

#include "exact/constructed_point.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using Rational = boost::multiprecision::cpp_rational;
using exact::Homogeneous;
using exact::IntegerGrid;

// The same by rational numbers and the textbook.
using RationalPoint = std::array<Rational, 3>;

RationalPoint rational(const Point& p) {
    return {Rational(p.x()), Rational(p.y()), Rational(p.z())};
}
RationalPoint minus(const RationalPoint& a, const RationalPoint& b) {
    return {a[0] - b[0], a[1] - b[1], a[2] - b[2]};
}
RationalPoint cross(const RationalPoint& a, const RationalPoint& b) {
    return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
}
Rational dot(const RationalPoint& a, const RationalPoint& b) {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

struct Plane {
    std::array<Point, 3> at;
    [[nodiscard]] exact::Corner3 points() const { return {&at[0], &at[1], &at[2]}; }
    [[nodiscard]] RationalPoint normal() const {
        return cross(minus(rational(at[1]), rational(at[0])), minus(rational(at[2]), rational(at[0])));
    }
};

// Small integers, random numbers, both far from the origin, and points a unit in the last place apart.
class Places {
public:
    explicit Places(std::uint64_t seed) : random_(seed), kind_(seed % 5) {}
    Point point() {
        Point p;
        for (int k = 0; k < 3; ++k) switch (kind_) {
                case 0:
                    p[k] = static_cast<double>(random_.below(4));
                    break;
                case 1:
                    p[k] = random_.between(-1, 1);
                    break;
                case 2:
                    p[k] = 1e6 + random_.between(-1, 1);
                    break;
                case 3:
                    p[k] = std::nextafter(static_cast<double>(1 + random_.below(2)), random_.below(2) == 0 ? 0.0 : 9.0);
                    break;
                default:
                    p[k] = std::ldexp(random_.between(-1, 1), static_cast<int>(random_.below(60)) - 30);
            }
        return p;
    }
    Plane plane() { return {{point(), point(), point()}}; }

private:
    rig::Random random_;
    std::uint64_t kind_;
};

RationalPoint valueOf(const Homogeneous& h, const Rational& unit) {
    RationalPoint p;
    for (int k = 0; k < 3; ++k)
        p[static_cast<std::size_t>(k)] = Rational(boost::multiprecision::cpp_int(h[k].str())) * unit /
                                         Rational(boost::multiprecision::cpp_int(h.w.str()));
    return p;
}

TEST(ConstructedPoints, AgreeWithRationals) {
    const int cases = longMode() ? 80'000 : 500;
    int lines = 0;
    int planes = 0;
    for (int c = 0; c < cases; ++c) {
        Places places(static_cast<std::uint64_t>(c));
        const Point p = places.point();
        const Point q = places.point();
        const Plane a = places.plane();
        const Plane b = places.plane();
        const Plane d = places.plane();
        std::vector<Point> all{p, q, places.point(), places.point()};
        for (const Plane& plane : {a, b, d}) all.insert(all.end(), plane.at.begin(), plane.at.end());
        const IntegerGrid grid(all);
        // The unit of the grid, from a coordinate that is not zero.
        Rational unit = 0;
        for (const Point& x : all)
            if (x.x() != 0 && unit == 0)
                unit = Rational(x.x()) / Rational(boost::multiprecision::cpp_int(grid.toInteger(x.x()).str()));
        if (unit == 0) continue;

        std::vector<std::pair<Homogeneous, RationalPoint>> made;
        const RationalPoint along = minus(rational(q), rational(p));
        const Rational w = dot(a.normal(), along);
        if (w != 0) {
            ++lines;
            const Rational t = dot(a.normal(), minus(rational(a.at[0]), rational(p))) / w;
            RationalPoint expected = rational(p);
            for (std::size_t k = 0; k < 3; ++k) expected[k] += t * along[k];
            made.emplace_back(exact::linePlanePoint(grid, p, q, a.points()), expected);
            // Approximations are promised for points between p and q.
            const auto near = exact::approximateLinePlane(p, q, a.points());
            for (int k = 0; near && t >= 0 && t <= 1 && k < 3; ++k)
                ASSERT_LE(abs(Rational((*near)[k]) - expected[static_cast<std::size_t>(k)]),
                          Rational(grid.approximationError()));
        }
        const Rational determinant = dot(a.normal(), cross(b.normal(), d.normal()));
        if (determinant != 0) {
            ++planes;
            const Rational da = dot(a.normal(), rational(a.at[0]));
            const Rational db = dot(b.normal(), rational(b.at[0]));
            const Rational dd = dot(d.normal(), rational(d.at[0]));
            const RationalPoint bd = cross(b.normal(), d.normal());
            const RationalPoint dA = cross(d.normal(), a.normal());
            const RationalPoint ab = cross(a.normal(), b.normal());
            RationalPoint expected;
            for (std::size_t k = 0; k < 3; ++k) expected[k] = (da * bd[k] + db * dA[k] + dd * ab[k]) / determinant;
            made.emplace_back(exact::threePlanePoint(grid, a.points(), b.points(), d.points()), expected);
        }
        for (std::size_t i = 0; i < 2; ++i) made.emplace_back(grid.point(all[i]), rational(all[i]));
        for (const auto& [h, expected] : made) {
            ASSERT_EQ(valueOf(h, unit), expected);
            ASSERT_GT(h.w, 0);
        }
        for (const auto& [h, x] : made)
            for (const auto& [g, y] : made) {
                for (int k = 0; k < 3; ++k)
                    ASSERT_EQ(exact::compare(k, h, g),
                              x[static_cast<std::size_t>(k)].compare(y[static_cast<std::size_t>(k)]) < 0
                                  ? -1
                                  : x[static_cast<std::size_t>(k)] > y[static_cast<std::size_t>(k)]);
                ASSERT_EQ(exact::equal(h, g), x == y);
                for (int axis = 0; axis < 3; ++axis) {
                    const auto u = static_cast<std::size_t>((axis + 1) % 3);
                    const auto v = static_cast<std::size_t>((axis + 2) % 3);
                    const RationalPoint z = rational(p);
                    const Rational turn = (x[u] - z[u]) * (y[v] - z[v]) - (x[v] - z[v]) * (y[u] - z[u]);
                    ASSERT_EQ(exact::orient2dDropping(axis, h, g, grid.point(p)), turn.sign());
                    const int filtered = exact::filteredOrient2dDropping(axis, grid.nearest(h), grid.nearest(g), p,
                                                                         grid.approximationError());
                    ASSERT_TRUE(filtered == 0 || filtered == turn.sign());
                }
            }
        const auto& [h, x] = made.front();
        const RationalPoint o = rational(p);
        ASSERT_EQ(exact::orient3d(grid.point(a.at[0]), grid.point(a.at[1]), grid.point(a.at[2]), h),
                  -dot(a.normal(), minus(x, rational(a.at[0]))).sign());
    }
    EXPECT_GT(lines, cases / 3);
    EXPECT_GT(planes, cases / 5);
}

TEST(ConstructedPoints, RoundToTheNearestDouble) {
    rig::Random random(3);
    for (int i = 0; i < 20000; ++i) {
        // A third of a double: never representable, so that rounding is put to work at every magnitude.
        const int exponent = static_cast<int>(random.below(2000)) - 1060;
        const double x = std::ldexp(random.between(-1, 1), exponent);
        const std::vector<Point> points{Point(x, x, 0)};
        const IntegerGrid grid(points);
        Homogeneous h = grid.point(points[0]);
        EXPECT_EQ(grid.nearestDouble(h, 0), x);
        EXPECT_EQ(grid.nearestDouble(h, 2), 0);
        h.w = 3;
        const double third = grid.nearestDouble(h, 0);
        const Rational exactly = Rational(x) / 3;
        const Rational off = abs(Rational(third) - exactly);
        EXPECT_LE(off, abs(Rational(std::nextafter(third, 1e308)) - exactly));
        EXPECT_LE(off, abs(Rational(std::nextafter(third, -1e308)) - exactly));
    }
}

TEST(ConstructedPoints, ApproximationsGiveUpRatherThanMislead) {
    // Planes that are nearly parallel to the line, by less than double-double arithmetic can tell.
    const Plane plane{{Point(0, 0, 0), Point(1, 0, 0x1p-60), Point(0, 1, 0x1p-60)}};
    EXPECT_FALSE(exact::approximateLinePlane(Point(0, 0, 1e-20), Point(1, 1, 1e-20), plane.points()));
    const std::vector<Point> huge{Point(1e300, 0, 0), Point(1e-300, 0, 0)};
    EXPECT_TRUE(std::isinf(IntegerGrid(huge).approximationError()));
}

}  // namespace
}  // namespace zither::tests
