// Planar triangulations on integer grids and random points.
#include <Eigen/Geometry>
#include <numbers>
#include <set>

#include "exact/planar_triangulation.h"
#include "space/winding.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using exact::PlanarTriangulation;

constexpr std::uint32_t none = PlanarTriangulation::none;

// Segments on a small integer grid, where everything coincides, in a triangle around them.
class GridSegments final : private exact::PlanarSource {
public:
    GridSegments(std::uint64_t seed, std::size_t count, std::size_t side) {
        rig::Random random(seed);
        points_ = {Point(-30, -30, 0), Point(90, -30, 0), Point(-30, 90, 0)};
        for (std::size_t i = 0; i < 2 * count; ++i)
            points_.emplace_back(static_cast<double>(random.below(side)), static_cast<double>(random.below(side)), 0);
        grid_ = std::make_unique<exact::IntegerGrid>(points_);
        plane.start(*this, 2, 1, grid_->approximationError());
        plane.startWith({vertex(0), vertex(1), vertex(2)});
        std::vector<std::uint32_t> local;
        for (std::uint32_t i = 3; i < points_.size(); ++i) local.push_back(plane.insert(vertex(i)));
        for (std::uint32_t i = 0; i < count; ++i) {
            ends.push_back({local[2 * i], local[2 * i + 1]});
            if (local[2 * i] != local[2 * i + 1]) plane.constrain(local[2 * i], local[2 * i + 1], i);
        }
        plane.improve();
    }

    [[nodiscard]] const Point& from(std::uint32_t segment) const { return points_[3 + 2 * segment]; }
    [[nodiscard]] const Point& to(std::uint32_t segment) const { return points_[4 + 2 * segment]; }

    PlanarTriangulation plane;
    std::vector<std::array<std::uint32_t, 2>> ends;

private:
    [[nodiscard]] PlanarTriangulation::Vertex vertex(std::uint32_t i) const {
        return plane.vertexAt(i, points_[i], true, {});
    }
    [[nodiscard]] exact::Homogeneous exactPoint(std::uint32_t name) const override {
        if (name < points_.size()) return grid_->point(points_[name]);
        const auto& [a, b, c, d] = made_[name - points_.size()];
        return exact::lineCrossing(*grid_, 2, points_[a], points_[b], points_[c], points_[d]);
    }
    Crossing cross(std::uint32_t a, std::uint32_t b) override {
        made_.push_back({3 + 2 * a, 4 + 2 * a, 3 + 2 * b, 4 + 2 * b});
        const auto name = static_cast<std::uint32_t>(points_.size() + made_.size() - 1);
        return {name, grid_->nearest(exactPoint(name))};
    }

    std::vector<Point> points_;
    std::unique_ptr<exact::IntegerGrid> grid_;
    std::vector<std::array<std::uint32_t, 4>> made_;
};

TEST(PlanarTriangulation, StaysATriangulationOnIntegerGrids) {
    for (std::uint64_t seed = 0; seed < 300; ++seed) {
        const GridSegments g(seed, 3 + seed % 25, 3 + seed % 7);
        const auto& faces = g.plane.faces();
        double area = 0;
        for (std::uint32_t f = 0; f < faces.size(); ++f) {
            const auto& v = faces[f].v;
            ASSERT_GT(g.plane.orient(v[0], v[1], v[2]), 0) << seed;
            const auto& a = g.plane.vertices()[v[0]];
            const auto& b = g.plane.vertices()[v[1]];
            const auto& c = g.plane.vertices()[v[2]];
            area += ((b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x)) / 2;
            for (unsigned i = 0; i < 3; ++i) {
                const std::uint32_t n = faces[f].neighbour[i];
                if (n == none) continue;
                // The neighbour has the same edge the other way round, and carries the same constraints.
                bool mutual = false;
                for (unsigned j = 0; j < 3; ++j)
                    mutual |= faces[n].neighbour[j] == f && faces[n].v[(j + 1) % 3] == v[(i + 2) % 3] &&
                              faces[n].v[(j + 2) % 3] == v[(i + 1) % 3] &&
                              faces[n].constraints[j] == faces[f].constraints[i];
                ASSERT_TRUE(mutual) << seed;
            }
        }
        EXPECT_NEAR(area, 7200, 1e-9) << seed;
    }
}

TEST(PlanarTriangulation, EdgesOfAConstraintMakeUpItsSegment) {
    for (std::uint64_t seed = 0; seed < 210; ++seed) {
        // The last have more constraints than the bits of a word.
        const GridSegments g(seed, seed < 200 ? 3 + seed % 20 : 60 + 5 * (seed % 10), 3 + seed % 6);
        std::vector<double> covered(g.ends.size(), 0);
        for (const auto& face : g.plane.faces())
            for (unsigned i = 0; i < 3; ++i) {
                const auto& a = g.plane.vertices()[face.v[(i + 1) % 3]];
                const auto& b = g.plane.vertices()[face.v[(i + 2) % 3]];
                g.plane.constraintsOf(face.constraints[i], [&](std::uint32_t c) {
                    covered[c] += std::hypot(b.x - a.x, b.y - a.y) / 2;  // seen from both sides
                    for (const auto* p : {&a, &b}) {
                        const Point along = g.to(c) - g.from(c);
                        EXPECT_NEAR(along.cross(Point(p->x, p->y, 0) - g.from(c)).norm(), 0, 1e-9) << seed;
                    }
                });
            }
        for (std::uint32_t c = 0; c < covered.size(); ++c)
            EXPECT_NEAR(covered[c], (g.to(c) - g.from(c)).norm(), 1e-9) << seed;
    }
}

TEST(PlanarTriangulation, VerticesAreThePointsAndTheCrossingsEachOnce) {
    for (std::uint64_t seed = 0; seed < 100; ++seed) {
        const GridSegments g(seed, 10, 6);
        std::set<std::pair<long, long>> expected{{-30000, -30000}, {90000, -30000}, {-30000, 90000}};
        const auto add = [&](double x, double y) { expected.emplace(std::lround(1e3 * x), std::lround(1e3 * y)); };
        for (std::uint32_t i = 0; i < 10; ++i) {
            add(g.from(i).x(), g.from(i).y());
            add(g.to(i).x(), g.to(i).y());
            for (std::uint32_t j = 0; j < i; ++j) {
                // Where the lines cross within both segments.
                const Point u = g.to(i) - g.from(i);
                const Point v = g.to(j) - g.from(j);
                const double turn = u.cross(v).z();
                if (turn == 0) continue;
                const double s = (g.from(j) - g.from(i)).cross(v).z() / turn;
                const double t = (g.from(j) - g.from(i)).cross(u).z() / turn;
                if (s < 0 || s > 1 || t < 0 || t > 1) continue;
                const Point p = g.from(i) + s * u;
                add(p.x(), p.y());
            }
        }
        std::multiset<std::pair<long, long>> found;
        for (const auto& v : g.plane.vertices()) found.emplace(std::lround(1e3 * v.x), std::lround(1e3 * v.y));
        EXPECT_EQ(std::vector(found.begin(), found.end()), std::vector(expected.begin(), expected.end())) << seed;
    }
}

// ---- the generalised winding number

double slowWinding(const Mesh& m, const Point& p) {
    double sum = 0;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) {
        const Point a = m.corner(t, 0) - p;
        const Point b = m.corner(t, 1) - p;
        const Point c = m.corner(t, 2) - p;
        const double la = a.norm(), lb = b.norm(), lc = c.norm();
        sum += 2 * std::atan2(a.dot(b.cross(c)), la * lb * lc + a.dot(b) * lc + b.dot(c) * la + c.dot(a) * lb);
    }
    return sum / (4 * std::numbers::pi);
}

TEST(WindingTree, IsNearTheExactSum) {
    for (std::uint64_t seed : {0, 3, 8, 9, 10, 11}) {
        const Assembly a = AssemblyMaker(seed).make(seed);
        const space::WindingTree tree(a.mesh);
        rig::Random random(seed);
        const mesh::Box box = mesh::boxOf(a.mesh);
        for (int i = 0; i < 200; ++i) {
            const Point p = box.centre() + random.uniform() * box.diagonal() * random.direction();
            EXPECT_NEAR(tree.at(p), slowWinding(a.mesh, p), 0.01) << a.kind;
        }
    }
}

// Bundles of neighbours, of one point, of points far apart, and of points far away from everything.
TEST(WindingTree, OfManyPointsIsNearTheExactSumHoweverTheyLie) {
    for (std::uint64_t seed : {0, 3, 8, 9}) {
        const Assembly a = AssemblyMaker(seed).make(seed);
        const space::WindingTree tree(a.mesh);
        rig::Random random(seed);
        const mesh::Box box = mesh::boxOf(a.mesh);
        for (const double apart : {0.0, 1e-6, 0.003, 0.03, 0.3, 3.0})
            for (const std::size_t count : {1U, 7U, 50U}) {
                const Point middle = box.centre() + random.uniform() * box.diagonal() * random.direction();
                std::vector<Point> points;
                for (std::size_t i = 0; i < count; ++i)
                    points.push_back(middle + apart * box.diagonal() * random.uniform() * random.direction());
                std::vector<double> values(count, 5);
                tree.at(points, values);
                for (std::size_t i = 0; i < count; ++i)
                    EXPECT_NEAR(values[i], slowWinding(a.mesh, points[i]), 0.01) << a.kind << " apart " << apart;
            }
    }
    std::vector<double> nothing(2, 5);
    space::WindingTree(Mesh(), {}, {}).at(std::vector<Point>(2, Point(1, 2, 3)), nothing);
    EXPECT_EQ(nothing, std::vector<double>(2, 0.0));
}

// The angle is a product of complex numbers that are below one in size.
TEST(WindingTree, ThousandsOfNearTrianglesDoNotVanishInTheProduct) {
    Mesh m;
    constexpr unsigned sides = 6000;
    m.positions = {Point(0, 0, 1), Point(0, 0, -1)};
    for (unsigned i = 0; i < sides; ++i) {
        const double angle = 2 * std::numbers::pi * i / sides;
        m.positions.emplace_back(std::cos(angle), std::sin(angle), 0);
        const mesh::VertexId from = 2 + i;
        const mesh::VertexId to = 2 + (i + 1) % sides;
        m.triangles.push_back({0, from, to});
        m.triangles.push_back({1, to, from});
    }
    const space::WindingTree tree(m);
    EXPECT_NEAR(tree.at(Point(0.01, 0.02, 0.1)), 1, 1e-6);
    EXPECT_NEAR(tree.at(Point(0.01, 0.02, 1.1)), 0, 0.01);
}

TEST(WindingTree, CountsWeightsAndNothingForNothing) {
    const Mesh m = unitBox();
    std::vector<mesh::TriangleId> all{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11};
    EXPECT_NEAR(space::WindingTree(m, all, std::vector<int>(12, 2)).at(Point(0.4, 0.5, 0.6)), 2, 1e-9);
    EXPECT_NEAR(space::WindingTree(m, all, std::vector<int>(12, -1)).at(Point(0.4, 0.5, 0.6)), -1, 1e-9);
    EXPECT_NEAR(space::WindingTree(m).at(Point(7, 8, 9)), 0, 1e-2);
    EXPECT_EQ(space::WindingTree(m, {}, {}).at(Point(0, 0, 0)), 0);
    // On the surface: the mean of both sides.
    EXPECT_NEAR(space::WindingTree(m).at(Point(0.3, 0.6, 0)), 0.5, 1e-9);
}

}  // namespace
}  // namespace zither::tests
