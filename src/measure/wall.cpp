// Rows of points across the longest edge of each triangle; a ray from each; thin points joined.
#include "measure/wall.h"

#include <algorithm>
#include <cmath>

#include "measure/measure_tolerances.h"
#include "measure/triangle_rows.h"
#include "mesh/blocks.h"
#include "mesh/disjoint_sets.h"

namespace zither::measure {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

constexpr double infinite = std::numeric_limits<double>::infinity();

// Triangles that are measured in one go: of a few large ones each by itself, so that all cores have some.
std::size_t blockOf(const Mesh& m) {
    constexpr std::size_t most = 1024;
    constexpr std::size_t parts = 256;
    return std::clamp<std::size_t>(m.triangles.size() / parts, 1, most);
}

// From a point of a triangle through the material behind it.
class Ways {
public:
    // Passages no farther apart than `together` are at one place.
    Ways(const WallSurface& s, double together) : s_(s), together_(together) {}

    // Infinite where the material is not left, or not within `within`.
    [[nodiscard]] double through(TriangleId t, const Point& from, const Point& inward, double within) {
        const space::RayScene::Way way{s_.mesh, t, from, inward, within};
        if (s_.solid) {
            const auto met = s_.rays.firstBeyond(way);
            return met ? met->along : infinite;
        }
        // Bodies may lie in each other: material ends where the last of them is left. How many there are about the
        // point tells the whole ray; it is asked only where one of them ends near enough.
        if (within < infinite) {
            s_.rays.allBeyond(way, passages_);
            if (endOf(1) == infinite) return infinite;
        }
        s_.rays.allBeyond({s_.mesh, t, from, inward}, passages_);
        int behind = 0;
        int here = 1;  // bodies that begin at the point, with its own; those that end there count against them
        for (const auto& p : passages_) {
            if (p.along > together_)
                behind += p.leaving ? 1 : -1;
            else if (p.along >= -together_)
                here += p.leaving ? -1 : 1;
        }
        // Material in front of it as well: no surface of it.
        if (behind > here) return infinite;
        return endOf(behind);
    }

private:
    // Where a way that begins in so many bodies leaves the last of them. Faces that lie on each other within rounding
    // are met at once: where one body is left and another entered, material goes on.
    [[nodiscard]] double endOf(int depth) {
        std::sort(passages_.begin(), passages_.end(), [](const auto& a, const auto& b) { return a.along < b.along; });
        for (std::size_t i = 0; i < passages_.size(); ++i) {
            if (passages_[i].along <= together_) continue;
            depth += passages_[i].leaving ? -1 : 1;
            const bool last = i + 1 == passages_.size() || passages_[i + 1].along > passages_[i].along + together_;
            if (depth <= 0 && last) return passages_[i].along;
        }
        return infinite;
    }

    const WallSurface& s_;
    double together_;
    std::vector<space::RayScene::Passage> passages_;
};

double togetherOf(const WallSurface& s) {
    return s.solid ? 0 : tolerance::wallTogether * mesh::boxOf(s.mesh).diagonal();
}

// A point that is thinner than the limit.
struct ThinPoint {
    Point at;
    double area = 0;
    double wall = 0;
    TriangleRows::Spot spot;
    TriangleId triangle = 0;
    bool gridded = false;
};

// Which thin points make up a place.
class Joining {
public:
    Joining(const WallSurface& s, const std::vector<ThinPoint>& points, double limit, double step)
        : s_(s), points_(points), limit_(limit), step_(step), groups_(points.size()) {
        first_.assign(s.mesh.triangles.size(), mesh::noIndex);
        for (std::uint32_t i = static_cast<std::uint32_t>(points.size()); i-- > 0;) first_[points[i].triangle] = i;
    }

    // The place of each point, numbered by their first points.
    std::vector<std::uint32_t> run(std::uint32_t& count) {
        joinShortTriangles();
        joinWithin();
        joinAcross();
        return groups_.numbered(count);
    }

private:
    // Of triangles with a single point, those that share an edge.
    void joinShortTriangles() {
        for (std::uint32_t i = 0; i < points_.size(); ++i)
            if (!points_[i].gridded)
                forEachNeighbour(points_[i].triangle, [&](TriangleId other) {
                    const std::uint32_t j = first_[other];
                    if (j != mesh::noIndex && !points_[j].gridded) groups_.join(i, j);
                });
    }

    // In a triangle with a grid: points beside each other in a row, and in the row before. They follow each other in
    // the list by rows, upwards.
    void joinWithin() {
        const double reach = nextTo * step_;
        std::uint32_t before = 0;  // the first point of the row before that may be near enough
        std::uint32_t row = 0;     // the first point of this row
        for (std::uint32_t i = 1; i < points_.size(); ++i) {
            const ThinPoint& p = points_[i];
            const ThinPoint& last = points_[i - 1];
            if (!p.gridded || p.triangle != last.triangle) {
                before = row = i;
                continue;
            }
            if (p.spot.row != last.spot.row) {
                before = p.spot.row == last.spot.row + 1 ? row : i;
                row = i;
            } else if (p.spot.up - last.spot.up <= reach) {
                groups_.join(i - 1, i);
            }
            while (before < row && points_[before].spot.up < p.spot.up - step_) ++before;
            for (std::uint32_t j = before; j < row && points_[j].spot.up <= p.spot.up + step_; ++j) groups_.join(j, i);
        }
    }

    // Between triangles that share an edge and of which one has a grid: points near each other at their rims.
    void joinAcross() {
        for (std::uint32_t i = 0; i < points_.size(); ++i) {
            const TriangleId t = points_[i].triangle;
            if (first_[t] != i) continue;
            forEachNeighbour(t, [&](TriangleId other) {
                const std::uint32_t j = first_[other];
                if (t < other && j != mesh::noIndex && (points_[i].gridded || points_[j].gridded)) joinRims(t, other);
            });
        }
    }

    // The centre of a short triangle beside a long one may be farther from its edges than the grid is wide.
    void joinRims(TriangleId a, TriangleId b) {
        const bool both = points_[first_[a]].gridded && points_[first_[b]].gridded;
        const double most = nextTo * step_ + (both ? 0 : limit_);
        const Point along = alongEdgeOf(a, b);
        rimTowards(b, most, along, a, rimA_);
        rimTowards(a, most, along, b, rimB_);
        std::size_t begin = 0;
        for (const auto& [at, i] : rimA_) {
            while (begin < rimB_.size() && rimB_[begin].at < at - most) ++begin;
            for (std::size_t k = begin; k < rimB_.size() && rimB_[k].at <= at + most; ++k)
                if ((points_[i].at - points_[rimB_[k].point].at).norm() <= most) groups_.join(i, rimB_[k].point);
        }
    }

    struct RimPoint {
        double at = 0;  // along the edge
        std::uint32_t point = 0;
        bool operator<(const RimPoint& o) const { return at < o.at; }
    };
    // The outermost points of a triangle no farther than `most` from the box of another one, in order.
    void rimTowards(TriangleId other, double most, const Point& along, TriangleId t, std::vector<RimPoint>& rim) const {
        const mesh::Box near = mesh::boxOf(s_.mesh, other).widened(most);
        rim.clear();
        for (std::uint32_t i = first_[t]; i < points_.size() && points_[i].triangle == t; ++i) {
            const Point& p = points_[i].at;
            if (points_[i].spot.outermost && (p.array() >= near.min.array()).all() &&
                (p.array() <= near.max.array()).all())
                rim.push_back({along.dot(p), i});
        }
        std::sort(rim.begin(), rim.end());
    }

    // Of the first edge that both have; of length 1.
    [[nodiscard]] Point alongEdgeOf(TriangleId a, TriangleId b) const {
        const mesh::Triangle& corners = s_.mesh.triangles[a];
        for (unsigned k = 0; k < 3; ++k)
            if (mesh::hasCorner(s_.mesh.triangles[b], corners[k]) &&
                mesh::hasCorner(s_.mesh.triangles[b], corners[(k + 1) % 3]))
                return (s_.mesh.corner(a, (k + 1) % 3) - s_.mesh.corner(a, k)).normalized();
        return Point::Zero();
    }

    template <class Visit>
    void forEachNeighbour(TriangleId t, const Visit& visit) const {
        for (unsigned k = 0; k < 3; ++k) {
            const mesh::EdgeId e = s_.edges.edgeOf(mesh::HalfEdge(3 * t + k));
            if (e == mesh::noEdge) continue;
            for (const mesh::HalfEdge h : s_.edges.around(e))
                if (mesh::triangleOf(h) != t) visit(mesh::triangleOf(h));
        }
    }

    // Of the grid's step: rows lie beside each other shifted by up to half a step.
    static constexpr double nextTo = 1.6;

    const WallSurface& s_;
    const std::vector<ThinPoint>& points_;
    double limit_;
    double step_;
    mesh::DisjointSets groups_;
    std::vector<std::uint32_t> first_;  // of each triangle its first thin point; its others follow
    std::vector<RimPoint> rimA_;        // kept for their memory
    std::vector<RimPoint> rimB_;
};

// A step of half the limit, or what gives few enough points.
double stepFor(const Mesh& m, const WallOptions& options) {
    double step = options.limit / 2;
    for (;;) {
        const double points = mesh::parallelBlocks(
            m.triangles.size(), 0.0,
            [&](std::size_t begin, std::size_t end) {
                double sum = 0;
                for (std::size_t t = begin; t < end; ++t)
                    sum += TriangleRows(m, static_cast<TriangleId>(t), options.limit, step).expected();
                return sum;
            },
            [](double a, double b) { return a + b; });
        const double spare = static_cast<double>(options.mostPoints) - static_cast<double>(m.triangles.size());
        const double gridded = points - static_cast<double>(m.triangles.size());
        if (points <= static_cast<double>(options.mostPoints) || gridded <= 0) return step;
        // Where every triangle has its centre already, one point each is what remains.
        if (spare <= 0) return infinite;
        step *= std::max(1.1, std::sqrt(gridded / spare));
    }
}

}  // namespace

mesh::Outcome<Walls> wallsOf(const WallSurface& s, const WallOptions& options, mesh::Progress& progress) {
    const Mesh& m = s.mesh;
    Walls walls;
    walls.step = stepFor(m, options);
    walls.coarser = walls.step > options.limit / 2;
    struct Block {
        std::vector<ThinPoint> thin;
        double area = 0;
        std::size_t points = 0;
    };
    const std::size_t block = blockOf(m);
    std::vector<Block> blocks((m.triangles.size() + block - 1) / block);
    const double together = togetherOf(s);
    mesh::PartOfProgress measuring(progress, 0, 0.9);
    const auto measure = [&](std::size_t begin, std::size_t end) {
        Block& own = blocks[begin / block];
        Ways ways(s, together);
        for (std::size_t i = begin; i < end; ++i) {
            const auto t = static_cast<TriangleId>(i);
            const Point normal = mesh::areaVector(m, t);
            if (!(normal.norm() > 0)) continue;
            const Point inward = -normal.normalized();
            const TriangleRows rows(m, t, options.limit, walls.step);
            rows.forEach([&](const Point& at, double area, const TriangleRows::Spot& spot) {
                const double wall = ways.through(t, at, inward, options.limit);
                own.area += area;
                ++own.points;
                if (wall < options.limit) own.thin.push_back({at, area, wall, spot, t, rows.gridded()});
            });
        }
    };
    if (!mesh::forBlocks(m.triangles.size(), block, measuring, measure)) return mesh::cancelled();
    std::vector<ThinPoint> thin;
    std::size_t thinCount = 0;
    for (const Block& b : blocks) thinCount += b.thin.size();
    thin.reserve(thinCount);
    double area = 0;
    double thinArea = 0;
    for (Block& b : blocks) {
        area += b.area;
        walls.points += b.points;
        for (const ThinPoint& p : b.thin) thinArea += p.area;
        thin.insert(thin.end(), b.thin.begin(), b.thin.end());
        b.thin = {};
    }
    if (area > 0) walls.thinArea = thinArea / area;
    std::uint32_t placeCount = 0;
    const std::vector<std::uint32_t> placeOf = Joining(s, thin, options.limit, walls.step).run(placeCount);
    std::vector<ThinPlace> places(placeCount);
    for (std::uint32_t i = 0; i < thin.size(); ++i) {
        ThinPlace& place = places[placeOf[i]];
        place.area += thin[i].area;
        if (thin[i].wall < place.thinnest) {
            place.thinnest = thin[i].wall;
            place.where = thin[i].at;
        }
        if (place.triangles.empty() || place.triangles.back() != thin[i].triangle)
            place.triangles.push_back(thin[i].triangle);
    }
    for (ThinPlace& place : places) {
        if (place.area < options.limit * options.limit) continue;
        walls.thinnest = std::min(walls.thinnest, place.thinnest);
        walls.places.push_back(std::move(place));
    }
    if (!progress.report(1)) return mesh::cancelled();
    return walls;
}

mesh::Outcome<std::vector<double>> wallsAtCentres(const WallSurface& s, mesh::Progress& progress) {
    const Mesh& m = s.mesh;
    std::vector<double> walls(m.triangles.size(), infinite);
    const double together = togetherOf(s);
    const auto measure = [&](std::size_t begin, std::size_t end) {
        Ways ways(s, together);
        for (std::size_t i = begin; i < end; ++i) {
            const auto t = static_cast<TriangleId>(i);
            const Point normal = mesh::areaVector(m, t);
            if (normal.norm() > 0) walls[t] = ways.through(t, mesh::centroid(m, t), -normal.normalized(), infinite);
        }
    };
    if (!mesh::forBlocks(walls.size(), blockOf(m), progress, measure)) return mesh::cancelled();
    return walls;
}

}  // namespace zither::measure
