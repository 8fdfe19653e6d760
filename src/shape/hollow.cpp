// The void by distance, turned inside out, beside the body; then the drains are taken away from both.
#include "shape/hollow.h"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

#include "check/check_tolerances.h"
#include "fit/fuse.h"
#include "measure/measure_tolerances.h"
#include "measure/numbers.h"
#include "shape/distance_field.h"
#include "shape/shape_tolerances.h"

namespace zither::shape {
namespace {

using mesh::Mesh;
using mesh::Outcome;
using mesh::Point;
using mesh::TriangleId;

// The skin of what is deeper than the wall, at no point nearer to the surface than it; outward.
Outcome<Skin> skinOfVoids(const check::Surveyed& s, const HollowOptions& options, Distances& distances,
                          mesh::Progress& progress) {
    double level = options.wall;
    constexpr int tries = 3;
    for (int i = 0;; ++i) {
        mesh::PartOfProgress part(progress, static_cast<double>(i) / tries, static_cast<double>(i + 1) / tries);
        const DistanceField field(s, DistanceField::Body::Shrunk, level);
        auto skin = contour(field, field.gridOf(options.cell), options.precision, part);
        if (!skin || skin->mesh.triangles.empty()) return skin;
        distances = distancesFrom(skin->mesh, s.tree());
        const double short_ = options.wall - distances.least;
        if (short_ <= tolerance::wallShort * options.wall || i + 1 == tries) return skin;
        level += short_;
    }
}

// Turned inside out, and without those that hold less than a cube of the wall. What encloses nothing bounds a void from
// within, around a cavity of the body, and stays.
Mesh withoutCrumbs(const check::Surveyed& voids, double wall, Hollowed& result) {
    const mesh::Groups& shells = voids.shells();
    const Mesh& m = voids.mesh();
    const Point centre = mesh::boxOf(m).centre();
    std::vector<double> volume(shells.count, 0);
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        volume[shells.of[t]] += mesh::areaVector(m, t).dot(m.corner(t, 0) - centre) / 6;
    const auto isCrumb = [&](std::uint32_t shell) { return volume[shell] > 0 && volume[shell] < wall * wall * wall; };
    std::vector<std::uint8_t> stays(m.triangles.size());
    for (TriangleId t = 0; t < stays.size(); ++t) stays[t] = !isCrumb(shells.of[t]);
    for (std::uint32_t shell = 0; shell < shells.count; ++shell)
        if (volume[shell] > 0) ++(isCrumb(shell) ? result.crumbs : result.made);
    Mesh inner = mesh::keepTriangles(m, stays);
    for (mesh::Triangle& t : inner.triangles) std::swap(t[1], t[2]);
    return inner;
}

// A prism of many sides about the way from `from` to `to`, turned outward.
void addPrism(Mesh& m, const Point& from, const Point& to, double radius) {
    constexpr std::uint32_t sides = 32;
    const Point along = (to - from).normalized();
    const Point u = along.unitOrthogonal();
    const Point v = along.cross(u);
    const auto first = static_cast<std::uint32_t>(m.positions.size());
    for (const Point& end : {from, to})
        for (std::uint32_t k = 0; k < sides; ++k) {
            const double turn = 2 * k * std::numbers::pi / sides;
            m.positions.emplace_back(end + radius * (std::cos(turn) * u + std::sin(turn) * v));
        }
    m.positions.push_back(from);
    m.positions.push_back(to);
    const std::uint32_t low = first + 2 * sides;
    for (std::uint32_t k = 0; k < sides; ++k) {
        const std::uint32_t a = first + k;
        const std::uint32_t b = first + (k + 1) % sides;
        m.triangles.push_back({a, b, b + sides});
        m.triangles.push_back({a, b + sides, a + sides});
        m.triangles.push_back({low, b, a});
        m.triangles.push_back({low + 1, a + sides, b + sides});
    }
}

class Drilling {
public:
    // `shells`: of the body. `whole`: the body, and behind its triangles the skins of new voids.
    Drilling(const check::Surveyed& body, const std::vector<check::Shell>& shells, const check::Surveyed& whole,
             const HollowOptions& options)
        : whole_(whole), options_(options) {
        const Mesh& m = whole.mesh();
        std::vector<TriangleId> outer;
        std::vector<TriangleId> inner;
        voids_.resize(whole.shells().count);
        for (TriangleId t = 0; t < m.triangles.size(); ++t) {
            const bool fromBody = t < body.mesh().triangles.size();
            const bool isCavity = !fromBody || shells[body.shells().of[t]].isCavity();
            if (!isCavity && shells[body.shells().of[t]].depth == 0) outer.push_back(t);
            if (!isCavity) continue;
            inner.push_back(t);
            voids_[whole.shells().of[t]].push_back(t);
        }
        std::erase_if(voids_, [](const auto& v) { return v.empty(); });
        outside_.emplace(m, outer);
        inside_.emplace(m, inner);
    }

    [[nodiscard]] std::size_t voids() const { return voids_.size(); }

    [[nodiscard]] std::vector<Drain> proposed() const {
        std::vector<Drain> drains;
        for (const std::vector<TriangleId>& v : voids_)
            for (const Point& p : floorPlaces(v)) drains.push_back({p, outside_->nearest(p)->point});
        return drains;
    }

    // Of places on the surface, each from the void nearest to it.
    [[nodiscard]] std::vector<Drain> asked() const {
        std::vector<Drain> drains;
        for (const Point& at : options_.at) {
            const Point on = outside_->nearest(at)->point;
            drains.push_back({inside_->nearest(on)->point, on});
        }
        return drains;
    }

    // The drill for a drain; none where something else of the body is in its way.
    [[nodiscard]] std::optional<Drain> drill(const Drain& d) const {
        const double length = (d.to - d.from).norm();
        if (!(length > 0)) return std::nullopt;
        const Point along = (d.to - d.from) / length;
        // Nothing but the wall lies between.
        const double hair = tolerance::hairOffSurface * mesh::boxOf(whole_.mesh()).diagonal();
        if (freeWay(d.from + hair * along, along) < length - 3 * hair) return std::nullopt;
        // Far enough to leave the wall where it is aslant, and not into what lies behind.
        const std::optional<double> before = wayOut(d.from - hair * along, -along);
        const std::optional<double> beyond = wayOut(d.to + hair * along, along);
        if (!before || !beyond) return std::nullopt;
        return Drain{d.from - *before * along, d.to + *beyond * along};
    }

private:
    [[nodiscard]] double freeWay(const Point& from, const Point& direction) const {
        const auto hit = whole_.tree().firstHit(from, direction);
        return hit ? hit->t : std::numeric_limits<double>::infinity();
    }

    // So far beyond the wall the hole's end lies free, all around.
    [[nodiscard]] std::optional<double> wayOut(const Point& from, const Point& along) const {
        const double room = freeWay(from, along);
        const Point u = along.unitOrthogonal();
        const Point v = along.cross(u);
        for (const double diameters : {0.25, 0.5, 1.0, 2.0}) {
            const double way = diameters * options_.drainDiameter;
            if (way > 0.9 * room) break;
            const Point end = from + way * along;
            bool isFree = true;
            constexpr int around = 16;
            for (int k = 0; k < around && isFree; ++k) {
                const double turn = 2 * k * std::numbers::pi / around;
                isFree = freeWay(end, std::cos(turn) * u + std::sin(turn) * v) > 0.5 * options_.drainDiameter;
            }
            if (isFree) return way;
        }
        return std::nullopt;
    }

    // Middles of the triangles of a void's floor, away from its sides: one in the midst of the lowest, then those
    // farthest from the ones before.
    [[nodiscard]] std::vector<Point> floorPlaces(const std::vector<TriangleId>& triangles) const {
        const Mesh& m = whole_.mesh();
        std::vector<TriangleId> sides;
        std::vector<Point> floor;
        double low = std::numeric_limits<double>::infinity();
        double high = -low;
        constexpr double steep = 0.5;  // sine: what faces up by less is a side
        for (TriangleId t : triangles) {
            const Point middle = mesh::centroid(m, t);
            low = std::min(low, options_.up.dot(middle));
            high = std::max(high, options_.up.dot(middle));
            if (mesh::areaVector(m, t).normalized().dot(options_.up) < steep)
                sides.push_back(t);
            else
                floor.push_back(middle);
        }
        const auto height = [&](const Point& p) { return options_.up.dot(p); };
        const space::TriangleTree besides(m, sides);
        const auto roomy = [&](const Point& p) { return !besides.reaches(p, options_.drainDiameter); };
        if (std::any_of(floor.begin(), floor.end(), roomy))
            std::erase_if(floor, [&](const Point& p) { return !roomy(p); });
        // A quarter of the void's height is floor enough for further ones.
        std::erase_if(floor, [&](const Point& p) { return height(p) > low + 0.25 * (high - low); });
        if (floor.empty()) return {};
        Point midst = Point::Zero();
        std::size_t lowest = 0;
        for (const Point& p : floor)
            if (height(p) <= low + 0.02 * (high - low)) {
                midst += p;
                ++lowest;
            }
        const auto before = [&](const Point& a, const Point& b) {
            return lowest > 0 ? (a - midst / static_cast<double>(lowest)).squaredNorm() <
                                    (b - midst / static_cast<double>(lowest)).squaredNorm()
                              : height(a) < height(b);
        };
        std::vector<Point> places{*std::min_element(floor.begin(), floor.end(), before)};
        while (places.size() < options_.drains) {
            double best = 2 * options_.drainDiameter;  // nearer ones would run into each other
            const Point* chosen = nullptr;
            for (const Point& p : floor) {
                double nearest = std::numeric_limits<double>::infinity();
                for (const Point& q : places) nearest = std::min(nearest, (p - q).norm());
                if (nearest > best) {
                    best = nearest;
                    chosen = &p;
                }
            }
            if (!chosen) break;
            places.push_back(*chosen);
        }
        return places;
    }

    const check::Surveyed& whole_;
    const HollowOptions& options_;
    std::vector<std::vector<TriangleId>> voids_;  // of each, its skin
    std::optional<space::TriangleTree> outside_;
    std::optional<space::TriangleTree> inside_;
};

// A drain after the other, so that one that cannot be drilled spoils no other.
Outcome<void> drillAll(const check::Surveyed& body, const std::vector<check::Shell>& shells,
                       const HollowOptions& options, Hollowed& result, mesh::Progress& progress) {
    const check::Surveyed whole(result.mesh);
    const Drilling drilling(body, shells, whole, options);
    result.voids = drilling.voids();
    if (result.voids == 0 || !(options.drainDiameter > 0)) return {};
    const std::vector<Drain> drains = options.at.empty() ? drilling.proposed() : drilling.asked();
    Mesh drilled = result.mesh;
    std::ptrdiff_t euler = measure::eulerOf(drilled, whole.edges());
    for (std::size_t i = 0; i < drains.size(); ++i) {
        const auto count = static_cast<double>(drains.size());
        mesh::PartOfProgress part(progress, static_cast<double>(i) / count, static_cast<double>(i + 1) / count);
        const auto drill = drilling.drill(drains[i]);
        if (!drill) {
            result.undrilled.push_back(drains[i].to);
            continue;
        }
        Mesh prism;
        addPrism(prism, drill->from, drill->to, 0.5 * options.drainDiameter);
        mesh::PartOfProgress cutting(part, 0, 0.7);
        auto cut = fit::fuse(drilled, {},
                             {.with = &prism,
                              .solid = arrange::Solid::Difference,
                              .precision = options.precision,
                              .slivers = tolerance::needleHeight * mesh::boxOf(drilled).diagonal()},
                             cutting);
        if (!cut) return mesh::errorOf(cut);
        const check::Surveyed after(cut->mesh);
        mesh::PartOfProgress looking(part, 0.7, 1);
        const auto survey = after.survey({}, looking);
        if (!survey) return mesh::errorOf(survey);
        // A hole from one side of a wall to the other takes two discs away and gives a tube.
        const std::ptrdiff_t eulerAfter = measure::eulerOf(after.mesh(), after.edges());
        if (!(*survey)->solid || eulerAfter != euler - 2) {
            result.undrilled.push_back(drains[i].to);
            continue;
        }
        euler = eulerAfter;
        drilled = std::move(cut->mesh);
        result.drains.push_back(drains[i]);
    }
    result.mesh = std::move(drilled);
    return {};
}

}  // namespace

mesh::Outcome<Hollowed> hollow(const check::Surveyed& s, const HollowOptions& options, mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    mesh::PartOfProgress looking(progress, 0, 0.1);
    const auto survey = s.survey(s.knownOptions(), looking);
    if (!survey) return mesh::errorOf(survey);
    if (!(*survey)->solid)
        return mesh::badInput("the surface is no solid, so that nothing tells where it is full: repair it first");
    if (!(options.wall > 0)) return mesh::badInput("a wall must be above 0");
    if (const std::string wrong =
            DistanceField(s, DistanceField::Body::Shrunk, options.wall).wrongWith(options.cell, options.precision);
        !wrong.empty())
        return mesh::badInput(wrong);
    Hollowed result;
    Distances distances;
    mesh::PartOfProgress carving(progress, 0.1, 0.6);
    auto skin = skinOfVoids(s, options, distances, carving);
    if (!skin) return mesh::errorOf(skin);
    const check::Surveyed voids(skin->mesh);
    Mesh inner = withoutCrumbs(voids, options.wall, result);
    if (result.crumbs > 0 && result.made > 0) distances = distancesFrom(inner, s.tree());
    result.thinnest = distances.least;
    result.thickest = distances.greatest;
    result.points = distances.points;
    result.mesh = m;
    if (m.regions.empty()) {
        mesh::appendPart(result.mesh, inner);
    } else {
        inner.regions.assign(inner.triangles.size(), 0);
        inner.regionNames = {"inner skin"};
        mesh::append(result.mesh, inner);
    }
    mesh::PartOfProgress drilling(progress, 0.6, 0.9);
    if (options.drains > 0 || !options.at.empty())
        if (auto drilled = drillAll(s, (*survey)->shells, options, result, drilling); !drilled)
            return mesh::errorOf(drilled);
    // Coordinates far from the origin may be too coarse for the wall.
    mesh::PartOfProgress last(progress, 0.9, 1);
    const auto after = check::Surveyed(result.mesh).survey({}, last);
    if (!after) return mesh::errorOf(after);
    if (!(*after)->solid)
        return mesh::badInput(
            fmt::format("a wall of {:.3g} is too thin for the coordinates of this part: move it to the origin first",
                        options.wall));
    result.removed = (*survey)->mass.volume - measure::massOf(result.mesh).volume;
    if (!progress.report(1)) return mesh::cancelled();
    return result;
}

}  // namespace zither::shape
