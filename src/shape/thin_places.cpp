// A sheet of middles, a skin around it by distance, and the union of that with the body.
#include "shape/thin_places.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "check/check_tolerances.h"
#include "fit/fuse.h"
#include "measure/numbers.h"
#include "measure/wall.h"
#include "mesh/parallel.h"
#include "shape/decimate.h"
#include "shape/distance_field.h"
#include "shape/shape_tolerances.h"
#include "space/triangle_tree.h"

namespace zither::shape {
namespace {

using mesh::Mesh;
using mesh::Outcome;
using mesh::Point;
using mesh::TriangleId;

measure::WallSurface wallSurface(const check::Surveyed& s) {
    return {s.mesh(), s.edges(), s.rays(), true};
}

Outcome<std::vector<measure::ThinPlace>> thinPlaces(const check::Surveyed& s, const std::vector<std::uint8_t>& chosen,
                                                    double wall, mesh::Progress& progress) {
    auto walls = measure::wallsOf(wallSurface(s), {.limit = wall}, progress);
    if (!walls) return mesh::errorOf(walls);
    if (!chosen.empty())
        std::erase_if(walls->places, [&](const measure::ThinPlace& p) {
            return std::none_of(p.triangles.begin(), p.triangles.end(), [&](TriangleId t) { return chosen[t]; });
        });
    return std::move(walls->places);
}

constexpr double unknown = std::numeric_limits<double>::infinity();

// How far it is through the body behind a point of a triangle; unknown where that is no less than the wall.
double thinBehind(const check::Surveyed& s, TriangleId t, const Point& p, const Point& normal, double wall) {
    constexpr double inside = 0.01;  // of the wall
    // Cosine: along an edge that is hardly sharper than a right angle there is no thin place.
    constexpr double opposite = 0.1;
    // From a little inside: a ray from an edge may meet the triangle beside it at once.
    const Point inward = mesh::centroid(s.mesh(), t) - p;
    const Point from = p + inward * std::min(1.0, inside * wall / inward.norm());
    const auto met = s.rays().firstBeyond({s.mesh(), t, from, -normal, wall});
    const bool thin =
        met && met->along < wall && mesh::areaVector(s.mesh(), met->triangle).normalized().dot(-normal) > opposite;
    return thin ? met->along : unknown;
}

// Small triangles halfway through what is thin behind this one: no longer than half the wall.
Mesh middlesBehind(const check::Surveyed& s, TriangleId t, double wall) {
    const Mesh& m = s.mesh();
    Mesh sheet;
    const Point normal = mesh::areaVector(m, t).normalized();
    if (normal.isZero()) return sheet;
    const Point& a = m.corner(t, 0);
    const Point u = m.corner(t, 1) - a;
    const Point v = m.corner(t, 2) - a;
    const double longest = std::max({u.norm(), v.norm(), (v - u).norm()});
    const auto parts = static_cast<std::uint32_t>(std::max(1.0, std::ceil(2 * longest / wall)));
    // Rows of points along u, one shorter each.
    const auto at = [&](std::uint32_t row, std::uint32_t column) {
        return row * (parts + 1) - row * (row - 1) / 2 + column;
    };
    std::vector<double> depth;
    for (std::uint32_t row = 0; row <= parts; ++row)
        for (std::uint32_t column = 0; column + row <= parts; ++column) {
            sheet.positions.emplace_back(a + (column * u + row * v) / parts);
            depth.push_back(thinBehind(s, t, sheet.positions.back(), normal, wall));
        }
    // What is beside a thin point is taken to be as thin.
    std::vector<double> taken = depth;
    const auto add = [&](std::uint32_t p, std::uint32_t q, std::uint32_t r) {
        const double least = std::min({depth[p], depth[q], depth[r]});
        if (least == unknown) return;
        sheet.triangles.push_back({p, q, r});
        for (const std::uint32_t corner : {p, q, r})
            if (depth[corner] == unknown) taken[corner] = std::min(taken[corner], least);
    };
    for (std::uint32_t row = 0; row < parts; ++row)
        for (std::uint32_t column = 0; column + row < parts; ++column) {
            add(at(row, column), at(row, column + 1), at(row + 1, column));
            if (column + row + 1 < parts) add(at(row, column + 1), at(row + 1, column + 1), at(row + 1, column));
        }
    for (std::size_t p = 0; p < taken.size(); ++p)
        if (taken[p] != unknown) sheet.positions[p] -= 0.5 * taken[p] * normal;
    return sheet;
}

Mesh middlesOf(const check::Surveyed& s, const std::vector<TriangleId>& triangles, double wall) {
    std::vector<Mesh> sheets(triangles.size());
    mesh::parallelFor(triangles.size(), 16, [&](std::size_t i) { sheets[i] = middlesBehind(s, triangles[i], wall); });
    Mesh all;
    for (const Mesh& sheet : sheets) mesh::appendPart(all, sheet);
    mesh::dropUnusedVertices(all);
    return all;
}

// All that is within half the wall of the sheet: at least that, where triangles cut corners.
Outcome<Mesh> bodyAround(const Mesh& sheet, double wall, mesh::Precision precision, mesh::Progress& progress) {
    // Fine enough to look round, and no more than some millions of triangles.
    constexpr double finest = 1.0 / 4;  // of the wall
    constexpr double most = 3e6;
    const double cell = std::max(finest * wall, std::sqrt(2 * trianglesASquare * measure::massOf(sheet).area / most));
    const check::Surveyed s(sheet);
    // Triangles cut about 1.4 cells off a circle of that radius, and more where there are fewer of them.
    double radius = (0.5 + tolerance::wallShort + tolerance::thickerSkin) * wall + 0.6 * cell * cell / wall;
    if (!(2 * cell <= radius)) return mesh::badInput(fmt::format("{:.3g} is too little for a part of this size", wall));
    if (const std::string wrong = DistanceField(s, DistanceField::Body::Around, radius).wrongWith(cell, precision);
        !wrong.empty())
        return mesh::badInput(wrong);
    constexpr int tries = 3;
    for (int i = 0;; ++i) {
        mesh::PartOfProgress part(progress, static_cast<double>(i) / tries, static_cast<double>(i + 1) / tries);
        mesh::PartOfProgress contouring(part, 0, 0.8);
        const DistanceField field(s, DistanceField::Body::Around, radius);
        auto skin = contour(field, field.gridOf(cell), precision, contouring);
        if (!skin) return mesh::errorOf(skin);
        // Where it is flat or straight it needs no triangles as small as the cells.
        mesh::PartOfProgress reducing(part, 0.8, 1);
        auto fewer = decimate(check::Surveyed(std::move(skin->mesh)), mesh::Pick(),
                              {.maxDeviation = tolerance::thickerSkin * wall, .oneStep = true}, reducing);
        if (!fewer) return mesh::errorOf(fewer);
        if (fewer->mesh.triangles.empty()) return std::move(fewer->mesh);
        const double short_ = 0.5 * wall - distancesFrom(fewer->mesh, s.tree()).least;
        if (short_ <= 0 || i + 1 == tries) return std::move(fewer->mesh);
        radius += short_ + tolerance::wallShort * wall;
    }
}

// What is not as near as the wall to any of the points.
Mesh awayFrom(const std::vector<Point>& points, const Mesh& sheet, double wall) {
    Mesh spots;  // each a triangle without area
    spots.positions = points;
    for (std::uint32_t i = 0; i < points.size(); ++i) spots.triangles.push_back({i, i, i});
    const space::TriangleTree tree(spots);
    std::vector<std::uint8_t> kept(sheet.triangles.size());
    mesh::parallelFor(kept.size(), 1024, [&](std::size_t t) {
        kept[t] = !tree.reaches(mesh::centroid(sheet, static_cast<TriangleId>(t)), wall);
    });
    return mesh::keepTriangles(sheet, kept);
}

// The body with that around the sheet.
struct Covered {
    check::SurveyedPtr part;          // nullptr: it is no solid
    double farthest = 0;              // of what was put there from `from`
    std::vector<Point> unsound = {};  // places that could not be settled, and where nothing was put therefore
};

Outcome<Covered> covered(const check::Surveyed& now, Mesh sheet, const check::Surveyed& from,
                         const ThinPlacesOptions& options, mesh::Progress& progress) {
    Covered result;
    constexpr int tries = 3;
    for (int i = 0; i < tries && !sheet.triangles.empty(); ++i) {
        mesh::PartOfProgress part(progress, static_cast<double>(i) / tries, static_cast<double>(i + 1) / tries);
        mesh::PartOfProgress making(part, 0, 0.5);
        const auto around = bodyAround(sheet, options.wall, options.precision, making);
        if (!around) return mesh::errorOf(around);
        mesh::PartOfProgress fusing(part, 0.5, 0.9);
        auto fused = fit::fuse(now, {},
                               {.with = &*around,
                                .precision = options.precision,
                                .slivers = tolerance::needleHeight * mesh::boxOf(from.mesh()).diagonal()},
                               fusing);
        if (!fused) return mesh::errorOf(fused);
        auto next = std::make_shared<const check::Surveyed>(std::move(fused->mesh));
        mesh::PartOfProgress looking(part, 0.9, 1);
        const auto after = next->survey({}, looking);
        if (!after) return mesh::errorOf(after);
        if ((*after)->solid) {
            result.part = std::move(next);
            result.farthest = distancesFrom(*around, from.tree()).greatest;
            return result;
        }
        if (fused->unsound.empty()) return result;
        sheet = awayFrom(fused->unsound, sheet, options.wall);
        result.unsound.insert(result.unsound.end(), fused->unsound.begin(), fused->unsound.end());
    }
    return result;
}

}  // namespace

Outcome<ThickerPlaces> thickenThinPlaces(const check::Surveyed& s, const mesh::Pick& pick,
                                         const ThinPlacesOptions& options, mesh::Progress& progress) {
    mesh::PartOfProgress asking(progress, 0, 0.1);
    const auto survey = s.survey(s.knownOptions(), asking);
    if (!survey) return mesh::errorOf(survey);
    if (!(*survey)->solid)
        return mesh::badInput("the surface is no solid, so that nothing tells its walls: repair it first");
    ThickerPlaces result{s.mesh()};
    std::vector<std::uint8_t> chosen = pick.everything() ? std::vector<std::uint8_t>() : pick.mask(s.mesh());
    // With all that is known of it; it outlives this.
    check::SurveyedPtr now(std::shared_ptr<void>(), &s);
    constexpr int rounds = 3;
    for (int round = 0; round <= rounds; ++round) {
        mesh::PartOfProgress part(progress, 0.1 + 0.9 * round / (rounds + 1), 0.1 + 0.9 * (round + 1) / (rounds + 1));
        mesh::PartOfProgress measuring(part, 0, 0.1);
        const auto places = thinPlaces(*now, chosen, options.wall, measuring);
        if (!places) return mesh::errorOf(places);
        double thinnest = std::numeric_limits<double>::infinity();
        std::vector<TriangleId> thin;
        for (const measure::ThinPlace& p : *places) {
            thinnest = std::min(thinnest, p.thinnest);
            thin.insert(thin.end(), p.triangles.begin(), p.triangles.end());
        }
        if (round == 0) {
            result.placesIn = places->size();
            result.thinnestIn = thinnest;
        }
        // A round that made it worse is none.
        if (round > 1 && places->size() > result.placesLeft) break;
        result.placesLeft = places->size();
        result.thinnestLeft = thinnest;
        if (round > 0) result.mesh = now->mesh();
        if (places->empty() || round == rounds) break;
        std::sort(thin.begin(), thin.end());
        thin.erase(std::unique(thin.begin(), thin.end()), thin.end());
        mesh::PartOfProgress making(part, 0.1, 1);
        auto next = covered(*now, middlesOf(*now, thin, options.wall), s, options, making);
        if (!next) return mesh::errorOf(next);
        result.unsound.insert(result.unsound.end(), next->unsound.begin(), next->unsound.end());
        if (!next->part) break;
        result.farthest = std::max(result.farthest, next->farthest);
        // What is picked goes on in what was put there.
        if (!chosen.empty()) {
            const measure::Kept kept = measure::keptOf(s.mesh(), next->part->mesh());
            chosen.assign(next->part->mesh().triangles.size(), 0);
            for (TriangleId t = 0; t < chosen.size(); ++t) chosen[t] = kept.in[t] ? 0 : 1;
        }
        now = std::move(next->part);
    }
    result.otherHoles =
        measure::eulerOf(result.mesh, mesh::Edges(result.mesh)) != measure::eulerOf(s.mesh(), s.edges());
    if (!progress.report(1)) return mesh::cancelled();
    return result;
}

}  // namespace zither::shape
