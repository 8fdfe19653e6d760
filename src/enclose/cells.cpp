// Sides linked around edges; groups placed by rays.
#include "enclose/cells.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <numbers>
#include <optional>

#include "enclose/enclose_tolerances.h"
#include "exact/along_line.h"
#include "mesh/disjoint_sets.h"
#include "mesh/parallel.h"
#include "space/triangle_tree.h"

namespace zither::enclose {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

// Where a ray passes through a piece.
struct Passage {
    double t = 0;
    TriangleId piece = 0;
    bool fromFront = false;
};

class CellFinder {
public:
    CellFinder(const arrange::Pieces& pieces, const Mesh& source)
        : pieces_(pieces),
          source_(source),
          m_(pieces.mesh),
          edges_(m_),
          sides_(2 * m_.triangles.size() + 1),
          groups_(m_.triangles.size()),
          outside_(static_cast<std::uint32_t>(2 * m_.triangles.size())) {}

    mesh::Outcome<Cells> run(mesh::Progress& progress) {
        linkAroundEdges();
        if (!progress.report(0.4)) return mesh::cancelled();
        numberGroups();
        if (!placeGroups(progress)) return mesh::cancelled();
        number();
        if (!progress.report(1)) return mesh::cancelled();
        return std::move(cells_);
    }

private:
    static std::uint32_t side(TriangleId t, bool back) { return 2 * t + back; }

    void linkAroundEdges() {
        std::size_t fan = 0;
        for (mesh::EdgeId e = 0; e < edges_.count(); ++e) {
            const auto around = edges_.around(e);
            for (const HalfEdge h : around) groups_.join(mesh::triangleOf(around[0]), mesh::triangleOf(h));
            const TriangleId a = mesh::triangleOf(around[0]);
            if (around.size() == 1) {
                sides_.join(side(a, false), side(a, true));
            } else if (around.size() == 2) {
                const TriangleId b = mesh::triangleOf(around[1]);
                const bool turned = mesh::runsAlong(m_, around[0], around[1]);
                sides_.join(side(a, false), side(b, turned));
                sides_.join(side(a, true), side(b, !turned));
            } else {
                linkFan(pieces_.fans[fan++]);
            }
        }
    }

    // Between two pieces that follow each other around an edge there is one wedge.
    void linkFan(const std::vector<HalfEdge>& order) {
        // A piece that runs along the edge from its lower vertex has its front counter-clockwise of it.
        const auto sideOf = [&](HalfEdge h, bool counterClockwise) {
            const bool ascending = fromVertex(m_, h) < toVertex(m_, h);
            return side(mesh::triangleOf(h), ascending != counterClockwise);
        };
        for (std::size_t i = 0; i < order.size(); ++i)
            sides_.join(sideOf(order[i], true), sideOf(order[(i + 1) % order.size()], false));
    }

    void numberGroups() {
        std::uint32_t count = 0;
        cells_.groupOf = groups_.numbered(count);
        largest_.resize(count);
        for (TriangleId t = 0; t < m_.triangles.size(); ++t) {
            // A few of the largest pieces of each group, to send rays from.
            std::vector<TriangleId>& list = largest_[cells_.groupOf[t]];
            if (list.size() < startsAGroup) {
                list.push_back(t);
                continue;
            }
            auto smallest = std::min_element(list.begin(), list.end(),
                                             [&](TriangleId a, TriangleId b) { return areaOf(a) < areaOf(b); });
            if (areaOf(t) > areaOf(*smallest)) *smallest = t;
        }
    }

    [[nodiscard]] double areaOf(TriangleId t) const { return mesh::areaVector(m_, t).squaredNorm(); }

    bool placeGroups(mesh::Progress& progress) {
        const space::TriangleTree tree(m_);
        const double diagonal = mesh::boxOf(m_).diagonal();
        std::vector<std::vector<Passage>> passages(largest_.size());
        std::atomic<bool> stop = false;
        std::atomic<std::size_t> done = 0;
        mesh::parallelFor(largest_.size(), 1, [&](std::size_t g) {
            if (stop) return;
            passages[g] = rayFrom(tree, largest_[g], diagonal);
            if (!progress.report(0.5 + 0.4 * static_cast<double>(++done) / static_cast<double>(largest_.size())))
                stop = true;
        });
        if (stop) return false;
        aroundSide_.assign(largest_.size(), outside_);
        for (std::size_t g = 0; g < passages.size(); ++g) {
            // Outwards: what lies beyond one piece lies before the next.
            std::uint32_t before = mesh::noIndex;
            for (const Passage& p : passages[g]) {
                if (before != mesh::noIndex) sides_.join(before, side(p.piece, !p.fromFront));
                before = side(p.piece, p.fromFront);
                if (cells_.groupOf[p.piece] == g) aroundSide_[g] = before;
            }
            if (before != mesh::noIndex) sides_.join(before, outside_);
        }
        return true;
    }

    // What a ray from the middle of one of the pieces passes through, that piece first. The first ray that keeps clear
    // of edges; with less and less distance where there is none.
    [[nodiscard]] std::vector<Passage> rayFrom(const space::TriangleTree& tree, const std::vector<TriangleId>& starts,
                                               double diagonal) const {
        double margin = tolerance::rayMargin * diagonal;
        for (int attempt = 0;; ++attempt) {
            if (attempt == mostRays) return leastUnclear(tree, starts.front());
            if (attempt % raysAMargin == raysAMargin - 1) margin /= 10;
            const TriangleId start = starts[static_cast<std::size_t>(attempt) % starts.size()];
            if (auto passages = clearRay(tree, start, direction(attempt), margin)) return std::move(*passages);
        }
    }

    // Spread over the sphere, none along an axis or a diagonal.
    static Point direction(int number) {
        const double z = 2 * std::fmod(0.5545497 * (number + 1), 1.0) - 1;
        const double turn = 2 * std::numbers::pi * std::fmod(0.308517 * (number + 1), 1.0);
        const double r = std::sqrt(std::max(0.0, 1 - z * z));
        return Point(r * std::cos(turn), r * std::sin(turn), z);
    }

    [[nodiscard]] std::optional<std::vector<Passage>> clearRay(const space::TriangleTree& tree, TriangleId start,
                                                               const Point& along, double margin) const {
        const Point origin = mesh::centroid(m_, start);
        const Point n = mesh::areaVector(m_, start).normalized();
        if (std::abs(n.dot(along)) < tolerance::raySteepest || !(clearanceOf(start, origin) > margin))
            return std::nullopt;
        std::vector<Passage> passages{{0, start, n.dot(along) < 0}};
        bool clear = true;
        tree.alongRay(origin - margin * along, along, [&](TriangleId t) {
            if (t == start || !clear) return;
            const Point normal = mesh::areaVector(m_, t).normalized();
            const double slope = normal.dot(along);
            if (normal.isZero() || std::abs(slope) < tolerance::raySteepest) {
                clear = nearestToRay(t, origin, along) > margin;
                return;
            }
            const double distance = normal.dot(m_.corner(t, 0) - origin) / slope;
            const double inside = clearanceOf(t, origin + distance * along);
            if (inside < -margin || distance < -margin) return;
            clear = inside > margin;
            passages.push_back({distance, t, slope < 0});
        });
        if (!clear) return std::nullopt;
        // Planes nearer to each other than what was rounded are told apart exactly: by the triangles they come from.
        std::sort(passages.begin(), passages.end(), [&](const Passage& a, const Passage& b) {
            if (std::abs(a.t - b.t) > margin) return a.t < b.t;
            const int order = exact::compareAlongLine(origin, along, planeOf(a.piece), planeOf(b.piece));
            return order != 0 ? order < 0 : a.piece < b.piece;
        });
        const auto first =
            std::find_if(passages.begin(), passages.end(), [&](const Passage& p) { return p.piece == start; });
        passages.erase(passages.begin(), first);
        return passages;
    }

    [[nodiscard]] exact::Corner3 planeOf(TriangleId piece) const {
        const TriangleId t = pieces_.sourceOf[piece];
        return {&source_.corner(t, 0), &source_.corner(t, 1), &source_.corner(t, 2)};
    }

    // The least distance of a point of its plane from the triangle's edges; negative outside.
    [[nodiscard]] double clearanceOf(TriangleId t, const Point& p) const {
        const Point n = mesh::areaVector(m_, t).normalized();
        double least = std::numeric_limits<double>::infinity();
        for (unsigned k = 0; k < 3; ++k) {
            const Point& a = m_.corner(t, k);
            const Point edge = m_.corner(t, (k + 1) % 3) - a;
            least = std::min(least, n.dot(edge.cross(p - a)) / edge.norm());
        }
        return least;
    }

    // A lower bound of the distance between the ray's line and a triangle that it is nearly parallel to.
    [[nodiscard]] double nearestToRay(TriangleId t, const Point& origin, const Point& along) const {
        const Point x = along.unitOrthogonal();
        const Point y = along.cross(x);
        mesh::Box seen;
        for (unsigned k = 0; k < 3; ++k) {
            const Point c = m_.corner(t, k) - origin;
            seen.add(Point(c.dot(x), c.dot(y), 0));
        }
        const Point gap = seen.min.cwiseMax(-seen.max);
        return std::max(gap.x(), gap.y());
    }

    // Where every ray passes edges too closely to be sure, the plain nearest order of one of them.
    [[nodiscard]] std::vector<Passage> leastUnclear(const space::TriangleTree& tree, TriangleId start) const {
        const Point along = mesh::areaVector(m_, start).normalized();
        std::vector<Passage> passages{{0, start, false}};
        Point origin = mesh::centroid(m_, start);
        double passed = 0;
        const double step = tolerance::rayMargin * mesh::boxOf(m_).diagonal();
        while (const auto hit = tree.firstHit(origin, along)) {
            passed += hit->t;
            if (hit->triangle != passages.back().piece)
                passages.push_back({passed, hit->triangle, mesh::areaVector(m_, hit->triangle).dot(along) < 0});
            // Past it by more than rounding, so that every step gets on.
            passed += step;
            origin += (hit->t + step) * along;
        }
        return passages;
    }

    void number() {
        std::vector<std::uint32_t> numberOf(2 * m_.triangles.size() + 1, mesh::noIndex);
        numberOf[sides_.find(outside_)] = cells_.count++;
        const auto cellOf = [&](std::uint32_t s) {
            std::uint32_t& number = numberOf[sides_.find(s)];
            if (number == mesh::noIndex) number = cells_.count++;
            return number;
        };
        cells_.of.resize(m_.triangles.size());
        for (TriangleId t = 0; t < m_.triangles.size(); ++t)
            cells_.of[t] = {cellOf(side(t, false)), cellOf(side(t, true))};
        for (const std::uint32_t s : aroundSide_) cells_.around.push_back(cellOf(s));
        cells_.owner.assign(cells_.count, mesh::noIndex);
        for (TriangleId t = 0; t < m_.triangles.size(); ++t)
            for (const std::uint32_t c : cells_.of[t])
                if (c != 0 && c != cells_.around[cells_.groupOf[t]]) cells_.owner[c] = cells_.groupOf[t];
    }

    static constexpr std::size_t startsAGroup = 6;
    static constexpr int raysAMargin = 24;
    static constexpr int mostRays = 96;

    const arrange::Pieces& pieces_;
    const Mesh& source_;
    const Mesh& m_;
    mesh::Edges edges_;
    mesh::DisjointSets sides_;
    mesh::DisjointSets groups_;
    std::uint32_t outside_;
    std::vector<std::vector<TriangleId>> largest_;  // pieces of each group
    std::vector<std::uint32_t> aroundSide_;         // of each group: a side that faces what it lies in
    Cells cells_;
};

}  // namespace

mesh::Outcome<Cells> cellsOf(const arrange::Pieces& pieces, const Mesh& source, mesh::Progress& progress) {
    return CellFinder(pieces, source).run(progress);
}

}  // namespace zither::enclose
