// Largest triangles first; those in one plane that make up something convex are one plate, which is widened in its
// plane and thickened across.
#include "fit/cover.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <random>

#include "arrange/skin.h"
#include "fit/settle.h"
#include "measure/footprint.h"

namespace zither::fit {
namespace {

using measure::Flat;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

double crossOf(const Flat& a, const Flat& b) {
    return a.x() * b.y() - a.y() * b.x();
}

double areaOf(const std::vector<Flat>& polygon) {
    double twice = 0;
    for (std::size_t i = 0; i < polygon.size(); ++i) twice += crossOf(polygon[i], polygon[(i + 1) % polygon.size()]);
    return 0.5 * twice;
}

// A convex piece of a plane: a triangle, then what else in the plane is taken into it.
class Plate {
public:
    explicit Plate(const Corners& c) : origin_((c[0] + c[1] + c[2]) / 3.0) {
        Point along = c[1] - c[0];
        for (unsigned k = 1; k < 3; ++k) {
            const Point side = c[(k + 1) % 3] - c[k];
            if (side.squaredNorm() > along.squaredNorm()) along = side;
        }
        along_ = along.isZero() ? Point(Point::UnitX()) : Point(along.normalized());
        const Point normal = (c[1] - c[0]).cross(c[2] - c[0]).normalized();
        // What has next to no area lies in many planes.
        constexpr double skew = 0.5;
        const bool flat = !(std::abs(normal.dot(along_)) < skew) || normal.isZero();
        across_ = flat ? Point(along_.unitOrthogonal()) : Point((normal - normal.dot(along_) * along_).normalized());
        for (const Point& p : c) box_.add(p);
        rim_ = measure::convexHull({inPlane(c[0]), inPlane(c[1]), inPlane(c[2])});
        area_ = areaOf(rim_);
    }

    // Takes the other in if it lies so near to the plane, and if the plate covers no more then than both did (up to a
    // strip of that width).
    bool takeIn(const Plate& other, double within) {
        if (!box_.widened(within).overlaps(other.box_)) return false;
        std::vector<Flat> points = rim_;
        for (const Flat& p : other.rim_) {
            const Point at = other.inSpace(p);
            if (std::abs(across_.dot(at - origin_)) > within) return false;
            points.push_back(inPlane(at));
        }
        const std::vector<Flat> hull = measure::convexHull(std::move(points));
        double around = 0;
        for (std::size_t i = 0; i < hull.size(); ++i) around += (hull[(i + 1) % hull.size()] - hull[i]).norm();
        const double area = areaOf(hull);
        if (area > area_ + other.area_ + within * around) return false;
        rim_ = hull;
        area_ = area;
        box_.add(other.box_);
        return true;
    }

    // The piece and all that lies at most so far beyond its sides, `height` above and `depth` below.
    [[nodiscard]] Mesh body(double beyond, double turn, double height, double depth) const {
        std::vector<Flat> points;
        for (const Flat& corner : rim_)
            for (int i = 0; i < 4; ++i) {
                const double angle = turn + i * std::acos(0.0);
                // A square whose inner circle has the radius.
                points.emplace_back(corner + std::sqrt(2.0) * beyond * Flat(std::cos(angle), std::sin(angle)));
            }
        const std::vector<Flat> rim = measure::convexHull(std::move(points));
        const std::size_t n = rim.size();
        Mesh body;
        for (const double level : {-depth, height})
            for (const Flat& p : rim) body.positions.push_back(inSpace(p) + level * across_);
        for (std::size_t i = 1; i + 1 < n; ++i) {
            body.triangles.push_back({0, i + 1, i});
            body.triangles.push_back({n, n + i, n + i + 1});
        }
        for (std::size_t i = 0; i < n; ++i) {
            const std::size_t next = (i + 1) % n;
            body.triangles.push_back({i, next, n + next});
            body.triangles.push_back({i, n + next, n + i});
        }
        return body;
    }

private:
    [[nodiscard]] Flat inPlane(const Point& p) const {
        return {along_.dot(p - origin_), across_.cross(along_).dot(p - origin_)};
    }
    [[nodiscard]] Point inSpace(const Flat& p) const {
        return origin_ + p.x() * along_ + p.y() * across_.cross(along_);
    }

    Point origin_;
    Point along_;
    Point across_;
    std::vector<Flat> rim_;
    double area_ = 0;
    mesh::Box box_;
};

double twiceAreaOf(const Corners& c) {
    return (c[1] - c[0]).cross(c[2] - c[0]).norm();
}

}  // namespace

mesh::Outcome<Covered> covered(const Mesh& m, std::vector<Corners> trouble, const CoverOptions& options,
                               mesh::Progress& progress) {
    const double height = options.height;
    std::stable_sort(trouble.begin(), trouble.end(),
                     [](const Corners& a, const Corners& b) { return twiceAreaOf(a) > twiceAreaOf(b); });
    Covered result;
    Mesh both = m;
    std::vector<Plate> plates;
    // The same surface gives the same plates.
    std::mt19937 random(static_cast<std::uint32_t>(trouble.size()));
    std::uniform_real_distribution<double> share(0, 1);
    const double near = 0.3 * height;  // off the plane of a plate: within its least height
    for (const Corners& corners : trouble) {
        const Plate own(corners);
        if (!std::any_of(plates.begin(), plates.end(), [&](Plate& plate) { return plate.takeIn(own, near); }))
            plates.push_back(own);
        if (!progress.report(0)) return mesh::cancelled();
    }
    for (std::size_t i = 0; i < plates.size(); ++i)
        for (std::size_t j = i + 1; j < plates.size();) {
            if (plates[i].takeIn(plates[j], near)) {
                plates.erase(plates.begin() + static_cast<std::ptrdiff_t>(j));
                j = i + 1;
            } else {
                ++j;
            }
        }
    for (const Plate& plate : plates) {
        const double turn = share(random);
        const double above = height * (1 + share(random));
        const double below = height * (1 + share(random));
        Mesh body = plate.body(height * (1 + share(random)), turn, above, below);
        for (Point& p : body.positions) p = placedOn(options.grid, options.precision, p);
        mesh::appendPart(both, body);
    }
    result.plates = plates.size();
    mesh::joinInPlace(both);
    auto skin = arrange::skinOf(check::Surveyed(both), {}, progress);
    if (!skin) return mesh::errorOf(skin);
    result.mesh = std::move(skin->mesh);
    result.sourceOf = std::move(skin->sourceOf);
    for (TriangleId t = 0; t < result.sourceOf.size(); ++t) {
        if (result.sourceOf[t] >= m.triangles.size()) result.sourceOf[t] = mesh::noIndex;
        result.whole.push_back(t < skin->whole && result.sourceOf[t] != mesh::noIndex);
    }
    result.givenVertex = std::move(skin->givenVertex);
    for (mesh::VertexId& v : result.givenVertex)
        if (v != mesh::noIndex && v >= m.positions.size()) v = mesh::noIndex;
    return result;
}

}  // namespace zither::fit
