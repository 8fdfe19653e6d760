// How steep what faces down is, towards the build direction.
#include <algorithm>
#include <cmath>
#include <numbers>

#include "mesh/parallel.h"
#include "session/lens/colours.h"

namespace zither::session {
namespace {

mesh::Outcome<Coat> coat(const LensView& view, mesh::Progress&) {
    const mesh::Mesh& m = view.part.mesh();
    const auto& direction = view.survey.options.up;
    const mesh::Point up = mesh::Point(direction[0], direction[1], direction[2]).normalized();
    std::vector<double> slopes(m.triangles.size(), 90);
    mesh::parallelFor(slopes.size(), 4096, [&](std::size_t t) {
        const mesh::Point normal = mesh::areaVector(m, static_cast<mesh::TriangleId>(t));
        const double length = normal.norm();
        if (!(length > 0) || !(normal.dot(up) < 0)) return;
        slopes[t] = std::acos(std::clamp(-normal.dot(up) / length, 0.0, 1.0)) * 180 / std::numbers::pi;
    });
    Legend legend;
    legend.title = "Slope of what faces down";
    legend.unit = "°";
    return coatOfValues(slopes, {0, 90, true}, std::move(legend));
}

}  // namespace

constinit const Lens slopeLens = {
    .name = "slope", .help = "How steep what faces down is, towards the build direction.", .coat = coat};

}  // namespace zither::session
