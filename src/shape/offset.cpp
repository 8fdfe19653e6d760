// First the vertices alone; what folds is made anew.
#include "shape/offset.h"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <optional>

#include "mesh/parallel.h"
#include "shape/distance_field.h"
#include "shape/shape_tolerances.h"

namespace zither::shape {
namespace {

using mesh::Mesh;
using mesh::Outcome;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

constexpr double farthestCorner = 2;  // distances
constexpr double nearEnough = 0.01;   // of the distance: so much nearer than asked is as asked
constexpr double cutAtMost = 0.05;    // the same of what is made anew

// The way of a vertex for a distance of 1: n_i . v = 1 for the planes around it, nearest to 0 where they leave it open.
Point wayOut(const Mesh& m, std::span<const mesh::HalfEdge> around) {
    Eigen::Matrix3d left = Eigen::Matrix3d::Zero();
    Point right = Point::Zero();
    for (const mesh::HalfEdge h : around) {
        const TriangleId t = mesh::triangleOf(h);
        const Point n = mesh::areaVector(m, t).normalized();
        const Point& at = m.positions[mesh::fromVertex(m, h)];
        const Point a = m.positions[mesh::toVertex(m, h)] - at;
        const Point b = m.positions[mesh::oppositeVertex(m, h)] - at;
        const double angle = std::atan2(a.cross(b).norm(), a.dot(b));
        left += angle * n * n.transpose();
        right += angle * n;
    }
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver(left);
    Point way = Point::Zero();
    for (int k = 0; k < 3; ++k)
        if (solver.eigenvalues()[k] > tolerance::quadricCondition * solver.eigenvalues()[2])
            way += solver.eigenvectors().col(k).dot(right) / solver.eigenvalues()[k] * solver.eigenvectors().col(k);
    return way;
}

// The mesh with its vertices moved; none where that does not do.
Outcome<std::optional<Offset>> moved(const check::Surveyed& s, const OffsetOptions& options, mesh::Progress& progress) {
    Offset result{s.mesh()};
    std::vector<std::uint8_t> tooFar(result.mesh.positions.size(), 0);
    mesh::parallelFor(result.mesh.positions.size(), mesh::blockSize, [&](std::size_t i) {
        const VertexId v = static_cast<std::uint32_t>(i);
        const auto around = s.corners().at(v);
        if (around.empty()) return;
        const Point way = wayOut(s.mesh(), around);
        tooFar[i] = way.norm() > farthestCorner;
        result.mesh.positions[i] = mesh::rounded(options.precision, s.mesh().positions[i] + options.distance * way);
    });
    if (std::find(tooFar.begin(), tooFar.end(), 1) != tooFar.end()) return std::nullopt;
    mesh::PartOfProgress looking(progress, 0.3, 0.9);
    const check::Surveyed after(result.mesh);
    const auto survey = after.survey({}, looking);
    if (!survey) return mesh::errorOf(survey);
    if (!(*survey)->solid) return std::nullopt;
    // Beyond the corners nothing is farther; nearer would be a fold that turned right way out again.
    const Distances d = distancesFrom(result.mesh, s.tree());
    const double asked = std::abs(options.distance);
    if (d.least < (1 - nearEnough) * asked) return std::nullopt;
    const Distances back = distancesFrom(s.mesh(), after.tree());
    if (back.least < (1 - nearEnough) * asked || back.greatest > farthestCorner * asked) return std::nullopt;
    result.nearest = d.least;
    result.farthest = d.greatest;
    result.points = d.points;
    return result;
}

}  // namespace

Outcome<Offset> offset(const check::Surveyed& s, const OffsetOptions& options, mesh::Progress& progress) {
    mesh::PartOfProgress asking(progress, 0, 0.1);
    const auto survey = s.survey(s.knownOptions(), asking);
    if (!survey) return mesh::errorOf(survey);
    if (!(*survey)->solid)
        return mesh::badInput("the surface is no solid, so that nothing tells its inside: repair it first");
    if (options.distance == 0) return Offset{s.mesh()};
    if (options.sharp) {
        mesh::PartOfProgress moving(progress, 0.1, 0.4);
        auto result = moved(s, options, moving);
        if (!result) return mesh::errorOf(result);
        if (*result) return std::move(**result);
    }
    using Body = DistanceField::Body;
    const DistanceField field(s, options.distance > 0 ? Body::Grown : Body::Shrunk, std::abs(options.distance));
    if (const std::string wrong = field.wrongWith(options.cell, options.precision); !wrong.empty())
        return mesh::badInput(wrong);
    Offset result;
    // Triangles cut corners; where they do so by too much, the cells were too wide.
    constexpr int tries = 2;
    constexpr double most = 2e6;  // triangles of a second try
    double cell = options.cell;
    for (int i = 0; i < tries; ++i, cell /= 2) {
        if (i > 0 && (!field.wrongWith(cell, options.precision).empty() ||
                      4 * static_cast<double>(result.mesh.triangles.size()) > most))
            break;
        mesh::PartOfProgress making(progress, 0.4 + 0.6 * i / tries, 0.4 + 0.6 * (i + 1) / tries);
        auto skin = contour(field, field.gridOf(cell), options.precision, making);
        if (!skin) return mesh::errorOf(skin);
        const Distances d = distancesFrom(skin->mesh, s.tree());
        result = {std::move(skin->mesh), true, d.least, d.greatest, d.points};
        if (result.mesh.triangles.empty() || d.least >= (1 - cutAtMost) * std::abs(options.distance)) break;
    }
    return result;
}

}  // namespace zither::shape
