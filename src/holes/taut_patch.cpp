// Dynamic programming over the rim; long rims are first cut by short chords.
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>

#include "exact/predicates.h"
#include "holes/holes_tolerances.h"
#include "holes/patches.h"

namespace zither::holes {
namespace {

using mesh::Point;
using mesh::Triangle;
using mesh::VertexId;

// Dynamic programming is cubic in the loop's length; longer loops are cut first.
constexpr std::size_t longestWhole = 160;
// Parts of a loop of many thousands are smaller, so that it takes seconds.
constexpr std::size_t longestOfMany = 64;
constexpr std::size_t many = 5000;

// Sharper folds weigh more; below foldCosine area alone decides. Compared fold first.
struct Weight {
    double fold = 0;  // 0: no fold; else foldCosine - cosine of the sharpest one
    double area = 0;
    [[nodiscard]] bool operator<(const Weight& o) const { return fold != o.fold ? fold < o.fold : area < o.area; }
    [[nodiscard]] Weight operator+(const Weight& o) const { return {std::max(fold, o.fold), area + o.area}; }
};

double foldBetween(const Point& unitNormal, const Point& otherUnitNormal) {
    const double cosine = unitNormal.dot(otherUnitNormal);
    return cosine < tolerance::foldCosine ? tolerance::foldCosine - cosine : 0;
}

Point unitOr0(const Point& n) {
    const double length = n.norm();
    return length > 0 ? Point(n / length) : Point(Point::Zero());
}

// Barequet & Sharir's table over sub-loops [i, j].
class Table {
public:
    Table(const std::vector<Point>& positions, const Loop& loop, const Forbidden& without)
        : n_(loop.vertices.size()),
          loop_(loop),
          without_(without),
          weight_(n_ * n_),
          split_(n_ * n_, 0),
          normal_(n_ * n_, Point::Zero()),
          closed_(n_ * n_, 0) {
        for (VertexId v : loop.vertices) point_.push_back(positions[v]);
        for (std::size_t i = 0; i + 1 < n_; ++i) normal_[at(i, i + 1)] = loop.rimNormals[i];
        for (std::size_t i = 0; i < n_; ++i)
            for (std::size_t j = i + 2; j < n_; ++j)
                if (!(i == 0 && j == n_ - 1)) closed_[at(i, j)] = without.isEdge(loop.vertices[i], loop.vertices[j]);
    }

    mesh::Outcome<std::vector<Triangle>> run(mesh::Progress& progress) {
        for (std::size_t length = 2; length < n_; ++length) {
            for (std::size_t i = 0; i + length < n_; ++i) best(i, i + length);
            if (!progress.report(static_cast<double>(length) / static_cast<double>(n_))) return mesh::cancelled();
        }
        std::vector<Triangle> triangles;
        if (weight_[at(0, n_ - 1)].fold < tolerance::tautForbidden) collect(triangles);
        return triangles;
    }

private:
    [[nodiscard]] std::size_t at(std::size_t i, std::size_t j) const { return i * n_ + j; }

    void best(std::size_t i, std::size_t j) {
        Weight& best = weight_[at(i, j)];
        best = {2 * tolerance::tautForbidden, std::numeric_limits<double>::infinity()};
        const bool lastEdge = i == 0 && j == n_ - 1;
        if (closed_[at(i, j)]) return;
        for (std::size_t k = i + 1; k < j; ++k) {
            const Weight parts = weight_[at(i, k)] + weight_[at(k, j)];
            if (!(parts < best)) continue;
            if (!without_.triangles.empty() && without_.triangles.contains(mesh::sortedCorners(
                                                   {loop_.vertices[i], loop_.vertices[k], loop_.vertices[j]})))
                continue;
            const Point normal = (point_[k] - point_[i]).cross(point_[j] - point_[i]);
            const double length = normal.norm();
            const Point unit = length > 0 ? Point(normal / length) : Point(Point::Zero());
            Weight w = parts + Weight{0, length};
            w.fold = std::max({w.fold, foldBetween(unit, normal_[at(i, k)]), foldBetween(unit, normal_[at(k, j)])});
            if (lastEdge) w.fold = std::max(w.fold, foldBetween(unit, loop_.rimNormals[n_ - 1]));
            if (!(w < best)) continue;
            // Collinear corners have no area and no fold, and would look best of all.
            if (exact::collinear(point_[i], point_[k], point_[j])) w.fold = std::max(w.fold, tolerance::tautDegenerate);
            if (w < best) {
                best = w;
                split_[at(i, j)] = k;
                normal_[at(i, j)] = unit;
            }
        }
    }

    void collect(std::vector<Triangle>& out) const {
        std::vector<std::pair<std::size_t, std::size_t>> open{{0, n_ - 1}};
        while (!open.empty()) {
            const auto [i, j] = open.back();
            open.pop_back();
            if (j - i < 2) continue;
            const std::size_t k = split_[at(i, j)];
            out.push_back({loop_.vertices[i], loop_.vertices[k], loop_.vertices[j]});
            open.emplace_back(i, k);
            open.emplace_back(k, j);
        }
    }

    std::size_t n_;
    const Loop& loop_;
    const Forbidden& without_;
    std::vector<Point> point_;
    std::vector<Weight> weight_;
    std::vector<std::size_t> split_;
    std::vector<Point> normal_;
    std::vector<std::uint8_t> closed_;
};

// Cuts a long loop in two by the chord that is shortest for the length of rim it cuts off, each side at least a
// quarter of the loop; every stride-th vertex is tried so that the cost stays below n * 256.
std::pair<std::size_t, std::size_t> shortestChord(const std::vector<Point>& positions, const Loop& loop,
                                                  const std::function<bool(VertexId, VertexId)>& isEdge) {
    const std::size_t n = loop.vertices.size();
    const std::size_t stride = std::max<std::size_t>(1, n / 256);
    std::pair<std::size_t, std::size_t> best{0, 0};
    double shortest = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < n; i += stride)
        for (std::size_t j = i + n / 4; j <= i + n / 2 && j < n; ++j) {
            const double length = (positions[loop.vertices[i]] - positions[loop.vertices[j]]).squaredNorm();
            if (length < shortest && !isEdge(loop.vertices[i], loop.vertices[j])) {
                shortest = length;
                best = {i, j};
            }
        }
    return best;
}

// The part of the loop from i to j, closed by the chord; the chord's normal is that of the part's own area.
Loop partOf(const std::vector<Point>& positions, const Loop& loop, std::size_t i, std::size_t j) {
    const std::size_t n = loop.vertices.size();
    Loop part;
    for (std::size_t k = i;; k = (k + 1) % n) {
        part.vertices.push_back(loop.vertices[k]);
        if (k == j) break;
        part.rimNormals.push_back(loop.rimNormals[k]);
    }
    Point sum = Point::Zero();
    const Point& origin = positions[part.vertices[0]];
    for (std::size_t k = 1; k + 1 < part.vertices.size(); ++k)
        sum += (positions[part.vertices[k]] - origin).cross(positions[part.vertices[k + 1]] - origin);
    part.rimNormals.push_back(unitOr0(sum));
    return part;
}

}  // namespace

mesh::Outcome<Patch> tautPatch(const std::vector<Point>& positions, const Loop& loop, const Forbidden& without,
                               mesh::Progress& progress) {
    Patch result;
    std::vector<Loop> open{loop};
    const auto whole = static_cast<double>(loop.vertices.size());
    double done = 0;
    while (!open.empty()) {
        Loop part = std::move(open.back());
        open.pop_back();
        const std::size_t longest = loop.vertices.size() > many ? longestOfMany : longestWhole;
        const auto [i, j] = part.vertices.size() > longest ? shortestChord(positions, part, without.isEdge)
                                                           : std::pair<std::size_t, std::size_t>{0, 0};
        if (i != j) {
            open.push_back(partOf(positions, part, i, j));
            open.push_back(partOf(positions, part, j, i));
            if (!progress.report(done / whole)) return mesh::cancelled();
            continue;
        }
        mesh::PartOfProgress share(progress, done / whole,
                                   std::min(1.0, (done + static_cast<double>(part.vertices.size())) / whole));
        auto triangles = Table(positions, part, without).run(share);
        if (!triangles) return mesh::errorOf(triangles);
        if (triangles->empty()) return Patch{};
        result.triangles.insert(result.triangles.end(), triangles->begin(), triangles->end());
        done += static_cast<double>(part.vertices.size());
    }
    return result;
}

}  // namespace zither::holes
