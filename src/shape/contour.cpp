// Signs on a sparse grid, a vertex for each sheet in a cell, quads across edges; then whatever crosses is mended.
#include "shape/contour.h"

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <span>
#include <unordered_map>
#include <utility>

#include "arrange/arrange_tolerances.h"
#include "check/crossing_pairs.h"
#include "check/surveyed.h"
#include "fit/fuse.h"
#include "mesh/disjoint_sets.h"
#include "mesh/parallel.h"
#include "fit/resolve.h"
#include "shape/shape_tolerances.h"

namespace zither::shape {
namespace {

using mesh::Mesh;
using mesh::Outcome;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

// Corner c of a cell: bit k of c says whether it lies at the upper end along axis k. Edge 4 a + b runs along axis a
// from the corner whose other two bits are those of b.
struct CellEdge {
    unsigned low;
    unsigned high;
};
constexpr CellEdge edgeOf(unsigned e) {
    const unsigned axis = e / 4;
    const unsigned u = (axis + 1) % 3;
    const unsigned v = (axis + 2) % 3;
    const unsigned low = (e & 1U) << u | (e >> 1 & 1U) << v;
    return {low, low | 1U << axis};
}
// The edge of a cell between two corners that differ in one bit.
constexpr unsigned edgeBetween(unsigned a, unsigned b) {
    for (unsigned e = 0; e < 12; ++e)
        if ((edgeOf(e).low == a && edgeOf(e).high == b) || (edgeOf(e).low == b && edgeOf(e).high == a)) return e;
    return 12;
}

// The sheets of the skin in a cell: which of them each edge belongs to, and how many there are.
struct Sheets {
    std::array<std::uint8_t, 12> of{};
    std::uint8_t count = 0;
};

// Crossed edges are linked over each face. Where all four edges of a face are crossed, they are linked around the
// inside corners, which the cells on both sides do alike.
Sheets sheetsOf(unsigned inside) {
    const auto isIn = [&](unsigned corner) { return (inside >> corner & 1U) != 0; };
    mesh::DisjointSets sets(12);
    for (unsigned axis = 0; axis < 3; ++axis)
        for (unsigned side = 0; side < 2; ++side) {
            const unsigned u = 1U << (axis + 1) % 3;
            const unsigned v = 1U << (axis + 2) % 3;
            const unsigned base = side << axis;
            const std::array<unsigned, 4> ring{base, base | u, base | u | v, base | v};
            std::vector<unsigned> crossed;
            for (unsigned i = 0; i < 4; ++i)
                if (isIn(ring[i]) != isIn(ring[(i + 1) % 4])) crossed.push_back(i);
            if (crossed.size() == 2) {
                sets.join(edgeBetween(ring[crossed[0]], ring[(crossed[0] + 1) % 4]),
                          edgeBetween(ring[crossed[1]], ring[(crossed[1] + 1) % 4]));
            } else if (crossed.size() == 4) {
                for (unsigned i = 0; i < 4; ++i)
                    if (isIn(ring[i]))
                        sets.join(edgeBetween(ring[(i + 3) % 4], ring[i]), edgeBetween(ring[i], ring[(i + 1) % 4]));
            }
        }
    Sheets sheets;
    std::array<std::uint8_t, 12> number{};
    number.fill(255);
    for (unsigned e = 0; e < 12; ++e) {
        sheets.of[e] = 255;
        if (isIn(edgeOf(e).low) == isIn(edgeOf(e).high)) continue;
        std::uint8_t& n = number[sets.find(e)];
        if (n == 255) n = sheets.count++;
        sheets.of[e] = n;
    }
    return sheets;
}

class Contouring {
public:
    Contouring(const Field& field, const Grid& grid, mesh::Precision precision)
        : field_(field), grid_(grid), precision_(precision), cells_(field.startCells(grid)) {}

    Outcome<Skin> run(mesh::Progress& progress) {
        if (!spread(progress)) return mesh::cancelled();
        if (!findPassings(progress)) return mesh::cancelled();
        placeVertices();
        if (!progress.report(0.75)) return mesh::cancelled();
        join();
        return finish(progress);
    }

private:
    static GridIndex cornerOf(const GridIndex& cell, unsigned c) {
        return {cell.x + static_cast<int>(c & 1U), cell.y + static_cast<int>(c >> 1 & 1U),
                cell.z + static_cast<int>(c >> 2 & 1U)};
    }

    // ---- which cells, and what is inside

    // Signs at the corners of the cells; then on into neighbours over whose face the sign changes, until none is left.
    bool spread(mesh::Progress& progress) {
        std::vector<GridKey> front = cells_;
        std::unordered_map<GridKey, std::uint8_t> visited;
        visited.reserve(2 * cells_.size());
        for (GridKey k : cells_) visited.emplace(k, 1);
        cells_.clear();
        inside_.reserve(3 * front.size());
        while (!front.empty()) {
            std::vector<GridKey> corners;
            for (GridKey k : front)
                for (unsigned c = 0; c < 8; ++c)
                    if (const GridKey corner = keyOf(cornerOf(indexOf(k), c)); !inside_.contains(corner))
                        corners.push_back(corner);
            sortUnique(corners);
            std::vector<std::uint8_t> signs(corners.size());
            mesh::PartOfProgress asking(progress, 0, 0.45);
            if (!field_.signs(grid_, corners, signs, asking)) return false;
            for (std::size_t i = 0; i < corners.size(); ++i) inside_.emplace(corners[i], signs[i]);
            std::vector<GridKey> next;
            for (GridKey k : front) {
                const unsigned signsOf = insideOf(k);
                if (signsOf == 0 || signsOf == 255) continue;
                cells_.push_back(k);
                const GridIndex i = indexOf(k);
                for (int axis = 0; axis < 3; ++axis)
                    for (int by : {-1, 1}) {
                        unsigned face = 0;
                        unsigned in = 0;
                        for (unsigned c = 0; c < 8; ++c)
                            if ((c >> axis & 1U) == (by > 0)) {
                                ++face;
                                in += signsOf >> c & 1U;
                            }
                        if (in == 0 || in == face) continue;
                        if (const GridKey n = keyOf(i.plus(axis, by)); visited.emplace(n, 1).second) next.push_back(n);
                    }
            }
            front = std::move(next);
        }
        sortUnique(cells_);
        return true;
    }

    [[nodiscard]] unsigned insideOf(GridKey cell) const {
        unsigned bits = 0;
        for (unsigned c = 0; c < 8; ++c)
            if (inside_.at(keyOf(cornerOf(indexOf(cell), c)))) bits |= 1U << c;
        return bits;
    }

    // ---- where the skin passes the edges of the grid

    // Key of the lower corner and axis.
    static GridKey edgeKey(const GridIndex& corner, unsigned axis) {
        return keyOf(corner) | static_cast<GridKey>(axis) << 62;
    }

    bool findPassings(mesh::Progress& progress) {
        // 20 bits a coordinate leave two for the axis.
        std::vector<GridKey> edges;
        for (GridKey k : cells_) {
            const unsigned in = insideOf(k);
            for (unsigned e = 0; e < 12; ++e)
                if ((in >> edgeOf(e).low & 1U) != (in >> edgeOf(e).high & 1U))
                    edges.push_back(edgeKey(cornerOf(indexOf(k), edgeOf(e).low), e / 4));
        }
        sortUnique(edges);
        passings_.resize(edges.size());
        std::atomic<bool> stop = false;
        mesh::parallelFor(edges.size(), 64, [&](std::size_t i) {
            if (stop) return;
            const GridIndex low = indexOf(edges[i] & ~(GridKey{3} << 62));
            const GridIndex high = low.plus(static_cast<int>(edges[i] >> 62), 1);
            const bool lowInside = inside_.at(keyOf(low)) != 0;
            passings_[i] = field_.passing(grid_.place(lowInside ? low : high), grid_.place(lowInside ? high : low));
            if (i % 4096 == 0 &&
                !progress.report(0.45 + 0.25 * static_cast<double>(i) / static_cast<double>(edges.size())))
                stop = true;
        });
        if (stop) return false;
        edges_ = std::move(edges);
        return true;
    }

    [[nodiscard]] const Passing& passingOf(GridKey cell, unsigned e) const {
        const GridKey key = edgeKey(cornerOf(indexOf(cell), edgeOf(e).low), e / 4);
        return passings_[static_cast<std::size_t>(std::lower_bound(edges_.begin(), edges_.end(), key) -
                                                  edges_.begin())];
    }

    // ---- vertices and triangles

    void placeVertices() {
        firstVertex_.resize(cells_.size() + 1, 0);
        sheets_.resize(cells_.size());
        mesh::parallelFor(cells_.size(), 256, [&](std::size_t i) { sheets_[i] = sheetsOf(insideOf(cells_[i])); });
        for (std::size_t i = 0; i < cells_.size(); ++i) firstVertex_[i + 1] = firstVertex_[i] + sheets_[i].count;
        result_.cells = cells_.size();
        result_.mesh.positions.resize(firstVertex_.back());
        middles_.resize(firstVertex_.back());
        mesh::parallelFor(cells_.size(), 256, [&](std::size_t i) {
            for (std::uint8_t s = 0; s < sheets_[i].count; ++s) {
                std::vector<Passing> around;
                for (unsigned e = 0; e < 12; ++e)
                    if (sheets_[i].of[e] == s) around.push_back(passingOf(cells_[i], e));
                Point middle = Point::Zero();
                for (const Passing& p : around) middle += p.point / static_cast<double>(around.size());
                const VertexId v = firstVertex_[i] + s;
                middles_[v] = mesh::rounded(precision_, middle);
                result_.mesh.positions[v] = mesh::rounded(precision_, meetingPoint(indexOf(cells_[i]), middle, around));
            }
        });
    }

    // Where the planes meet best, as near to the middle as they leave open, within the cell.
    [[nodiscard]] Point meetingPoint(const GridIndex& cell, const Point& middle,
                                     const std::vector<Passing>& planes) const {
        Eigen::Matrix3d a = Eigen::Matrix3d::Zero();
        Point b = Point::Zero();
        for (const Passing& p : planes) {
            a += p.normal * p.normal.transpose();
            b += p.normal * p.normal.dot(p.point - middle);
        }
        const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver(a);
        Point x = Point::Zero();
        for (int k = 0; k < 3; ++k)
            if (solver.eigenvalues()[k] > tolerance::skinFlatShare * solver.eigenvalues()[2])
                x += solver.eigenvectors().col(k).dot(b) / solver.eigenvalues()[k] * solver.eigenvectors().col(k);
        const Point low = grid_.place(cell) + Point::Constant(0.01 * grid_.cell);
        const Point high = grid_.place(cell) + Point::Constant(0.99 * grid_.cell);
        return (middle + x).cwiseMax(low).cwiseMin(high);
    }

    // A square of the four cells around each passed edge, cut along the diagonal that agrees best with the surface.
    void join() {
        for (std::size_t i = 0; i < edges_.size(); ++i) {
            const GridIndex low = indexOf(edges_[i] & ~(GridKey{3} << 62));
            const auto axis = static_cast<unsigned>(edges_[i] >> 62);
            const int u = static_cast<int>(axis + 1) % 3;
            const int v = static_cast<int>(axis + 2) % 3;
            std::array<VertexId, 4> ring{};
            bool complete = true;
            constexpr std::array<std::array<int, 2>, 4> offsets{{{0, 0}, {-1, 0}, {-1, -1}, {0, -1}}};
            for (unsigned q = 0; q < 4; ++q) {
                const GridKey cell = keyOf(low.plus(u, offsets[q][0]).plus(v, offsets[q][1]));
                const auto at = std::lower_bound(cells_.begin(), cells_.end(), cell);
                if (at == cells_.end() || *at != cell) {
                    complete = false;
                    break;
                }
                const auto index = static_cast<std::size_t>(at - cells_.begin());
                // Seen from that cell the edge lies at its upper side along u or v where the cell was moved back.
                const unsigned e = 4 * axis + (offsets[q][0] < 0 ? 1U : 0U) + (offsets[q][1] < 0 ? 2U : 0U);
                ring[q] = firstVertex_[index] + sheets_[index].of[e];
            }
            if (!complete) continue;
            // Counter-clockwise about the axis; outwards where the inside is at the lower end.
            if (!inside_.at(keyOf(low))) std::swap(ring[1], ring[3]);
            addSquare(ring, passings_[i].normal);
        }
    }

    void addSquare(const std::array<VertexId, 4>& r, const Point& facing) {
        const auto normal = [&](unsigned a, unsigned b, unsigned c) {
            const auto& p = result_.mesh.positions;
            return Point((p[r[b]] - p[r[a]]).cross(p[r[c]] - p[r[a]]).normalized());
        };
        const double first = std::min(normal(0, 1, 2).dot(facing), normal(0, 2, 3).dot(facing));
        const double second = std::min(normal(0, 1, 3).dot(facing), normal(1, 2, 3).dot(facing));
        auto& t = result_.mesh.triangles;
        if (!(second > first + tolerance::skinTie)) {
            t.push_back({r[0], r[1], r[2]});
            t.push_back({r[0], r[2], r[3]});
        } else {
            t.push_back({r[0], r[1], r[3]});
            t.push_back({r[1], r[2], r[3]});
        }
    }

    // ---- until it is solid

    Outcome<Skin> finish(mesh::Progress& progress) {
        Mesh& skin = result_.mesh;
        std::vector<std::uint8_t> drawn(skin.positions.size(), 0);
        constexpr int rounds = 8;
        for (int round = 0; round < rounds; ++round) {
            mesh::PartOfProgress part(progress, 0.75 + 0.25 * round / rounds, 0.75 + 0.25 * (round + 1) / rounds);
            const check::Surveyed surveyed(skin);
            auto looked = surveyed.survey({}, part);
            if (!looked) return mesh::errorOf(looked);
            const check::Survey* survey = looked->get();
            result_.solid = survey->solid;
            if (survey->solid) break;
            if (!result_.fused && drawBack(survey->crossingPairs, drawn)) continue;
            // Equal corners of two sheets are one vertex in a file.
            mesh::joinEqualVertices(skin);
            const check::Counts& counts = survey->counts;
            if (counts.nonmanifoldEdges + counts.nonmanifoldVertices + counts.duplicateTriangles > 0) {
                auto untied = fit::resolve(skin, {}, {.precision = precision_}, part);
                if (!untied) return mesh::errorOf(untied);
                skin = std::move(untied->mesh);
            }
            auto fused = fit::fuse(skin, {}, {.precision = precision_}, part);
            if (!fused) return mesh::errorOf(fused);
            result_.fused = true;
            skin = std::move(fused->mesh);
        }
        if (!progress.report(1)) return mesh::cancelled();
        return std::move(result_);
    }

    // Vertices at crossings go to the middle of what passes their cells, where the skin does not fold. True where any
    // did.
    bool drawBack(const std::vector<check::TrianglePair>& pairs, std::vector<std::uint8_t>& drawn) {
        const std::size_t before = result_.relaxed;
        for (const auto& [a, b] : pairs)
            for (TriangleId t : {a, b})
                for (VertexId v : result_.mesh.triangles[t])
                    if (!std::exchange(drawn[v], std::uint8_t{1})) {
                        ++result_.relaxed;
                        result_.mesh.positions[v] = middles_[v];
                    }
        return result_.relaxed > before;
    }

    const Field& field_;
    Grid grid_;
    mesh::Precision precision_;
    std::vector<GridKey> cells_;  // that the skin runs through, ascending
    std::unordered_map<GridKey, std::uint8_t> inside_;
    std::vector<GridKey> edges_;  // that the skin passes, ascending
    std::vector<Passing> passings_;
    std::vector<Sheets> sheets_;
    std::vector<std::uint32_t> firstVertex_;
    std::vector<Point> middles_;
    Skin result_;
};

}  // namespace

GridIndex seedBeside(const GridIndex& i) {
    constexpr std::array<std::array<int, 2>, 7> steps{{{0, 0}, {0, -1}, {1, -1}, {2, -1}, {2, 1}, {1, 1}, {0, 1}}};
    const auto rest = static_cast<std::size_t>((i.x + 2 * i.y + 3 * i.z) % 7);
    return i.plus(steps[rest][0], steps[rest][1]);
}

void sortUnique(std::vector<GridKey>& keys) {
    std::sort(keys.begin(), keys.end());
    keys.erase(std::unique(keys.begin(), keys.end()), keys.end());
}

GridIndex Grid::cellAt(const Point& p) const {
    const Point q = (p - origin) / cell;
    return {static_cast<int>(std::floor(q.x())), static_cast<int>(std::floor(q.y())),
            static_cast<int>(std::floor(q.z()))};
}

bool windingAt(const space::WindingTree& winding, const Grid& grid, const std::vector<GridKey>& corners,
               std::vector<double>& values, mesh::Progress& progress) {
    values.resize(corners.size());
    std::atomic<bool> stop = false;
    constexpr std::size_t atOnce = 256;
    mesh::parallelFor((corners.size() + atOnce - 1) / atOnce, 1, [&](std::size_t run) {
        const std::size_t begin = run * atOnce;
        if (stop) return;
        if (!progress.report(static_cast<double>(begin) / static_cast<double>(corners.size()))) stop = true;
        std::vector<Point> places;
        for (std::size_t i = begin; i < std::min(corners.size(), begin + atOnce); ++i)
            places.push_back(grid.place(indexOf(corners[i])));
        winding.at(places, std::span(values).subspan(begin, places.size()), tolerance::skinFarAway);
    });
    return !stop;
}

Outcome<Skin> contour(const Field& field, const Grid& grid, mesh::Precision precision, mesh::Progress& progress) {
    return Contouring(field, grid, precision).run(progress);
}

}  // namespace zither::shape
