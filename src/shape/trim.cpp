// What stays is inside a tetrahedron far larger than the part, whose base lies in the plane.
#include "shape/trim.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "check/check_tolerances.h"
#include "fit/fuse.h"
#include "measure/mass.h"

namespace zither::shape {
namespace {

// The axis that a direction runs along; 3: none.
unsigned axisOf(const Point& direction) {
    for (unsigned k = 0; k < 3; ++k)
        if (std::abs(direction[k]) == 1) return k;
    return 3;
}

// The base is one triangle, so that it is one plane, and reaches so far that no other face comes near the part.
Mesh halfSpace(const Point& through, const Point& towards, double size) {
    constexpr double far = 20;  // sizes
    const Point u = towards.unitOrthogonal();
    const Point v = towards.cross(u);
    Mesh m;
    for (int k = 0; k < 3; ++k) {
        // Across an axis, u and v have nothing along it, and the corners lie in the plane with every bit.
        const double turn = 2 * k * std::numbers::pi / 3;
        m.positions.emplace_back(through + far * size * (std::cos(turn) * u + std::sin(turn) * v));
    }
    m.positions.emplace_back(through + far * size * towards);
    // The base faces away from what stays.
    m.triangles = {{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {2, 0, 3}};
    return m;
}

class Plane {
public:
    // `grid`: what cutting makes is placed on it, and on what the precision holds (fit/settle.h).
    Plane(const TrimOptions& options, double size, double grid)
        : through_(options.through), towards_(options.towards), axis_(axisOf(options.towards)) {
        const bool single = options.precision == mesh::Precision::Single;
        if (axis_ < 3 && single && grid > 0)
            through_[axis_] = static_cast<double>(static_cast<float>(std::round(through_[axis_] / grid) * grid));
        // Corners of an oblique plane are rounded to where they can be written.
        tolerance_ = axis_ < 3 ? 0 : single ? 2 * grid + 0x1p-22 * through_.norm() : 0x1p-50 * (size + through_.norm());
    }

    [[nodiscard]] const Point& through() const { return through_; }
    [[nodiscard]] double height(const Point& p) const {
        return axis_ < 3 ? towards_[axis_] * (p[axis_] - through_[axis_]) : towards_.dot(p - through_);
    }
    [[nodiscard]] bool holds(const Point& p) const { return std::abs(height(p)) <= tolerance_; }
    [[nodiscard]] bool holds(const Mesh& m, mesh::TriangleId t) const {
        return holds(m.corner(t, 0)) && holds(m.corner(t, 1)) && holds(m.corner(t, 2));
    }
    [[nodiscard]] bool leavesBehind(const Mesh& m, mesh::TriangleId t) const {
        return std::min({height(m.corner(t, 0)), height(m.corner(t, 1)), height(m.corner(t, 2))}) < -tolerance_;
    }
    // No corner lies beyond it, and none so near before it that it was meant to lie in it.
    [[nodiscard]] bool isClean(const Mesh& m, double hair) const {
        return std::all_of(m.positions.begin(), m.positions.end(), [&](const Point& p) {
            const double h = height(p);
            return h >= -tolerance_ && (h <= tolerance_ || h > hair);
        });
    }

private:
    Point through_;
    Point towards_;
    unsigned axis_;
    double tolerance_ = 0;
};

}  // namespace

mesh::Outcome<Trimmed> trim(const check::Surveyed& s, const mesh::Pick& pick, const TrimOptions& options,
                            mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    const mesh::Box box = mesh::boxOf(m);
    Trimmed result;
    if (box.empty()) return result;
    const Plane plane(options, box.diagonal(), fit::madeGrid(m));
    // About the middle of the part, so that the body reaches as far on every side of it.
    const Point middle = box.centre() - plane.height(box.centre()) * options.towards;
    const unsigned axis = axisOf(options.towards);
    Point base = middle;
    if (axis < 3) base[axis] = plane.through()[axis];
    // Wide enough where the plane lies far from the part as well.
    const double reach = box.diagonal() + std::abs(plane.height(box.centre()));
    const Mesh body = halfSpace(base, options.towards, reach);
    // Needles of the cut go where that leaves the plane as it is.
    const double needle = tolerance::needleHeight * box.diagonal();
    fit::FuseOptions how{
        .with = &body, .solid = arrange::Solid::Intersection, .precision = options.precision, .slivers = needle};
    mesh::PartOfProgress cutting(progress, 0, 0.6);
    auto cut = fit::fuse(s, pick, how, cutting);
    if (cut && pick.everything() && !plane.isClean(cut->mesh, needle)) {
        how.slivers = 0;
        mesh::PartOfProgress again(progress, 0.6, 0.9);
        cut = fit::fuse(s, pick, how, again);
    }
    if (!cut) return mesh::errorOf(cut);
    const measure::Kept kept = measure::keptOf(m, cut->mesh);
    std::vector<std::uint8_t> stays(cut->mesh.triangles.size(), 1);
    const std::vector<std::uint8_t> chosen = pick.everything() ? std::vector<std::uint8_t>() : pick.mask(m);
    const bool others = std::find(chosen.begin(), chosen.end(), 0) != chosen.end();
    for (mesh::TriangleId t = 0; t < stays.size(); ++t) {
        if (!kept.in[t] && plane.holds(cut->mesh, t)) {
            stays[t] = options.cap;
            result.capArea += 0.5 * mesh::areaVector(cut->mesh, t).norm();
            for (unsigned k = 0; k < 3; ++k)
                result.farthestFromPlane =
                    std::max(result.farthestFromPlane, std::abs(plane.height(cut->mesh.corner(t, k))));
        } else if (!others && plane.leavesBehind(cut->mesh, t)) {
            stays[t] = 0;  // of an open surface, which encloses nothing for certain, both sides are left
        }
    }
    result.cutTriangles = cut->trianglesCut;
    result.unsound = std::move(cut->unsound);
    const bool all = std::find(stays.begin(), stays.end(), 0) == stays.end();
    result.mesh = all ? std::move(cut->mesh) : mesh::keepTriangles(cut->mesh, stays);
    if (!progress.report(1)) return mesh::cancelled();
    return result;
}

}  // namespace zither::shape
