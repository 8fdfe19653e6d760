// The flat patch: a constrained triangulation of the loops in their plane.
#include <Eigen/Geometry>
#include <algorithm>

#include "exact/planar_triangulation.h"
#include "holes/patches.h"

namespace zither::holes {
namespace {

using exact::PlanarTriangulation;
using mesh::Point;
using mesh::VertexId;

// The loops in their plane. Projected coordinates are rounded once; on them everything is exact.
class FlatView final : private exact::PlanarSource {
public:
    FlatView(const std::vector<Point>& positions, std::span<const Loop> loops, const Point& normal) {
        const Point n = normal.normalized();
        const Point u = n.unitOrthogonal();
        const Point v = n.cross(u);
        double reach = 0;
        const Point& origin = positions[loops.front().vertices.front()];
        u_ = u;
        v_ = v;
        // The plane through the mean of the outer rim.
        origin_ = origin;
        double above = 0;
        for (VertexId i : loops.front().vertices) above += n.dot(positions[i] - origin);
        origin_ += above / static_cast<double>(loops.front().vertices.size()) * n;
        for (const Loop& loop : loops)
            for (VertexId i : loop.vertices) {
                const Point p = positions[i] - origin;
                points_.emplace_back(u.dot(p), v.dot(p), 0);
                names_.push_back(i);
                reach = std::max(reach, p.norm());
            }
        const std::size_t count = points_.size();
        rimCount_ = count;
        for (const Point& corner : {Point(-4, -3, 0), Point(4, -3, 0), Point(0, 6, 0)})
            points_.push_back((reach > 0 ? reach : 1.0) * corner);
        if (count > mostBare) addInner(reach);
        grid_ = std::make_unique<exact::IntegerGrid>(points_);
        plane_.start(*this, 2, 1, grid_->approximationError());
        plane_.startWith({vertex(count), vertex(count + 1), vertex(count + 2)});
        // Those within go first: each vertex of the rim then finds its place, and changes little, near by.
        for (std::size_t i = count + 3; i < points_.size(); ++i) plane_.insert(vertex(i));
        std::size_t first = 0;
        for (const Loop& loop : loops) {
            std::vector<std::uint32_t> local;
            for (std::size_t i = 0; i < loop.vertices.size(); ++i) {
                const auto before = static_cast<std::uint32_t>(plane_.vertices().size());
                local.push_back(plane_.insert(vertex(first + i)));
                if (local.back() < before) crossed_ = true;  // on top of another one
            }
            locals_.push_back(std::move(local));
            first += loop.vertices.size();
        }
        first = 0;
        for (std::size_t l = 0; l < loops.size() && !crossed_; ++l) {
            const std::size_t n2 = locals_[l].size();
            for (std::size_t i = 0; i < n2 && !crossed_; ++i) {
                ends_.push_back({first + i, first + (i + 1) % n2});
                plane_.constrain(locals_[l][i], locals_[l][(i + 1) % n2], static_cast<std::uint32_t>(ends_.size() - 1));
            }
            first += n2;
        }
        if (!crossed_) plane_.improve();
    }

    // Faces inside an odd number of loops; none where the loops cross or touch each other in the plane. `given`: how
    // many vertices there are outside the patch.
    [[nodiscard]] Patch inside(std::size_t given) const {
        Patch patch;
        if (crossed_) return patch;
        const auto& faces = plane_.faces();
        std::vector<int> depth(faces.size(), -1);
        std::vector<std::uint32_t> open;
        for (std::uint32_t f = 0; f < faces.size(); ++f)
            for (std::uint32_t v : faces[f].v)
                if (v < 3 && depth[f] < 0) {
                    depth[f] = 0;
                    open.push_back(f);
                }
        while (!open.empty()) {
            const std::uint32_t f = open.back();
            open.pop_back();
            for (unsigned i = 0; i < 3; ++i) {
                const std::uint32_t g = faces[f].neighbour[i];
                if (g == PlanarTriangulation::none || depth[g] >= 0) continue;
                depth[g] = depth[f] ^ static_cast<int>(faces[f].constraints[i] != PlanarTriangulation::none);
                open.push_back(g);
            }
        }
        std::vector<VertexId> numberOf(points_.size(), mesh::noEdge);
        for (std::uint32_t f = 0; f < faces.size(); ++f) {
            if (depth[f] != 1) continue;
            mesh::Triangle t{};
            for (unsigned i = 0; i < 3; ++i) {
                const std::uint32_t name = plane_.vertices()[faces[f].v[i]].name;
                if (name < rimCount_) {
                    t[i] = names_[name];
                    continue;
                }
                if (numberOf[name] == mesh::noEdge) {
                    numberOf[name] = static_cast<VertexId>(given + patch.added.size());
                    patch.added.push_back(origin_ + points_[name].x() * u_ + points_[name].y() * v_);
                }
                t[i] = numberOf[name];
            }
            patch.triangles.push_back(t);
        }
        return patch;
    }

private:
    [[nodiscard]] PlanarTriangulation::Vertex vertex(std::size_t i) const {
        return plane_.vertexAt(static_cast<std::uint32_t>(i), points_[i], true, {});
    }
    [[nodiscard]] exact::Homogeneous exactPoint(std::uint32_t name) const override {
        if (name < points_.size()) return grid_->point(points_[name]);
        const auto& [a, b] = made_[name - points_.size()];
        return exact::lineCrossing(*grid_, 2, points_[ends_[a][0]], points_[ends_[a][1]], points_[ends_[b][0]],
                                   points_[ends_[b][1]]);
    }
    Crossing cross(std::uint32_t a, std::uint32_t b) override {
        crossed_ = true;
        made_.push_back({a, b});
        const auto name = static_cast<std::uint32_t>(points_.size() + made_.size() - 1);
        return {name, grid_->nearest(exactPoint(name))};
    }

    // Vertices within, because a triangle that reaches over the whole hole would overlap the box of every other one;
    // the sparser the farther from the rim: the middles of the empty cells of a quadtree that is split wherever a
    // cell's surroundings hold more than one rim vertex.
    void addInner(double reach) {
        struct Cell {
            double x;
            double y;
            double half;
            std::vector<std::uint32_t> near;
        };
        std::vector<std::uint32_t> all(rimCount_);
        for (std::uint32_t i = 0; i < rimCount_; ++i) all[i] = i;
        const double smallest = 8 * reach / static_cast<double>(rimCount_);
        std::vector<Cell> open{{0, 0, 1.01 * reach, std::move(all)}};
        while (!open.empty()) {
            const Cell cell = std::move(open.back());
            open.pop_back();
            if (cell.near.empty()) {
                points_.emplace_back(cell.x, cell.y, 0);
                continue;
            }
            if (cell.half < smallest) continue;
            for (const double dx : {-0.5, 0.5})
                for (const double dy : {-0.5, 0.5}) {
                    Cell child{cell.x + dx * cell.half, cell.y + dy * cell.half, 0.5 * cell.half, {}};
                    for (std::uint32_t i : cell.near)
                        if (std::abs(points_[i].x() - child.x) < 2 * child.half &&
                            std::abs(points_[i].y() - child.y) < 2 * child.half)
                            child.near.push_back(i);
                    open.push_back(std::move(child));
                }
        }
    }

    // Rims of fewer vertices get none within.
    static constexpr std::size_t mostBare = 300;

    Point origin_ = Point::Zero();
    Point u_ = Point::Zero();
    Point v_ = Point::Zero();
    std::size_t rimCount_ = 0;
    std::vector<Point> points_;  // of the rims, three corners around all, then within
    std::vector<VertexId> names_;
    std::vector<std::vector<std::uint32_t>> locals_;
    std::vector<std::array<std::size_t, 2>> ends_;    // of each constraint
    std::vector<std::array<std::uint32_t, 2>> made_;  // constraints that cross
    std::unique_ptr<exact::IntegerGrid> grid_;
    PlanarTriangulation plane_;
    bool crossed_ = false;
};

}  // namespace

Patch flatPatch(const std::vector<Point>& positions, std::span<const Loop> loops, const Point& normal) {
    if (normal == Point::Zero()) return {};
    return FlatView(positions, loops, normal).inside(positions.size());
}

}  // namespace zither::holes
