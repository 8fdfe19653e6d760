// Signs on a sparse grid, a vertex for each sheet in a cell, quads across edges; then whatever crosses is mended.
#include "shape/wrap.h"

#include <fmt/format.h>

#include <Eigen/Eigenvalues>
#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <cmath>
#include <optional>
#include <unordered_map>
#include <utility>

#include "arrange/fuse.h"
#include "arrange/resolve.h"
#include "check/crossing_pairs.h"
#include "check/survey.h"
#include "measure/mass.h"
#include "mesh/disjoint_sets.h"
#include "mesh/parallel.h"
#include "mesh/tolerances.h"
#include "space/triangle_tree.h"
#include "space/winding.h"

namespace zither::shape {
namespace {

using mesh::Mesh;
using mesh::Outcome;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

// Cells along a side at most: a key has 20 bits for each, and the part takes half of them.
constexpr double mostCells = 1 << 19;

struct Index {
    int x = 0;
    int y = 0;
    int z = 0;
    [[nodiscard]] Index plus(int axis, int by) const {
        return {x + (axis == 0) * by, y + (axis == 1) * by, z + (axis == 2) * by};
    }
};
using Key = std::uint64_t;

Key keyOf(const Index& i) {
    return static_cast<Key>(i.x) << 42 | static_cast<Key>(i.y) << 21 | static_cast<Key>(i.z);
}
Index indexOf(Key key) {
    return {static_cast<int>(key >> 42), static_cast<int>(key >> 21 & 0x1FFFFF), static_cast<int>(key & 0x1FFFFF)};
}

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

// Where the skin passes an edge of the grid, and how it faces there.
struct Passing {
    Point point;
    Point normal;  // outwards
};

// What is reachable from outside by a ball: nodes of a coarse grid.
class Reach {
public:
    Reach(const space::TriangleTree& tree, const mesh::Box& box, double width) : tree_(tree), half_(0.5 * width) {
        step_ = std::max(width / 4, box.extent().maxCoeff() / 160);
        origin_ = box.min - Point::Constant(width + 2 * step_);
        const Point extent = box.extent() + Point::Constant(2 * width + 4 * step_);
        for (int k = 0; k < 3; ++k) size_[static_cast<unsigned>(k)] = static_cast<int>(extent[k] / step_) + 2;
        const std::size_t count = std::size_t{1} * size_[0] * size_[1] * size_[2];
        std::vector<std::uint8_t> wide(count, 0);
        mesh::parallelFor(count, 256, [&](std::size_t i) { wide[i] = !tree_.nearest(place(i), half_).has_value(); });
        // From a corner of the grid wherever the ball fits; then on, as far as its radius, wherever nothing is between.
        reached_.assign(count, 0);
        std::vector<std::size_t> front{0};
        reached_[0] = 1;
        for (std::size_t i = 0; i < front.size(); ++i)
            neighbours(front[i], [&](std::size_t n) {
                if (reached_[n] || !wide[n]) return;
                reached_[n] = 1;
                front.push_back(n);
            });
        const int rings = static_cast<int>(std::ceil(half_ / step_)) + 1;
        for (int ring = 0; ring < rings; ++ring) {
            std::vector<std::size_t> next;
            for (const std::size_t i : front)
                neighbours(i, [&](std::size_t n) {
                    if (reached_[n] || blocked(place(i), place(n))) return;
                    reached_[n] = 1;
                    next.push_back(n);
                });
            front = std::move(next);
        }
    }

    // Some reached node near by is seen from p.
    [[nodiscard]] bool from(const Point& p) const {
        std::array<int, 3> base{};
        for (int k = 0; k < 3; ++k)
            base[static_cast<unsigned>(k)] = static_cast<int>(std::floor((p[k] - origin_[k]) / step_));
        for (int dx = 0; dx < 2; ++dx)
            for (int dy = 0; dy < 2; ++dy)
                for (int dz = 0; dz < 2; ++dz) {
                    const int x = base[0] + dx;
                    const int y = base[1] + dy;
                    const int z = base[2] + dz;
                    if (x < 0 || y < 0 || z < 0 || x >= size_[0] || y >= size_[1] || z >= size_[2]) return true;
                    const std::size_t node = (static_cast<std::size_t>(x) * size_[1] + y) * size_[2] + z;
                    if (reached_[node] && !blocked(p, place(node))) return true;
                }
        return false;
    }

private:
    [[nodiscard]] Point place(std::size_t i) const {
        const std::size_t z = i % size_[2];
        const std::size_t y = i / size_[2] % size_[1];
        const std::size_t x = i / size_[2] / size_[1];
        return origin_ + step_ * Point(static_cast<double>(x), static_cast<double>(y), static_cast<double>(z));
    }
    template <class Visit>
    void neighbours(std::size_t i, const Visit& visit) const {
        const std::size_t z = i % size_[2];
        const std::size_t y = i / size_[2] % size_[1];
        const std::size_t x = i / size_[2] / size_[1];
        const std::size_t layer = std::size_t{1} * size_[1] * size_[2];
        if (z > 0) visit(i - 1);
        if (z + 1 < static_cast<std::size_t>(size_[2])) visit(i + 1);
        if (y > 0) visit(i - size_[2]);
        if (y + 1 < static_cast<std::size_t>(size_[1])) visit(i + size_[2]);
        if (x > 0) visit(i - layer);
        if (x + 1 < static_cast<std::size_t>(size_[0])) visit(i + layer);
    }
    [[nodiscard]] bool blocked(const Point& a, const Point& b) const {
        const auto hit = tree_.firstHit(a, b - a);
        return hit && hit->t <= 1;
    }

    const space::TriangleTree& tree_;
    double half_;
    double step_ = 0;
    Point origin_;
    std::array<int, 3> size_{};
    std::vector<std::uint8_t> reached_;
};

class Wrapping {
public:
    Wrapping(const check::Surveyed& s, const WrapOptions& options)
        : m_(s.mesh()),
          options_(options),
          box_(mesh::boxOf(m_)),
          // About a surface that is no solid the winding number may exceed a half well outside its box.
          origin_(box_.min -
                  Point::Constant(0.45 * box_.extent().maxCoeff() + (2.5 + tolerance::skinOffGrid) * options.cell)),
          tree_(s.tree()),
          winding_(m_) {}

    Outcome<WrapResult> run(mesh::Progress& progress) {
        if (options_.sealing > 0) reach_.emplace(tree_, box_, options_.sealing);
        if (!progress.report(0.1)) return mesh::cancelled();
        touchCells();
        if (!spread(progress)) return mesh::cancelled();
        if (!findPassings(progress)) return mesh::cancelled();
        placeVertices();
        if (!progress.report(0.75)) return mesh::cancelled();
        join();
        return finish(progress);
    }

private:
    [[nodiscard]] Point place(const Index& i) const { return origin_ + options_.cell * Point(i.x, i.y, i.z); }
    [[nodiscard]] Index cellAt(const Point& p) const {
        const Point q = (p - origin_) / options_.cell;
        return {static_cast<int>(std::floor(q.x())), static_cast<int>(std::floor(q.y())),
                static_cast<int>(std::floor(q.z()))};
    }
    static Index cornerOf(const Index& cell, unsigned c) {
        return {cell.x + static_cast<int>(c & 1U), cell.y + static_cast<int>(c >> 1 & 1U),
                cell.z + static_cast<int>(c >> 2 & 1U)};
    }

    // ---- which cells, and what is inside

    // The cells that triangles may run through: of their boxes, those near the plane.
    void touchCells() {
        std::vector<std::vector<Key>> parts((m_.triangles.size() + mesh::blockSize - 1) / mesh::blockSize);
        mesh::parallelFor(parts.size(), 1, [&](std::size_t b) {
            for (std::size_t i = b * mesh::blockSize; i < std::min(m_.triangles.size(), (b + 1) * mesh::blockSize);
                 ++i) {
                const auto t = static_cast<TriangleId>(i);
                const mesh::Box box = mesh::boxOf(m_, t);
                const Index low = cellAt(box.min);
                const Index high = cellAt(box.max);
                const Point n = mesh::areaVector(m_, t).normalized();
                const double reach = 0.5 * options_.cell * n.cwiseAbs().sum() + tolerance::skinTouch * options_.cell;
                for (int x = low.x; x <= high.x; ++x)
                    for (int y = low.y; y <= high.y; ++y)
                        for (int z = low.z; z <= high.z; ++z) {
                            const Point centre = place({x, y, z}) + Point::Constant(0.5 * options_.cell);
                            if (std::abs(n.dot(centre - m_.corner(t, 0))) <= reach)
                                parts[b].push_back(keyOf({x, y, z}));
                        }
                if (parts[b].size() > 1U << 20) unique(parts[b]);
            }
            unique(parts[b]);
        });
        for (const auto& part : parts) cells_.insert(cells_.end(), part.begin(), part.end());
        unique(cells_);
    }

    static void unique(std::vector<Key>& keys) {
        std::sort(keys.begin(), keys.end());
        keys.erase(std::unique(keys.begin(), keys.end()), keys.end());
    }

    [[nodiscard]] bool isInside(const Point& p) const {
        if (winding_.at(p, tolerance::skinFarAway) > 0.5) return true;
        return reach_ && !reach_->from(p);
    }

    // Winding numbers are dear. Of the corners of the grid every seventh is a seed (x + 2y + 3z divisible by 7), and
    // every other one has exactly one of them beside it; where no triangle crosses the edge to it, and its winding
    // number is nearly whole, that says on which side the corner is: in one step it does not change by a half.
    bool findSigns(const std::vector<Key>& corners, std::vector<std::uint8_t>& signs, mesh::Progress& progress) {
        std::vector<Key> seeds;
        seeds.reserve(corners.size());
        for (Key k : corners) seeds.push_back(keyOf(seedBeside(indexOf(k))));
        unique(seeds);
        std::vector<double> winding(seeds.size());
        std::atomic<bool> stop = false;
        const auto report = [&](std::size_t i, std::size_t count, double from) {
            if (i % 4096 == 0 && !progress.report(from + 0.17 * static_cast<double>(i) / static_cast<double>(count)))
                stop = true;
        };
        constexpr std::size_t atOnce = 256;
        if (!reach_)
            mesh::parallelFor((seeds.size() + atOnce - 1) / atOnce, 1, [&](std::size_t run) {
                if (stop) return;
                const std::size_t begin = run * atOnce;
                std::vector<Point> places;
                for (std::size_t i = begin; i < std::min(seeds.size(), begin + atOnce); ++i) {
                    places.push_back(place(indexOf(seeds[i])));
                    report(i, seeds.size(), 0.1);
                }
                winding_.at(places, std::span(winding).subspan(begin, places.size()), tolerance::skinFarAway);
            });
        mesh::parallelFor(corners.size(), 128, [&](std::size_t i) {
            if (stop) return;
            report(i, corners.size(), 0.28);
            const Index corner = indexOf(corners[i]);
            if (!reach_) {
                const Key seed = keyOf(seedBeside(corner));
                const double w = winding[static_cast<std::size_t>(std::lower_bound(seeds.begin(), seeds.end(), seed) -
                                                                  seeds.begin())];
                const bool whole = std::abs(w - std::round(w)) < tolerance::skinNearlyWhole;
                if (seed == corners[i] || (whole && !crossed(place(indexOf(seed)), place(corner)))) {
                    signs[i] = w > 0.5;
                    return;
                }
            }
            signs[i] = isInside(place(corner));
        });
        return !stop;
    }

    static Index seedBeside(const Index& i) {
        constexpr std::array<std::array<int, 2>, 7> steps{{{0, 0}, {0, -1}, {1, -1}, {2, -1}, {2, 1}, {1, 1}, {0, 1}}};
        const auto rest = static_cast<std::size_t>((i.x + 2 * i.y + 3 * i.z) % 7);
        return i.plus(steps[rest][0], steps[rest][1]);
    }

    // Some triangle may cross or touch the segment.
    [[nodiscard]] bool crossed(const Point& a, const Point& b) const {
        mesh::Box box;
        box.add(a);
        box.add(b);
        bool found = false;
        tree_.overlapping(box, [&](TriangleId t) {
            if (found) return;
            const Point n = mesh::areaVector(m_, t);
            const double slope = n.dot(b - a);
            const double s = slope != 0 ? n.dot(m_.corner(t, 0) - a) / slope : 0.5;
            if (!(s > -tolerance::skinOnEdge && s < 1 + tolerance::skinOnEdge)) return;
            const Point p = a + s * (b - a);
            found = (space::nearestOnTriangle(p, m_.corner(t, 0), m_.corner(t, 1), m_.corner(t, 2)) - p).norm() <=
                    tolerance::skinOnEdge * options_.cell;
        });
        return found;
    }

    // Signs at the corners of the cells; then on into neighbours over whose face the sign changes, until none is left.
    bool spread(mesh::Progress& progress) {
        std::vector<Key> front = cells_;
        std::unordered_map<Key, std::uint8_t> visited;
        visited.reserve(2 * cells_.size());
        for (Key k : cells_) visited.emplace(k, 1);
        cells_.clear();
        inside_.reserve(3 * front.size());
        while (!front.empty()) {
            std::vector<Key> corners;
            for (Key k : front)
                for (unsigned c = 0; c < 8; ++c)
                    if (const Key corner = keyOf(cornerOf(indexOf(k), c)); !inside_.contains(corner))
                        corners.push_back(corner);
            unique(corners);
            std::vector<std::uint8_t> signs(corners.size());
            if (!findSigns(corners, signs, progress)) return false;
            for (std::size_t i = 0; i < corners.size(); ++i) inside_.emplace(corners[i], signs[i]);
            std::vector<Key> next;
            for (Key k : front) {
                const unsigned signsOf = insideOf(k);
                if (signsOf == 0 || signsOf == 255) continue;
                cells_.push_back(k);
                const Index i = indexOf(k);
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
                        if (const Key n = keyOf(i.plus(axis, by)); visited.emplace(n, 1).second) next.push_back(n);
                    }
            }
            front = std::move(next);
        }
        unique(cells_);
        return true;
    }

    [[nodiscard]] unsigned insideOf(Key cell) const {
        unsigned bits = 0;
        for (unsigned c = 0; c < 8; ++c)
            if (inside_.at(keyOf(cornerOf(indexOf(cell), c)))) bits |= 1U << c;
        return bits;
    }

    // ---- where the skin passes the edges of the grid

    // Key of the lower corner and axis.
    static Key edgeKey(const Index& corner, unsigned axis) { return keyOf(corner) | static_cast<Key>(axis) << 62; }

    bool findPassings(mesh::Progress& progress) {
        // 20 bits a coordinate leave two for the axis.
        std::vector<Key> edges;
        for (Key k : cells_) {
            const unsigned in = insideOf(k);
            for (unsigned e = 0; e < 12; ++e)
                if ((in >> edgeOf(e).low & 1U) != (in >> edgeOf(e).high & 1U))
                    edges.push_back(edgeKey(cornerOf(indexOf(k), edgeOf(e).low), e / 4));
        }
        unique(edges);
        passings_.resize(edges.size());
        std::atomic<bool> stop = false;
        mesh::parallelFor(edges.size(), 64, [&](std::size_t i) {
            if (stop) return;
            const Index low = indexOf(edges[i] & ~(Key{3} << 62));
            passings_[i] = passing(low, static_cast<int>(edges[i] >> 62));
            if (i % 4096 == 0 &&
                !progress.report(0.45 + 0.25 * static_cast<double>(i) / static_cast<double>(edges.size())))
                stop = true;
        });
        if (stop) return false;
        edges_ = std::move(edges);
        return true;
    }

    [[nodiscard]] Passing passing(const Index& low, int axis) const {
        const bool lowInside = inside_.at(keyOf(low)) != 0;
        const Point in = place(lowInside ? low : low.plus(axis, 1));
        const Point out = place(lowInside ? low.plus(axis, 1) : low);
        const Point along = out - in;
        struct Hit {
            double t;
            TriangleId triangle;
        };
        std::vector<Hit> hits;
        mesh::Box box;
        box.add(in);
        box.add(out);
        tree_.overlapping(box, [&](TriangleId t) {
            const Point n = mesh::areaVector(m_, t);
            const double slope = n.dot(along);
            if (slope == 0) return;
            const double s = n.dot(m_.corner(t, 0) - in) / slope;
            if (!(s >= 0 && s <= 1)) return;
            const Point p = in + s * along;
            if ((space::nearestOnTriangle(p, m_.corner(t, 0), m_.corner(t, 1), m_.corner(t, 2)) - p).norm() <=
                tolerance::skinTouch * options_.cell)
                hits.push_back({s, t});
        });
        if (hits.empty()) {
            // The skin passes where no surface is: over a gap.
            double from = 0;
            double to = 1;
            for (int i = 0; i < 6; ++i) {
                const double middle = 0.5 * (from + to);
                (isInside(in + middle * along) ? from : to) = middle;
            }
            return {in + 0.5 * (from + to) * along, along.normalized()};
        }
        std::sort(hits.begin(), hits.end(),
                  [](const Hit& a, const Hit& b) { return a.t != b.t ? a.t < b.t : a.triangle < b.triangle; });
        // From outside, the first surface behind which is inside.
        std::size_t chosen = hits.size() - 1;
        while (chosen > 0 && !isInside(in + 0.5 * (hits[chosen].t + hits[chosen - 1].t) * along)) --chosen;
        Point n = mesh::areaVector(m_, hits[chosen].triangle).normalized();
        if (n.dot(along) < 0) n = -n;
        return {in + hits[chosen].t * along, n};
    }

    [[nodiscard]] const Passing& passingOf(Key cell, unsigned e) const {
        const Key key = edgeKey(cornerOf(indexOf(cell), edgeOf(e).low), e / 4);
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
                middles_[v] = mesh::rounded(options_.precision, middle);
                result_.mesh.positions[v] =
                    mesh::rounded(options_.precision, meetingPoint(indexOf(cells_[i]), middle, around));
            }
        });
    }

    // Where the planes meet best, as near to the middle as they leave open, within the cell.
    [[nodiscard]] Point meetingPoint(const Index& cell, const Point& middle, const std::vector<Passing>& planes) const {
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
        const Point low = place(cell) + Point::Constant(0.01 * options_.cell);
        const Point high = place(cell) + Point::Constant(0.99 * options_.cell);
        return (middle + x).cwiseMax(low).cwiseMin(high);
    }

    // A square of the four cells around each passed edge, cut along the diagonal that agrees best with the surface.
    void join() {
        for (std::size_t i = 0; i < edges_.size(); ++i) {
            const Index low = indexOf(edges_[i] & ~(Key{3} << 62));
            const auto axis = static_cast<unsigned>(edges_[i] >> 62);
            const int u = static_cast<int>(axis + 1) % 3;
            const int v = static_cast<int>(axis + 2) % 3;
            std::array<VertexId, 4> ring{};
            bool complete = true;
            constexpr std::array<std::array<int, 2>, 4> offsets{{{0, 0}, {-1, 0}, {-1, -1}, {0, -1}}};
            for (unsigned q = 0; q < 4; ++q) {
                const Key cell = keyOf(low.plus(u, offsets[q][0]).plus(v, offsets[q][1]));
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

    Outcome<WrapResult> finish(mesh::Progress& progress) {
        Mesh& skin = result_.mesh;
        std::vector<std::uint8_t> drawn(skin.positions.size(), 0);
        constexpr int rounds = 8;
        for (int round = 0; round < rounds; ++round) {
            mesh::PartOfProgress part(progress, 0.75 + 0.25 * round / rounds, 0.75 + 0.25 * (round + 1) / rounds);
            const check::Surveyed surveyed(skin);
            auto looked = surveyed.survey({}, part);
            if (!looked) return tl::unexpected(looked.error());
            const check::Survey* survey = looked->get();
            result_.solid = survey->solid;
            if (survey->solid) break;
            if (!result_.fused && drawBack(survey->crossingPairs, drawn)) continue;
            // Equal corners of two sheets are one vertex in a file.
            mesh::joinEqualVertices(skin);
            const check::Counts& counts = survey->counts;
            if (counts.nonmanifoldEdges + counts.nonmanifoldVertices + counts.duplicateTriangles > 0) {
                auto untied = arrange::resolve(skin, {}, {.precision = options_.precision}, part);
                if (!untied) return tl::unexpected(untied.error());
                skin = std::move(untied->mesh);
            }
            auto fused = arrange::fuse(skin, {}, {.precision = options_.precision}, part);
            if (!fused) return tl::unexpected(fused.error());
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

    const Mesh& m_;
    WrapOptions options_;
    mesh::Box box_;
    Point origin_;
    const space::TriangleTree& tree_;
    space::WindingTree winding_;
    std::optional<Reach> reach_;
    std::vector<Key> cells_;  // that the skin runs through, ascending
    std::unordered_map<Key, std::uint8_t> inside_;
    std::vector<Key> edges_;  // that the skin passes, ascending
    std::vector<Passing> passings_;
    std::vector<Sheets> sheets_;
    std::vector<std::uint32_t> firstVertex_;
    std::vector<Point> middles_;
    WrapResult result_;
};

// A skin has about three triangles for each square of its cell: two a cell that it runs through, and it runs through
// half as many again where it lies aslant.
constexpr double trianglesASquare = 3;

}  // namespace

double cellForTriangles(const Mesh& m, double triangles) {
    return std::sqrt(trianglesASquare * measure::massOf(m).area / std::max(triangles, 1.0));
}

double trianglesForCell(const Mesh& m, double cell) {
    return cell > 0 ? trianglesASquare * measure::massOf(m).area / (cell * cell) : 0;
}

Outcome<WrapResult> wrap(const check::Surveyed& s, const WrapOptions& options, mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    if (!progress.report(0)) return mesh::cancelled();
    if (m.triangles.empty()) return WrapResult{m};
    const double side = mesh::boxOf(m).extent().maxCoeff();
    if (!(options.cell > 0) || !(side / options.cell < mostCells))
        return mesh::badInput(fmt::format("wrap: the cell must be above {:.3g}, a {:.0f}th of the part, not {:.3g}",
                                          side / mostCells, mostCells, options.cell));
    return Wrapping(s, options).run(progress);
}

}  // namespace zither::shape
