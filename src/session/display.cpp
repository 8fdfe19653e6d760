// Corners for the card, a clustered stand-in, and the lines of each class.
#include "session/display.h"

#include <algorithm>
#include <cmath>
#include <unordered_map>

#include "check/catalogue.h"
#include "mesh/parallel.h"
#include "mesh/tolerances.h"
#include "session/inks.h"
#include "session/lens/colours.h"
#include "session/numbers.h"

namespace zither::session {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

std::vector<float> cornersOf(const Mesh& m, const Point& origin) {
    std::vector<float> corners(9 * m.triangles.size());
    mesh::parallelFor(m.triangles.size(), 4096, [&](std::size_t t) {
        for (unsigned k = 0; k < 3; ++k) {
            const Point p = m.corner(static_cast<TriangleId>(t), k) - origin;
            for (int i = 0; i < 3; ++i) corners[9 * t + 3 * k + static_cast<unsigned>(i)] = static_cast<float>(p[i]);
        }
    });
    return corners;
}

// Segments of each class, in floats relative to the origin.
void addLines(Display& d, const check::Survey& survey) {
    constexpr std::size_t most = 400'000;
    check::Segments segments;
    for (const check::DefectClass defect : check::catalogue()) {
        segments.clear();
        defect->draw({d.mesh(), survey, most}, defect, segments);
        if (segments.empty()) continue;
        DefectLines& lines = d.lines.emplace_back(DefectLines{defect, {}});
        lines.points.reserve(3 * segments.size());
        for (const Point& p : segments)
            for (int i = 0; i < 3; ++i) lines.points.push_back(static_cast<float>(p[i] - d.origin[i]));
    }
}

}  // namespace

Mesh clusteredStandIn(const Mesh& m, std::size_t most) {
    const mesh::Box box = mesh::boxOf(m);
    // A surface in an n^3 grid touches about 2 n^2 cells, each with about two triangles; coarser until it fits.
    double cells = std::sqrt(static_cast<double>(most) / 3);
    for (;; cells *= 0.85) {
        const double size = std::max(box.extent().maxCoeff() / cells, tolerance::aboveZero);
        std::unordered_map<std::uint64_t, mesh::VertexId> cellVertex;
        std::vector<mesh::VertexId> cluster(m.positions.size());
        Mesh result;
        for (std::size_t v = 0; v < m.positions.size(); ++v) {
            const Eigen::Array3d c = ((m.positions[v] - box.min).array() / size).floor();
            const std::uint64_t key = (static_cast<std::uint64_t>(c[0]) << 42) |
                                      (static_cast<std::uint64_t>(c[1]) << 21) | static_cast<std::uint64_t>(c[2]);
            const auto [it, fresh] = cellVertex.emplace(key, static_cast<mesh::VertexId>(result.positions.size()));
            if (fresh) result.positions.push_back(m.positions[v]);
            cluster[v] = it->second;
        }
        for (const mesh::Triangle& t : m.triangles) {
            const mesh::Triangle c = {cluster[t[0]], cluster[t[1]], cluster[t[2]]};
            if (!mesh::isCollapsed(c)) result.triangles.push_back(c);
        }
        if (result.triangles.size() <= most) return result;
    }
}

mesh::Outcome<std::shared_ptr<const Display>> prepareDisplay(const check::SurveyedPtr& part,
                                                             const check::Survey& survey, mesh::Progress& progress,
                                                             std::size_t most) {
    auto d = std::make_shared<Display>();
    d->part = part;
    d->box = survey.mass.size;
    d->origin = d->box.centre();
    const std::size_t count = d->mesh().triangles.size();
    if (count <= most) d->corners = cornersOf(d->mesh(), d->origin);
    if (!progress.report(0.3)) return mesh::cancelled();
    if (count > std::min(most, standInTriangles))
        d->standIn = cornersOf(clusteredStandIn(d->mesh(), standInTriangles), d->origin);
    if (!progress.report(0.6)) return mesh::cancelled();
    static_cast<void>(part->tree());
    addLines(*d, survey);
    if (!progress.report(1)) return mesh::cancelled();
    return std::shared_ptr<const Display>(std::move(d));
}

QString coarselyDrawn(const Display& display) {
    if (!display.corners.empty() || display.standIn.empty()) return {};
    return QString(
               "Drawn with %1 of %2 triangles: a graphics card cannot hold more at once. Counts, steps and exports "
               "use them all.")
        .arg(spaced(display.standIn.size() / 9), spaced(display.mesh().triangles.size()));
}

void paintPick(std::vector<std::uint32_t>& colours, const Mesh& m, const mesh::Pick& pick) {
    if (pick.everything()) return;
    if (colours.empty()) colours.assign(m.triangles.size(), packed(paper::clay));
    for (TriangleId t : pick.triangles())
        if (t < colours.size()) colours[t] = packed(paper::picked);
}

}  // namespace zither::session
