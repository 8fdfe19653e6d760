// Refined around the ridges, then one fairing of that band.
#include "shape/soften.h"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "mesh/parallel.h"
#include "shape/refine.h"
#include "shape/smooth.h"
#include "space/triangle_tree.h"

namespace zither::shape {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

// Of the radius: edges of what is bent.
constexpr double fine = 1.0 / 3;

// Calls use(from, to) with the ends of each ridge.
template <class Use>
void forEachRidge(const check::Surveyed& s, const mesh::Pick& pick, double ridgeDeg, const Use& use) {
    const Mesh& m = s.mesh();
    const std::vector<std::uint8_t> chosen = pick.mask(m);
    const double cosine = std::cos(ridgeDeg * std::numbers::pi / 180);
    for (mesh::EdgeId e = 0; e < s.edges().count(); ++e) {
        const auto around = s.edges().around(e);
        if (around.size() != 2) continue;
        const TriangleId a = mesh::triangleOf(around[0]);
        const TriangleId b = mesh::triangleOf(around[1]);
        if (!chosen[a] || !chosen[b] || m.regionOf(a) != m.regionOf(b)) continue;
        const Point n = mesh::areaVector(m, a);
        const Point o = mesh::areaVector(m, b);
        if (n.dot(o) >= cosine * n.norm() * o.norm()) continue;
        use(m.positions[mesh::fromVertex(m, around[0])], m.positions[mesh::toVertex(m, around[0])]);
    }
}

// Each ridge as a triangle without area.
Mesh ridgesOf(const check::Surveyed& s, const mesh::Pick& pick, double ridgeDeg, double& length) {
    Mesh ridges;
    forEachRidge(s, pick, ridgeDeg, [&](const Point& from, const Point& to) {
        const auto first = static_cast<std::uint32_t>(ridges.positions.size());
        ridges.positions.push_back(from);
        ridges.positions.push_back(to);
        ridges.triangles.push_back({first, first + 1, first + 1});
        length += (to - from).norm();
    });
    return ridges;
}

// Triangles that come within the radius of a ridge, seen from some points of theirs.
mesh::Pick bandOf(const Mesh& m, const space::TriangleTree& ridges, double radius, bool whole) {
    std::vector<std::uint8_t> in(m.triangles.size(), 0);
    mesh::parallelFor(in.size(), 64, [&](std::size_t i) {
        const auto t = static_cast<TriangleId>(i);
        if (!whole) {
            // Any of it may reach it.
            const Point centre = mesh::centroid(m, t);
            double reach = 0;
            for (unsigned k = 0; k < 3; ++k) reach = std::max(reach, (m.corner(t, k) - centre).norm());
            in[i] = ridges.reaches(centre, radius + reach);
            return;
        }
        in[i] = 1;
        for (unsigned k = 0; k < 3; ++k) in[i] &= ridges.reaches(m.corner(t, k), radius);
    });
    std::vector<TriangleId> band;
    for (TriangleId t = 0; t < in.size(); ++t)
        if (in[t]) band.push_back(t);
    return mesh::Pick(std::move(band));
}

// Finer and finer around the ridges: of a large triangle only what is near them becomes small.
mesh::Outcome<Refined> refinedAround(const check::Surveyed& s, const space::TriangleTree& ridges,
                                     const SoftenOptions& options, mesh::Progress& progress) {
    const double target = fine * options.radius;
    Refined all{s.mesh()};
    const double size = mesh::boxOf(s.mesh()).diagonal();
    constexpr int most = 20;  // halvings: far more triangles than fit in memory
    int halvings = 0;
    while (halvings < most && std::ldexp(target, halvings) < 0.5 * size) ++halvings;
    for (; halvings >= 0; --halvings) {
        const double length = std::ldexp(target, halvings);
        const mesh::Pick band = bandOf(all.mesh, ridges, options.radius, false);
        if (band.triangles().empty()) return all;
        auto refined = refine(all.mesh, band, {.length = length}, progress);
        if (!refined) return refined;
        for (Point& p : refined->mesh.positions) p = mesh::rounded(options.precision, p);
        all.mesh = std::move(refined->mesh);
        all.split += refined->split;
    }
    return all;
}

// How far vertices may go: at a ridge what the corner of a fillet needs, less beside it; into the material no more
// than a tenth of what is there, so that thin bars stay.
class Bounds {
public:
    Bounds(const check::Surveyed& s, const space::TriangleTree& ridges, double radius, bool solid)
        : fillet_(s.mesh().positions.size(), 0), inward_(fillet_.size()), normals_(fillet_.size(), Point::Zero()) {
        const Mesh& m = s.mesh();
        for (TriangleId t = 0; t < m.triangles.size(); ++t)
            for (mesh::VertexId v : m.triangles[t]) normals_[v] += mesh::areaVector(m, t);
        mesh::parallelFor(fillet_.size(), 64, [&](std::size_t i) {
            const auto v = static_cast<mesh::VertexId>(i);
            const auto nearest = ridges.nearest(m.positions[v], radius);
            if (!nearest) return;
            const double left = radius - std::sqrt(nearest->distanceSquared);
            // A corner of three square faces goes back by sqrt(3) - 1 radii.
            constexpr double atCorner = 0.75;
            inward_[i] = fillet_[i] = atCorner * left * left / radius;
            normals_[i].normalize();
            const auto around = s.corners().at(v);
            if (!solid || around.empty()) return;
            constexpr double share = 0.1;
            const auto met = s.rays().firstBeyond({m, mesh::triangleOf(around.front()), m.positions[v], -normals_[i]});
            if (met) inward_[i] = std::min(inward_[i], share * met->along);
        });
    }
    [[nodiscard]] double of(mesh::VertexId v, const Point& way) const {
        return way.dot(normals_[v]) < 0 ? inward_[v] : fillet_[v];
    }

private:
    std::vector<double> fillet_;
    std::vector<double> inward_;
    std::vector<Point> normals_;
};

}  // namespace

mesh::Outcome<Softened> soften(const check::Surveyed& s, const mesh::Pick& pick, const SoftenOptions& options,
                               mesh::Progress& progress) {
    Softened result{std::make_shared<const check::Surveyed>(s.shared())};
    const Mesh ridges = ridgesOf(s, pick, options.ridgeDeg, result.ridges);
    if (ridges.triangles.empty()) return result;
    constexpr double steps = 64;  // of the coordinates, that new edges should be long
    if (!(fine * options.radius > steps * mesh::unitInLastPlace(options.precision, mesh::boxOf(s.mesh()).farthest())))
        return mesh::badInput(
            fmt::format("so far from the origin coordinates do not tell edges of {:.3g} apart: move it there first",
                        fine * options.radius));
    const space::TriangleTree tree(ridges);
    if (!progress.report(0.1)) return mesh::cancelled();
    mesh::PartOfProgress refining(progress, 0, 0.2);
    auto refined = refinedAround(s, tree, options, refining);
    if (!refined) return mesh::errorOf(refined);
    result.split = refined->split;
    const check::Surveyed finer(std::move(refined->mesh));
    const mesh::Pick band = bandOf(finer.mesh(), tree, options.radius, true);
    if (!progress.report(0.3)) return mesh::cancelled();
    if (band.triangles().empty()) return result;
    mesh::PartOfProgress asking(progress, 0.3, 0.4);
    const auto survey = s.survey(s.knownOptions(), asking);
    if (!survey) return mesh::errorOf(survey);
    const Bounds bounds(finer, tree, options.radius, (*survey)->solid);
    mesh::PartOfProgress bending(progress, 0.4, 1);
    // Far longer than the band is wide: what lies within it hardly holds it back.
    constexpr double scale = 12;
    auto bent = smooth(finer, band,
                       {.scale = scale * options.radius,
                        .deviation = options.radius,
                        .creaseDeg = 180,
                        .precision = options.precision,
                        .keepVolume = false,
                        .bound = [&](mesh::VertexId v, const Point& way) { return bounds.of(v, way); }},
                       bending);
    if (!bent) return mesh::errorOf(bent);
    result.part = bent->part;
    result.moved = bent->moved;
    result.farthest = bent->farthest;
    return result;
}

double trianglesToSoften(const check::Surveyed& s, const mesh::Pick& pick, const SoftenOptions& options) {
    double ridges = 0;
    forEachRidge(s, pick, options.ridgeDeg, [&](const Point& from, const Point& to) { ridges += (to - from).norm(); });
    // A band on both sides, of triangles half as large as even ones.
    constexpr double share = 0.2165;
    return options.radius > 0 ? 2 * ridges / options.radius / (share * fine * fine) : 0;
}

}  // namespace zither::shape
