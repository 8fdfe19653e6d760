// One sparse system for all three coordinates; then volume, bounds and crossings are seen to.
#include "shape/smooth.h"

#include <Eigen/IterativeLinearSolvers>
#include <Eigen/SparseCholesky>
#include <Eigen/SparseCore>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>
#include <utility>

#include "check/crossing_pairs.h"
#include "measure/mass.h"
#include "measure/measure_tolerances.h"
#include "mesh/parallel.h"
#include "shape/feature_lines.h"
#include "shape/shape_tolerances.h"

namespace zither::shape {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Outcome;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;
using Matrix = Eigen::SparseMatrix<double, Eigen::RowMajor>;

// Half the cotangent of the angle at `apex`; of needles no more than at a few degrees.
double halfCotangent(const Point& apex, const Point& a, const Point& b) {
    const Point u = a - apex;
    const Point v = b - apex;
    constexpr double most = 20;
    const double sine = u.cross(v).norm();
    const double cosine = u.dot(v);
    return sine * most > std::abs(cosine) ? 0.5 * cosine / sine : (cosine > 0 ? 0.5 * most : -0.5 * most);
}

// Of a symmetric matrix. A band around ridges is narrow and takes few operations, however long it is; a wide surface
// takes many.
class Factors : Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>> {
public:
    explicit Factors(const Matrix& system) { analyzePattern(system); }
    // Multiplications that finding them takes.
    [[nodiscard]] double operations() const { return m_nonZerosPerCol.cast<double>().squaredNorm(); }
    [[nodiscard]] bool find(const Matrix& system) {
        factorize(system);
        return info() == Eigen::Success;
    }
    using SimplicialLDLT::solve;
};

class Smoothing {
public:
    Smoothing(const check::Surveyed& s, const mesh::Pick& pick, const SmoothOptions& options)
        : s_(s), m_(s.mesh()), options_(options), free_(m_.positions.size(), 1), rigid_(m_.positions.size(), 0) {
        const FeatureLines lines =
            featureLinesOf(m_, s.edges(), {.creaseDeg = options.creaseDeg, .spur = options.scale});
        const std::vector<std::uint8_t> used = mesh::cornersOf(m_, std::vector<std::uint8_t>(m_.triangles.size(), 1));
        for (VertexId v = 0; v < free_.size(); ++v) {
            rigid_[v] = !lines.places[v].isFree();
            free_[v] = used[v] && !rigid_[v];
            result_.fixed += rigid_[v];
        }
        if (pick.everything()) return;
        std::vector<std::uint8_t> others = pick.mask(m_);
        for (std::uint8_t& flag : others) flag = !flag;
        hold(mesh::cornersOf(m_, others));
    }

    Outcome<Smoothed> run(mesh::Progress& progress) {
        mesh::PartOfProgress asking(progress, 0, 0.2);
        const auto before = s_.survey(s_.knownOptions(), asking);
        if (!before) return mesh::errorOf(before);
        before_ = *before;
        result_.volumeBefore = result_.volumeAfter = before_->mass.volume;
        // Without a collapsed or degenerate triangle among them: there is no way of telling how it turns there.
        hold(mesh::cornersOf(m_, s_.degenerate()));
        way_.assign(m_.positions.size(), Point::Zero());
        mesh::PartOfProgress solving(progress, 0.2, 0.7);
        if (!solve(solving)) return mesh::cancelled();
        share_.assign(m_.positions.size(), 1);
        if (options_.keepVolume) keepVolume();
        mesh::PartOfProgress looking(progress, 0.7, 1);
        if (!settle(looking)) return mesh::cancelled();
        return std::move(result_);
    }

private:
    // The flagged vertices stay where they are.
    void hold(const std::vector<std::uint8_t>& flags) {
        for (std::size_t v = 0; v < flags.size(); ++v)
            if (flags[v]) free_[v] = 0;
    }

    // ---- where each vertex would go

    bool solve(mesh::Progress& progress) {
        std::vector<int> number(m_.positions.size(), -1);
        int count = 0;
        for (VertexId v = 0; v < free_.size(); ++v)
            if (free_[v]) number[v] = count++;
        if (count == 0) return true;
        const auto all = static_cast<Eigen::Index>(m_.positions.size());
        std::vector<double> mass(m_.positions.size(), 0);
        std::vector<Eigen::Triplet<double>> entries;
        entries.reserve(12 * m_.triangles.size());
        double area = 0;
        for (TriangleId t = 0; t < m_.triangles.size(); ++t) {
            if (s_.degenerate()[t]) continue;
            const double third = mesh::areaVector(m_, t).norm() / 6;
            area += 3 * third;
            for (unsigned k = 0; k < 3; ++k) {
                const VertexId a = m_.triangles[t][(k + 1) % 3];
                const VertexId b = m_.triangles[t][(k + 2) % 3];
                mass[m_.triangles[t][k]] += third;
                const double w = halfCotangent(m_.corner(t, k), m_.positions[a], m_.positions[b]);
                entries.emplace_back(static_cast<int>(a), static_cast<int>(b), -w);
                entries.emplace_back(static_cast<int>(b), static_cast<int>(a), -w);
            }
        }
        Matrix laplacian(all, all);
        laplacian.setFromTriplets(entries.begin(), entries.end());
        entries = {};
        // Weights of edges whose angles add up to more than half a turn pull the wrong way; rows add up to nothing.
        const double least = tolerance::leastVertexArea * area / static_cast<double>(m_.positions.size());
        Eigen::VectorXd diagonal = Eigen::VectorXd::Zero(all);
        for (Eigen::Index row = 0; row < all; ++row)
            for (Matrix::InnerIterator it(laplacian, row); it; ++it) {
                it.valueRef() = std::min(it.value(), 0.0);
                diagonal[row] -= it.value();
            }
        Matrix diagonals(all, all);
        diagonals.reserve(Eigen::VectorXi::Constant(all, 1));
        for (Eigen::Index row = 0; row < all; ++row) diagonals.insert(row, row) = diagonal[row];
        laplacian += diagonals;
        // |Lx|^2 over the surface, without the vertices on creases.
        Eigen::VectorXd weight(all);
        const double t = std::pow(options_.scale / (2 * std::numbers::pi), 2);
        for (Eigen::Index v = 0; v < all; ++v) {
            double& of = mass[static_cast<std::size_t>(v)];
            of = std::max(of, least);
            weight[v] = rigid_[static_cast<std::size_t>(v)] ? 0 : t * t / of;
        }
        // Only columns of vertices that move, and rows that know them.
        Matrix chosen(count, all);
        chosen.reserve(Eigen::VectorXi::Constant(count, 1));
        Eigen::VectorXd own(count);
        for (std::size_t v = 0; v < number.size(); ++v)
            if (number[v] >= 0) {
                chosen.insert(number[v], static_cast<Eigen::Index>(v)) = 1;
                own[number[v]] = mass[v];
            }
        const Matrix rows = chosen * laplacian;
        Matrix system = rows * weight.asDiagonal() * Matrix(rows.transpose());
        if (!progress.report(0.2)) return false;
        // For the way instead of the place: what does not move is the right side's.
        Eigen::MatrixX3d places(all, 3);
        for (Eigen::Index v = 0; v < all; ++v) places.row(v) = m_.positions[static_cast<std::size_t>(v)].transpose();
        const Eigen::MatrixX3d right = -(rows * (weight.asDiagonal() * (laplacian * places)));
        for (int i = 0; i < count; ++i) system.coeffRef(i, i) += own[i];
        Eigen::MatrixX3d ways = Eigen::MatrixX3d::Zero(count, 3);
        Factors factors(system);
        // About as many as a thousand rounds of iteration take, which seldom do.
        constexpr double worth = 1000;
        if (factors.operations() <= worth * static_cast<double>(system.nonZeros())) {
            if (!factors.find(system)) return true;  // nothing moves
            ways = factors.solve(right);
        } else if (!iterate(system, right, ways, progress)) {
            return false;
        }
        for (std::size_t v = 0; v < number.size(); ++v)
            if (number[v] >= 0 && ways.row(number[v]).allFinite()) way_[v] = ways.row(number[v]).transpose();
        return progress.report(1);
    }

    static bool iterate(const Matrix& system, const Eigen::MatrixX3d& right, Eigen::MatrixX3d& ways,
                        mesh::Progress& progress) {
        constexpr int atOnce = 40;
        constexpr int most = 40;
        std::array<bool, 3> done{};
        for (int round = 0; round < most; ++round) {
            mesh::parallelFor(3, 1, [&](std::size_t k) {
                if (done[k]) return;
                Eigen::ConjugateGradient<Matrix, Eigen::Lower | Eigen::Upper> solver(system);
                solver.setMaxIterations(atOnce);
                solver.setTolerance(tolerance::fairingResidual);
                const auto column = static_cast<Eigen::Index>(k);
                const Eigen::VectorXd guess = ways.col(column);
                ways.col(column) = solver.solveWithGuess(right.col(column), guess);
                done[k] = solver.info() == Eigen::Success;
            });
            if (!progress.report(0.2 + 0.8 * round / most)) return false;
            if (done[0] && done[1] && done[2]) break;
        }
        return true;
    }

    // ---- within bounds

    [[nodiscard]] double boundOf(VertexId v) const {
        return options_.bound ? std::min(options_.deviation, options_.bound(v, way_[v])) : options_.deviation;
    }

    [[nodiscard]] Point placeOf(VertexId v) const {
        if (!free_[v] || share_[v] == 0) return m_.positions[v];
        Point way = way_[v];
        const double length = way.norm();
        // Rounding must not carry it beyond.
        const double bound = boundOf(v) * (1 - tolerance::deviationRelative);
        if (length > bound) way *= bound / length;
        const Point to = mesh::rounded(options_.precision, m_.positions[v] + share_[v] * way);
        return (to - m_.positions[v]).norm() <= options_.deviation ? to : m_.positions[v];
    }

    [[nodiscard]] Mesh movedMesh() const {
        Mesh moved = m_;
        mesh::parallelFor(moved.positions.size(), mesh::blockSize,
                          [&](std::size_t v) { moved.positions[v] = placeOf(static_cast<std::uint32_t>(v)); });
        return moved;
    }

    // What was lost is given back where it was taken: along the normals, in proportion to how far vertices moved.
    void keepVolume() {
        if (!before_->watertight) return;
        constexpr int rounds = 3;
        for (int round = 0; round < rounds; ++round) {
            const Mesh moved = movedMesh();
            const double missing = before_->mass.volume - measure::massOf(moved).volume;
            std::vector<Point> normals(m_.positions.size(), Point::Zero());
            for (TriangleId t = 0; t < moved.triangles.size(); ++t)
                for (VertexId v : moved.triangles[t]) normals[v] += mesh::areaVector(moved, t) / 6;
            double gain = 0;
            for (VertexId v = 0; v < free_.size(); ++v)
                if (free_[v]) gain += normals[v].norm() * way_[v].norm();
            if (!(gain > 0)) return;
            for (VertexId v = 0; v < free_.size(); ++v)
                if (free_[v]) way_[v] += missing / gain * way_[v].norm() * normals[v].normalized();
        }
    }

    // ---- nothing may cross that did not

    bool settle(mesh::Progress& progress) {
        const std::set<check::TrianglePair> crossed(before_->crossingPairs.begin(), before_->crossingPairs.end());
        // Pairs of others are as they were in the round before.
        std::vector<std::uint8_t> suspects = trianglesWith(free_);
        constexpr int rounds = 12;
        for (int round = 0; round <= rounds; ++round) {
            mesh::PartOfProgress part(progress, static_cast<double>(round) / (rounds + 1),
                                      static_cast<double>(round + 1) / (rounds + 1));
            auto now = std::make_shared<const check::Surveyed>(movedMesh());
            const auto pairs = check::crossingPairs(now->tree(), part, {suspects, now->degenerate()});
            if (!pairs) return false;
            std::vector<std::uint8_t> trouble(m_.triangles.size(), 0);
            bool any = false;
            const auto blame = [&](TriangleId t) {
                trouble[t] = 1;
                any = true;
            };
            for (const check::TrianglePair& pair : *pairs)
                if (!crossed.contains(pair)) {
                    blame(pair.first);
                    blame(pair.second);
                }
            for (TriangleId t = 0; t < trouble.size(); ++t)
                if (now->degenerate()[t] && !s_.degenerate()[t]) blame(t);
            if (!any || round == rounds) {
                finish(any ? nullptr : std::move(now));
                return true;
            }
            // Wider each time, until all that could matter stands where it stood.
            for (int ring = 0; ring <= round / 2; ++ring) mesh::growByRing(m_, trouble);
            const std::vector<std::uint8_t> corners = mesh::cornersOf(m_, trouble);
            constexpr int halvings = 4;
            for (VertexId v = 0; v < corners.size(); ++v)
                if (corners[v]) share_[v] = round < halvings ? 0.5 * share_[v] : 0;
            suspects = trianglesWith(corners);
        }
        return true;
    }

    // Triangles with a corner among the flagged vertices.
    [[nodiscard]] std::vector<std::uint8_t> trianglesWith(const std::vector<std::uint8_t>& vertices) const {
        std::vector<std::uint8_t> flags(m_.triangles.size());
        for (TriangleId t = 0; t < flags.size(); ++t) {
            const mesh::Triangle& corners = m_.triangles[t];
            flags[t] = vertices[corners[0]] | vertices[corners[1]] | vertices[corners[2]];
        }
        return flags;
    }

    // nullptr: nothing could be moved.
    void finish(check::SurveyedPtr part) {
        result_.part = part ? std::move(part) : std::make_shared<const check::Surveyed>(s_.shared());
        const Mesh& now = result_.part->mesh();
        for (VertexId v = 0; v < free_.size(); ++v) {
            const double far = (now.positions[v] - m_.positions[v]).norm();
            result_.farthest = std::max(result_.farthest, far);
            result_.moved += far > 0;
            result_.heldBack += free_[v] && (share_[v] < 1 || way_[v].norm() > boundOf(v));
        }
        result_.volumeAfter = measure::massOf(now).volume;
    }

    const check::Surveyed& s_;
    const Mesh& m_;
    const SmoothOptions& options_;
    std::vector<std::uint8_t> free_;   // vertices that may move
    std::vector<std::uint8_t> rigid_;  // and those on creases and borders
    std::vector<Point> way_;
    std::vector<double> share_;  // of the way, that is gone
    std::shared_ptr<const check::Survey> before_;
    Smoothed result_;
};

}  // namespace

Outcome<Smoothed> smooth(const check::Surveyed& s, const mesh::Pick& pick, const SmoothOptions& options,
                         mesh::Progress& progress) {
    return Smoothing(s, pick, options).run(progress);
}

}  // namespace zither::shape
