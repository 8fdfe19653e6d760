// How steep what faces down is, towards the build direction.
#include "measure/slope.h"
#include "mesh/parallel.h"
#include "session/lens/colours.h"

namespace zither::session {
namespace {

mesh::Outcome<Coat> coat(const LensView& view, mesh::Progress&) {
    const mesh::Mesh& m = view.part.mesh();
    const mesh::Point up = view.survey.options.upward();
    std::vector<double> slopes(m.triangles.size());
    mesh::parallelFor(slopes.size(), 4096,
                      [&](std::size_t t) { slopes[t] = measure::slopeDeg(m, static_cast<mesh::TriangleId>(t), up); });
    Legend legend;
    legend.title = "Slope of what faces down";
    legend.unit = "°";
    return coatOfValues(slopes, {0, 90, true}, std::move(legend));
}

}  // namespace

constinit const Lens slopeLens = {.name = "slope",
                                  .help = "How steep what faces down is, towards the build direction.",
                                  .measures = true,
                                  .coat = coat};

}  // namespace zither::session
