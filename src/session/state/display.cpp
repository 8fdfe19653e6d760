// Lines of each class, what a ray meets, and corners for the card.
#include "session/state/display.h"

#include <cmath>

#include "mesh/parallel.h"
#include "session/lens/colours.h"
#include "session/reading/palette.h"

namespace zither::session {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

mesh::Outcome<std::shared_ptr<const Display>> prepareDisplay(const check::SurveyedPtr& part,
                                                             const check::Survey& survey, mesh::Progress& progress) {
    auto d = std::make_shared<Display>();
    d->part = part;
    d->box = survey.mass.size;
    d->origin = d->box.centre();
    if (!progress.report(0)) return mesh::cancelled();
    static_cast<void>(part->rays());
    if (!progress.report(0.7)) return mesh::cancelled();
    d->lines = project::linesOf(d->mesh(), survey, d->origin);
    if (!progress.report(1)) return mesh::cancelled();
    return std::shared_ptr<const Display>(std::move(d));
}

namespace {

std::shared_ptr<Display> placed(const check::SurveyedPtr& part) {
    auto d = std::make_shared<Display>();
    d->part = part;
    d->box = mesh::boxOf(part->mesh());
    d->origin = d->box.centre();
    return d;
}

}  // namespace

std::shared_ptr<const Display> displayWithoutLines(const check::SurveyedPtr& part) {
    static_cast<void>(part->rays());
    return placed(part);
}

std::shared_ptr<const Display> glimpseOf(const check::SurveyedPtr& part) {
    constexpr std::size_t quicklyDone = 200'000;
    if (part->mesh().triangles.size() <= quicklyDone) return displayWithoutLines(part);
    auto d = placed(part);
    d->quickRays = std::make_unique<space::RayScene>(part->mesh(), space::RayScene::Spares::Building);
    return d;
}

namespace {

std::optional<TriangleId> firstSeen(const Display& display, const Point& from, const Point& direction,
                                    std::span<const std::uint8_t> unseen) {
    const space::RayScene& rays = display.rays();
    if (unseen.empty()) return rays.firstMet(from, direction);
    space::RayBundle one;
    one.direction = direction.normalized();
    one.from.fill(from);
    one.far.fill(-1);
    one.far[0] = (display.box.centre() - from).norm() + display.box.diagonal();
    space::RayHits hits;
    rays.meet(one, hits, unseen);
    return hits.triangle[0] == space::RayHits::none ? std::nullopt : std::optional(TriangleId(hits.triangle[0]));
}

}  // namespace

std::optional<Display::Met> Display::met(const Point& from, const Point& direction,
                                         std::span<const std::uint8_t> unseen) const {
    const auto triangle = firstSeen(*this, from, direction, unseen);
    if (!triangle) return std::nullopt;
    const Point normal = mesh::areaVector(mesh(), *triangle);
    const double slope = normal.dot(direction);
    const double along = normal.dot(mesh().corner(*triangle, 0) - from) / slope;
    if (std::isfinite(along)) return Met{*triangle, along};
    // Seen edge on.
    return Met{*triangle, direction.dot(mesh::centroid(mesh(), *triangle) - from) / direction.squaredNorm()};
}

std::vector<float> cornersForCard(const Display& display) {
    const Mesh& m = display.mesh();
    std::vector<float> corners(9 * m.triangles.size());
    mesh::parallelFor(m.triangles.size(), 4096, [&](std::size_t t) {
        for (unsigned k = 0; k < 3; ++k) {
            const Point p = m.corner(static_cast<TriangleId>(t), k) - display.origin;
            for (int i = 0; i < 3; ++i) corners[9 * t + 3 * k + static_cast<unsigned>(i)] = static_cast<float>(p[i]);
        }
    });
    return corners;
}

void paintPick(std::vector<std::uint32_t>& colours, const Mesh& m, const mesh::Pick& pick, const QColor& ink) {
    if (pick.everything()) return;
    if (colours.empty()) colours.assign(m.triangles.size(), packed(clay::face));
    for (TriangleId t : pick.triangles())
        if (t < colours.size()) colours[t] = packed(ink);
}

}  // namespace zither::session
