// Each pair by the signs of its corners; points are made once, by whoever comes first in the order of pairs.
#include "arrange/crossing_figures.h"

#include <algorithm>

#include "exact/projection.h"
#include "mesh/parallel.h"

namespace zither::arrange {
namespace {

constexpr std::uint32_t unnamed = 0xFFFFFFFFU;  // a point that another pair makes, or that is still to be numbered

// One triangle of a pair, seen by the other.
struct Side {
    TriangleId id = 0;
    exact::Corner3 corner;
    std::array<int, 3> side{};  // of its corners, about the plane of the other

    Side(const Mesh& m, TriangleId t) : id(t), corner{&m.corner(t, 0), &m.corner(t, 1), &m.corner(t, 2)} {}
};

class FigureMaker {
public:
    FigureMaker(const Mesh& m, const mesh::Edges& edges) : m_(m), edges_(edges) {}

    [[nodiscard]] Figure make(TriangleId ta, TriangleId tb) const {
        Side a(m_, ta);
        Side b(m_, tb);
        for (unsigned k = 0; k < 3; ++k) {
            a.side[k] = exact::sideOf(b.corner, *a.corner[k]);
            b.side[k] = exact::sideOf(a.corner, *b.corner[k]);
        }
        Figure figure;
        if (a.side == std::array<int, 3>{0, 0, 0}) {
            figure.coplanar = true;
            return figure;
        }
        addCorners(a, b, figure);
        addCorners(b, a, figure);
        addCrossings(a, b, true, figure);
        addCrossings(b, a, false, figure);
        return figure;
    }

    // The first half-edge along edge k of t: the pair of its triangle makes the points on the edge.
    [[nodiscard]] mesh::HalfEdge firstAlong(TriangleId t, unsigned k) const {
        return edges_.around(edges_.edgeOf(3 * t + k)).front();
    }

    [[nodiscard]] Generator generatorOf(TriangleId a, TriangleId b, const Figure& figure, unsigned end) const {
        const int edgeA = static_cast<int>(figure.edgeOfA[end]);  // NOLINT: a small number, no character
        const int edgeB = static_cast<int>(figure.edgeOfB[end]);  // NOLINT: the same
        Generator g;
        if (edgeA >= 0 && edgeB >= 0) {
            g.kind = Generator::EdgeEdge;
            const auto [p, q] = ascending(a, edgeA);
            const auto [r, s] = ascending(b, edgeB);
            g.from = {p, q, r, s};
            // Dropping a coordinate in which the lines stay apart: the largest of their common normal.
            const Point normal =
                (m_.positions[q] - m_.positions[p]).cross(m_.positions[s] - m_.positions[r]).cwiseAbs();
            int axis = 0;
            normal.maxCoeff(&axis);
            for (int tries = 0; tries < 3 && parallel(axis, g.from); ++tries) axis = (axis + 1) % 3;
            g.axis = static_cast<std::uint8_t>(axis);
            return g;
        }
        const auto [p, q] = edgeA >= 0 ? ascending(a, edgeA) : ascending(b, edgeB);
        g.from = {p, q, edgeA >= 0 ? b : a, 0};
        return g;
    }

private:
    [[nodiscard]] std::pair<VertexId, VertexId> ascending(TriangleId t, int k) const {
        const auto [p, q] = std::minmax({m_.triangles[t][k], m_.triangles[t][(k + 1) % 3]});
        return {p, q};
    }
    // Lines pq and rs cross, so they are parallel without the axis exactly if r and s are on one side of pq there.
    [[nodiscard]] bool parallel(int axis, const std::array<std::uint32_t, 4>& v) const {
        return exact::orient2dDropping(axis, m_.positions[v[0]], m_.positions[v[1]], m_.positions[v[2]]) ==
               exact::orient2dDropping(axis, m_.positions[v[0]], m_.positions[v[1]], m_.positions[v[3]]);
    }

    static void add(Figure& figure, std::uint32_t point, int edgeA, int edgeB) {
        // Two triangles that are not coplanar share at most a segment, and each of its ends is found once.
        if (figure.count == 2) return;
        figure.point[figure.count] = point;
        figure.edgeOfA[figure.count] = static_cast<std::int8_t>(edgeA);
        figure.edgeOfB[figure.count] = static_cast<std::int8_t>(edgeB);
        ++figure.count;
    }

    // Corners of one triangle that lie in the other.
    void addCorners(const Side& of, const Side& in, Figure& figure) const {
        for (unsigned k = 0; k < 3; ++k) {
            if (of.side[k] != 0) continue;
            const VertexId v = m_.triangles[of.id][k];
            bool known = false;
            for (unsigned e = 0; e < figure.count; ++e) known |= figure.point[e] == v;
            if (!known && exact::inTriangleInPlane(exact::projectionOf(in.corner), *of.corner[k], in.corner))
                add(figure, v, -1, -1);
        }
    }

    // Edges of one triangle that pass through the plane of the other, within it.
    static void addCrossings(const Side& of, const Side& in, bool ofIsA, Figure& figure) {
        for (int k = 0; k < 3; ++k) {
            const int n = (k + 1) % 3;
            if (of.side[k] * of.side[n] >= 0) continue;
            int turn = 0;
            int zeros = 0;
            int edge = -1;
            bool outside = false;
            for (int j = 0; j < 3; ++j) {
                const int side = exact::orient3d(*of.corner[k], *of.corner[n], *in.corner[j], *in.corner[(j + 1) % 3]);
                if (side == 0) {
                    ++zeros;
                    edge = j;
                } else {
                    outside |= turn != 0 && turn != side;
                    turn = side;
                }
            }
            // Through a corner: that corner lies in this triangle, and was found as such.
            if (outside || zeros > 1) continue;
            if (zeros == 0)
                ofIsA ? add(figure, unnamed, k, -1) : add(figure, unnamed, -1, k);
            else if (ofIsA)
                add(figure, unnamed, k, edge);
            else if (in.side[edge] * in.side[(edge + 1) % 3] >= 0)  // else found from the other side
                add(figure, unnamed, edge, k);
        }
    }

    const Mesh& m_;
    const mesh::Edges& edges_;
};

}  // namespace

exact::Homogeneous ExactPoints::exactPoint(const Generator& g) const {
    const auto at = [&](unsigned k) -> const Point& { return mesh_->positions[g.from[k]]; };
    if (g.kind == Generator::ThreePlanes)
        return exact::threePlanePoint(grid_, planeOf(g.from[0]), planeOf(g.from[1]), planeOf(g.from[2]));
    if (g.kind == Generator::EdgePlane) return exact::linePlanePoint(grid_, at(0), at(1), planeOf(g.from[2]));
    return exact::lineCrossing(grid_, g.axis, at(0), at(1), at(2), at(3));
}

Point ExactPoints::approximate(const Generator& g) const {
    const auto at = [&](unsigned k) -> const Point& { return mesh_->positions[g.from[k]]; };
    std::optional<Point> p;
    if (g.kind == Generator::ThreePlanes) {
        p = exact::approximateThreePlanes(planeOf(g.from[0]), planeOf(g.from[1]), planeOf(g.from[2]));
    } else if (g.kind == Generator::EdgePlane) {
        p = exact::approximateLinePlane(at(0), at(1), planeOf(g.from[2]));
    } else {
        p = exact::approximateLineCrossing(grid_, g.axis, at(0), at(1), at(2), at(3));
    }
    return p ? *p : grid_.nearest(exactPoint(g));
}

Partners::Partners(std::size_t triangles, const std::vector<check::TrianglePair>& pairs)
    : pairs_(2 * pairs.size()), first_(triangles + 1, 0) {
    for (const auto& [a, b] : pairs) {
        ++first_[a + 1];
        ++first_[b + 1];
    }
    for (std::size_t t = 0; t < triangles; ++t) first_[t + 1] += first_[t];
    std::vector<std::uint32_t> next(first_.begin(), first_.end() - 1);
    for (std::uint32_t i = 0; i < pairs.size(); ++i) {
        pairs_[next[pairs[i].first]++] = i;
        pairs_[next[pairs[i].second]++] = i;
    }
}

std::vector<Figure> figuresOf(const mesh::Edges& edges, const std::vector<check::TrianglePair>& pairs,
                              const Partners& partners, ExactPoints& points) {
    const Mesh& m = points.surface();
    const FigureMaker maker(m, edges);
    std::vector<Figure> figures(pairs.size());
    const std::size_t blocks = (pairs.size() + mesh::blockSize - 1) / mesh::blockSize;
    const auto endOf = [&](std::size_t b) { return std::min(pairs.size(), (b + 1) * mesh::blockSize); };

    // The pair that makes the point at this end, of the first triangle at the edge, and the edge there; itself where
    // that pair is missing, or has no such point (its triangle may be degenerate).
    struct Maker {
        std::uint32_t pair = 0;
        std::int8_t edge = -1;
        bool edgeIsOfA = false;
    };
    // Which end of that pair's figure it is; 2 where none is.
    const auto endAt = [](const Figure& f, const Maker& made) {
        unsigned end = 0;
        while (end < f.count && ((made.edgeIsOfA ? f.edgeOfA[end] : f.edgeOfB[end]) != made.edge ||
                                 (made.edgeIsOfA ? f.edgeOfB[end] : f.edgeOfA[end]) >= 0))
            ++end;
        return end < f.count ? end : 2U;
    };
    const auto makerOf = [&](std::uint32_t i, unsigned end) -> Maker {
        const Figure& f = figures[i];
        if ((f.edgeOfA[end] >= 0) == (f.edgeOfB[end] >= 0)) return {i};
        const bool onA = f.edgeOfA[end] >= 0;
        const TriangleId edgeTriangle = onA ? pairs[i].first : pairs[i].second;
        const TriangleId plane = onA ? pairs[i].second : pairs[i].first;
        const mesh::HalfEdge first =
            maker.firstAlong(edgeTriangle, static_cast<unsigned>(onA ? f.edgeOfA[end] : f.edgeOfB[end]));
        const TriangleId owner = mesh::triangleOf(first);
        if (owner == edgeTriangle) return {i};
        const auto list = partners.of(owner);
        const auto partnerIn = [&](std::uint32_t p) {
            return pairs[p].first == owner ? pairs[p].second : pairs[p].first;
        };
        const auto found = std::lower_bound(list.begin(), list.end(), plane,
                                            [&](std::uint32_t p, TriangleId t) { return partnerIn(p) < t; });
        if (found == list.end() || partnerIn(*found) != plane) return {i};
        const Maker made{*found, static_cast<std::int8_t>(mesh::cornerOf(first)), pairs[*found].first == owner};
        return endAt(figures[*found], made) < 2 ? made : Maker{i};
    };

    mesh::parallelFor(blocks, 1, [&](std::size_t b) {
        for (std::size_t i = b * mesh::blockSize; i < endOf(b); ++i)
            figures[i] = maker.make(pairs[i].first, pairs[i].second);
    });
    std::vector<std::size_t> first(blocks + 1, 0);
    std::vector<std::array<Maker, 2>> makers(pairs.size());
    mesh::parallelFor(blocks, 1, [&](std::size_t b) {
        for (std::size_t i = b * mesh::blockSize; i < endOf(b); ++i)
            for (unsigned end = 0; end < figures[i].count; ++end) {
                if (figures[i].point[end] != unnamed) continue;
                makers[i][end] = makerOf(static_cast<std::uint32_t>(i), end);
                first[b + 1] += makers[i][end].pair == i;
            }
    });
    for (std::size_t b = 0; b < blocks; ++b) first[b + 1] += first[b];
    points.resize(first[blocks]);
    mesh::parallelFor(blocks, 1, [&](std::size_t b) {
        std::size_t number = first[b];
        for (std::size_t i = b * mesh::blockSize; i < endOf(b); ++i)
            for (unsigned end = 0; end < figures[i].count; ++end)
                if (figures[i].point[end] == unnamed && makers[i][end].pair == i) {
                    const Generator g = maker.generatorOf(pairs[i].first, pairs[i].second, figures[i], end);
                    points.set(number, g, points.approximate(g));
                    figures[i].point[end] = points.givenCount() + static_cast<std::uint32_t>(number);
                    ++number;
                }
    });
    // The rest take the point of the pair that made it: the one on the same edge.
    mesh::parallelFor(blocks, 1, [&](std::size_t b) {
        for (std::size_t i = b * mesh::blockSize; i < endOf(b); ++i)
            for (unsigned end = 0; end < figures[i].count; ++end) {
                if (figures[i].point[end] != unnamed) continue;
                const Maker& made = makers[i][end];
                const Figure& there = figures[made.pair];
                figures[i].point[end] = there.point[endAt(there, made)];
            }
    });
    return figures;
}

}  // namespace zither::arrange
