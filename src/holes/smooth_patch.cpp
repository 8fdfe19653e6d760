// The smooth way of filling a hole: refined like its surroundings, and bent to go on where they stop.
#include <Eigen/Geometry>
#include <Eigen/SparseCholesky>
#include <algorithm>
#include <numbers>
#include <set>
#include <unordered_map>

#include "holes/holes_tolerances.h"
#include "holes/patches.h"
#include "measure/measure_tolerances.h"

namespace zither::holes {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::Triangle;
using mesh::VertexId;

// Splits and swaps until the patch is as dense as its rim.
class Refinement {
public:
    Refinement(const std::vector<Point>& rim, std::vector<Triangle> base)
        : points(rim), triangles(std::move(base)), rimCount_(rim.size()) {
        // The wished length at a rim vertex: the mean of its two rim edges.
        // Inside a long rim triangles grow: even ones would be as many as the square of its edges.
        if (rimCount_ > 200) growth_ = 1.5;
        for (std::size_t i = 0; i < rimCount_; ++i)
            wish_.push_back(0.5 * ((rim[i] - rim[(i + 1) % rimCount_]).norm() +
                                   (rim[i] - rim[(i + rimCount_ - 1) % rimCount_]).norm()));
    }

    bool run(mesh::Progress& progress) {
        constexpr int mostRounds = 24;
        for (int round = 0; round < mostRounds; ++round) {
            if (!progress.report(0.3 * round / mostRounds)) return false;
            const bool split = splitAll();
            for (int pass = 0; pass < 12 && swapAll(); ++pass) {
            }
            if (!split) break;
        }
        return true;
    }

    std::vector<Point> points;  // the rim's first
    std::vector<Triangle> triangles;

private:
    // Triangles. An even rim of any length needs fewer; one with a few tiny edges around a wide hole would ask for more
    // than can be bent in reasonable time.
    [[nodiscard]] std::size_t most() const { return std::max<std::size_t>(20'000, 20 * rimCount_); }

    bool splitAll() {
        const std::size_t count = triangles.size();
        for (std::size_t t = 0; t < count && triangles.size() < most(); ++t) {
            const Triangle tri = triangles[t];
            const Point c = (points[tri[0]] + points[tri[1]] + points[tri[2]]) / 3;
            const double wish = growth_ * (wish_[tri[0]] + wish_[tri[1]] + wish_[tri[2]]) / 3;
            const bool tooLarge = std::all_of(tri.begin(), tri.end(), [&](VertexId v) {
                const double d = std::numbers::sqrt2 * (c - points[v]).norm();
                return d > wish && d > wish_[v];
            });
            if (!tooLarge) continue;
            const auto v = static_cast<VertexId>(points.size());
            points.push_back(c);
            wish_.push_back(wish);
            triangles[t] = {tri[0], tri[1], v};
            triangles.push_back({tri[1], tri[2], v});
            triangles.push_back({tri[2], tri[0], v});
        }
        return triangles.size() > count;
    }

    // Swaps each inner edge whose opposite angles add up to more than half a turn, unless the other diagonal is there.
    bool swapAll() {
        std::unordered_map<std::uint64_t, std::uint32_t> faceOf;  // of directed edges
        for (std::uint32_t t = 0; t < triangles.size(); ++t)
            for (unsigned k = 0; k < 3; ++k) faceOf[mesh::pairKey(triangles[t][k], triangles[t][(k + 1) % 3])] = t;
        bool any = false;
        for (std::uint32_t t = 0; t < triangles.size(); ++t)
            for (unsigned k = 0; k < 3; ++k) {
                const VertexId a = triangles[t][k];
                const VertexId b = triangles[t][(k + 1) % 3];
                const VertexId c = triangles[t][(k + 2) % 3];
                const auto found = faceOf.find(mesh::pairKey(b, a));
                if (found == faceOf.end()) continue;
                const std::uint32_t o = found->second;
                const VertexId d = triangles[o][0] + triangles[o][1] + triangles[o][2] - a - b;
                if (c == d || faceOf.contains(mesh::pairKey(c, d)) || faceOf.contains(mesh::pairKey(d, c))) continue;
                if (angle(c, a, b) + angle(d, a, b) <= std::numbers::pi + tolerance::delaunayTie) continue;
                // (a, b, c) and (b, a, d) become (a, d, c) and (d, b, c).
                const Point n1 = normal(a, d, c);
                const Point n2 = normal(d, b, c);
                if (n1.dot(n2) <= 0) continue;
                faceOf.erase(mesh::pairKey(a, b));
                faceOf.erase(mesh::pairKey(b, a));
                triangles[t] = {a, d, c};
                triangles[o] = {d, b, c};
                for (const std::uint32_t f : {t, o})
                    for (unsigned i = 0; i < 3; ++i)
                        faceOf[mesh::pairKey(triangles[f][i], triangles[f][(i + 1) % 3])] = f;
                any = true;
                break;
            }
        return any;
    }

    [[nodiscard]] double angle(VertexId apex, VertexId a, VertexId b) const {
        const Point u = points[a] - points[apex];
        const Point v = points[b] - points[apex];
        return std::atan2(u.cross(v).norm(), u.dot(v));
    }
    [[nodiscard]] Point normal(VertexId a, VertexId b, VertexId c) const {
        return (points[b] - points[a]).cross(points[c] - points[a]);
    }

    std::size_t rimCount_;
    double growth_ = 1;
    std::vector<double> wish_;
};

using Sparse = Eigen::SparseMatrix<double>;

// The patch with two rings of the surface around it; the patch's own vertices are free.
class Fairing {
public:
    Fairing(const Mesh& m, const mesh::Corners& corners, const Loop& loop, const Refinement& patch)
        : rimCount_(loop.vertices.size()), freeCount_(patch.points.size() - rimCount_) {
        // Free vertices first, then the rim, then what lies around.
        for (std::size_t i = rimCount_; i < patch.points.size(); ++i) points_.push_back(patch.points[i]);
        for (VertexId v : loop.vertices) take(m, v);
        for (const Triangle& t : patch.triangles) {
            Triangle local{};
            for (unsigned k = 0; k < 3; ++k)
                local[k] = static_cast<VertexId>(t[k] < rimCount_ ? freeCount_ + t[k] : t[k] - rimCount_);
            triangles_.push_back(local);
        }
        // Two rings of triangles around the rim.
        std::vector<VertexId> from = loop.vertices;
        std::set<mesh::TriangleId> taken;
        for (int ring = 0; ring < 2; ++ring) {
            std::vector<VertexId> next;
            for (VertexId v : from)
                for (HalfEdge h : corners.at(v)) {
                    const mesh::TriangleId t = mesh::triangleOf(h);
                    if (mesh::isCollapsed(m.triangles[t]) || !taken.insert(t).second) continue;
                    Triangle local{};
                    for (unsigned k = 0; k < 3; ++k) {
                        if (!numberOf_.contains(m.triangles[t][k])) next.push_back(m.triangles[t][k]);
                        local[k] = take(m, m.triangles[t][k]);
                    }
                    triangles_.push_back(local);
                }
            if (ring == 0) ringEnd_ = points_.size();
            from = std::move(next);
        }
        findWhole();
    }

    // False where cancelled or where no solution was found.
    bool run(mesh::Progress& progress) {
        constexpr int rounds = 8;
        std::vector<double> bend(freeCount_ + rimCount_, 0);
        for (int round = 0; round < rounds; ++round) {
            if (!progress.report(0.3 + 0.7 * round / rounds)) return false;
            measureWeights();
            if (round > 0) bend = wishedBend();
            const std::vector<Point> before = points_;
            if (!solve(bend)) return false;
            double moved = 0;
            mesh::Box box;
            for (std::size_t v = 0; v < freeCount_ + rimCount_; ++v) {
                moved = std::max(moved, (points_[v] - before[v]).squaredNorm());
                box.add(points_[v]);
            }
            if (round > 1 && std::sqrt(moved) < tolerance::smoothAtRest * box.diagonal()) break;
        }
        return true;
    }

    [[nodiscard]] std::vector<Point> freePoints() const {
        return {points_.begin(), points_.begin() + static_cast<std::ptrdiff_t>(freeCount_)};
    }

private:
    VertexId take(const Mesh& m, VertexId v) {
        const auto [it, fresh] = numberOf_.try_emplace(v, static_cast<VertexId>(points_.size()));
        if (fresh) points_.push_back(m.positions[v]);
        return it->second;
    }

    // Vertices with a closed fan of local triangles around them: only there a Laplacian can be taken.
    void findWhole() {
        std::unordered_map<std::uint64_t, int> edges;
        for (const Triangle& t : triangles_)
            for (unsigned k = 0; k < 3; ++k) {
                const auto [a, b] = std::minmax({t[k], t[(k + 1) % 3]});
                ++edges[mesh::pairKey(a, b)];
            }
        whole_.assign(points_.size(), 1);
        for (const auto& [key, count] : edges)
            if (count != 2) whole_[key >> 32] = whole_[key & 0xFFFFFFFFU] = 0;
    }

    // Cotangent weights, kept from below so that every vertex stays held by its neighbours; a third of the areas
    // around.
    void measureWeights() {
        weights_.clear();
        area_.assign(points_.size(), 0);
        normal_.assign(points_.size(), Point::Zero());
        for (const Triangle& t : triangles_) {
            const Point n = (points_[t[1]] - points_[t[0]]).cross(points_[t[2]] - points_[t[0]]);
            const double twice = n.norm();
            for (unsigned k = 0; k < 3; ++k) {
                const VertexId a = t[(k + 1) % 3];
                const VertexId b = t[(k + 2) % 3];
                const double cotangent =
                    twice > 0 ? (points_[a] - points_[t[k]]).dot(points_[b] - points_[t[k]]) / twice : 0;
                const double w = 0.5 * std::clamp(cotangent, 0.02, 20.0);
                weights_.push_back({a, b, w});
                area_[t[k]] += twice / 6;
                normal_[t[k]] += n;
            }
        }
        for (Point& n : normal_) n.normalize();
    }

    // Twice the mean curvature along the normal for each free and rim vertex: measured just beyond the rim, spread
    // along it, and harmonic over the patch.
    std::vector<double> wishedBend() const {
        const std::size_t known = freeCount_ + rimCount_;
        std::vector<Point> laplacian(points_.size(), Point::Zero());
        for (const auto& [a, b, w] : weights_) {
            laplacian[a] += w * (points_[b] - points_[a]);
            laplacian[b] += w * (points_[a] - points_[b]);
        }
        mesh::Box box;
        for (std::size_t i = freeCount_; i < known; ++i) box.add(points_[i]);
        const double most = 4 / std::max(box.extent().maxCoeff(), tolerance::aboveZero);
        // Of each rim vertex: the mean over its neighbours beyond the rim.
        std::vector<double> sum(points_.size(), 0);
        std::vector<double> count(points_.size(), 0);
        for (const auto& [a, b, w] : weights_)
            for (const auto& [rim, other] : {std::pair(a, b), std::pair(b, a)}) {
                if (rim < freeCount_ || rim >= known || other < known || other >= ringEnd_) continue;
                if (!whole_[other] || area_[other] <= 0) continue;
                sum[rim] += std::clamp(laplacian[other].dot(normal_[other]) / area_[other], -most, most);
                count[rim] += 1;
            }
        double total = 0;
        double counted = 0;
        for (std::size_t i = freeCount_; i < known; ++i) {
            total += sum[i];
            counted += count[i];
        }
        const double mean = counted > 0 ? total / counted : 0;
        std::vector<double> bend(known, mean);
        // Half the mean of the whole rim, half what is measured near by: scans are rough.
        for (std::size_t i = freeCount_; i < known; ++i)
            if (count[i] > 0) bend[i] = 0.5 * (mean + sum[i] / count[i]);
        for (int pass = 0; pass < 10; ++pass) {
            const std::vector<double> before = bend;
            for (std::size_t i = 0; i < rimCount_; ++i)
                bend[freeCount_ + i] = 0.5 * before[freeCount_ + i] + 0.25 * before[freeCount_ + (i + 1) % rimCount_] +
                                       0.25 * before[freeCount_ + (i + rimCount_ - 1) % rimCount_];
        }
        const Eigen::VectorXd inside = harmonic(bend);
        for (std::size_t i = 0; i < freeCount_; ++i) bend[i] = inside[static_cast<Eigen::Index>(i)];
        return bend;
    }

    [[nodiscard]] Eigen::VectorXd harmonic(const std::vector<double>& bend) const {
        std::vector<Eigen::Triplet<double>> entries;
        Eigen::VectorXd right = Eigen::VectorXd::Zero(static_cast<Eigen::Index>(freeCount_));
        const auto add = [&](VertexId row, VertexId column, double w) {
            if (row >= freeCount_) return;
            const auto r = static_cast<Eigen::Index>(row);
            entries.emplace_back(r, r, w);
            if (column < freeCount_)
                entries.emplace_back(r, static_cast<Eigen::Index>(column), -w);
            else
                right[r] += w * (column < bend.size() ? bend[column] : 0);
        };
        for (const auto& [a, b, w] : weights_) {
            add(a, b, w);
            add(b, a, w);
        }
        Sparse matrix(right.size(), right.size());
        matrix.setFromTriplets(entries.begin(), entries.end());
        const Eigen::SimplicialLDLT<Sparse> solver(matrix);
        const Eigen::VectorXd x = solver.solve(right);
        return solver.info() == Eigen::Success && x.allFinite() ? x : Eigen::VectorXd::Zero(right.size());
    }

    // Least squares over free and rim vertices i of |sum_j w_ij (x_j - x_i) - a_i b_i n_i|^2 / a_i, a area, b bend.
    bool solve(const std::vector<double>& bend) {
        const auto rows = static_cast<Eigen::Index>(freeCount_ + rimCount_);
        const auto columns = static_cast<Eigen::Index>(freeCount_);
        std::vector<Eigen::Triplet<double>> entries;
        Eigen::MatrixX3d right(rows, 3);
        std::vector<double> scale(static_cast<std::size_t>(rows), 0);
        for (Eigen::Index i = 0; i < rows; ++i) {
            const auto v = static_cast<std::size_t>(i);
            if (!whole_[v] || !(area_[v] > 0)) {
                right.row(i).setZero();
                continue;
            }
            scale[v] = 1 / std::sqrt(area_[v]);
            right.row(i) = (scale[v] * area_[v] * bend[v] * normal_[v]).transpose();
        }
        const auto add = [&](VertexId row, VertexId column, double w) {
            if (row >= scale.size() || scale[row] == 0) return;
            const auto r = static_cast<Eigen::Index>(row);
            const auto put = [&](VertexId v, double value) {
                if (v < freeCount_)
                    entries.emplace_back(r, static_cast<Eigen::Index>(v), scale[row] * value);
                else
                    right.row(r) -= scale[row] * value * points_[v].transpose();
            };
            put(row, -w);
            put(column, w);
        };
        for (const auto& [a, b, w] : weights_) {
            add(a, b, w);
            add(b, a, w);
        }
        Sparse matrix(rows, columns);
        matrix.setFromTriplets(entries.begin(), entries.end());
        const Sparse normalMatrix = matrix.transpose() * matrix;
        const Eigen::SimplicialLDLT<Sparse> solver(normalMatrix);
        if (solver.info() != Eigen::Success) return false;
        const Eigen::MatrixX3d x = solver.solve(matrix.transpose() * right);
        if (solver.info() != Eigen::Success || !x.allFinite()) return false;
        for (std::size_t v = 0; v < freeCount_; ++v) points_[v] = x.row(static_cast<Eigen::Index>(v)).transpose();
        return true;
    }

    struct Weight {
        VertexId a;
        VertexId b;
        double w;
    };

    std::size_t rimCount_;
    std::size_t freeCount_;
    std::size_t ringEnd_ = 0;  // vertices of the first ring of triangles end here
    std::vector<Point> points_;
    std::vector<Triangle> triangles_;
    std::unordered_map<VertexId, VertexId> numberOf_;
    std::vector<std::uint8_t> whole_;
    std::vector<Weight> weights_;
    std::vector<double> area_;
    std::vector<Point> normal_;
};

}  // namespace

mesh::Outcome<Patch> smoothPatch(const Surrounding& surrounding, const Loop& loop, const Patch& base,
                                 mesh::Progress& progress) {
    const Mesh& m = surrounding.mesh;
    std::vector<Point> rim;
    std::unordered_map<VertexId, VertexId> local;
    for (VertexId v : loop.vertices) {
        local[v] = static_cast<VertexId>(rim.size());
        rim.push_back(m.positions[v]);
    }
    std::vector<Triangle> triangles;
    for (const Triangle& t : base.triangles) triangles.push_back({local.at(t[0]), local.at(t[1]), local.at(t[2])});
    Refinement refined(rim, std::move(triangles));
    if (!refined.run(progress)) return mesh::cancelled();
    if (refined.points.size() == rim.size()) return base;
    Fairing fairing(m, surrounding.corners, loop, refined);
    if (!fairing.run(progress)) {
        if (!progress.report(1)) return mesh::cancelled();
        return Patch{};
    }
    Patch patch;
    patch.added = fairing.freePoints();
    const std::size_t given = m.positions.size();
    for (const Triangle& t : refined.triangles) {
        Triangle global{};
        for (unsigned k = 0; k < 3; ++k)
            global[k] = t[k] < rim.size() ? loop.vertices[t[k]] : static_cast<VertexId>(given + t[k] - rim.size());
        patch.triangles.push_back(global);
    }
    return patch;
}

}  // namespace zither::holes
